package dachshund.engine;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Made;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.When;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.LaneState;
import dachshund.engine.live.AtWork;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.ArgumentCaptor;

/** The engine as a whole, with a link and a store that do nothing by themselves. */
class EngineTest {

    private static final TagRef OUTLET = new TagRef("a0000001", "outlet");
    private static final SourceDefinition SOURCE = new SourceDefinition(
            "a0000001",
            "Plant",
            "",
            "fake",
            Map.of("address", "x"),
            Duration.ofSeconds(1),
            List.of(new TagInfo("outlet", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false)));
    private static final DestinationDefinition RECORDS =
            new DestinationDefinition("b0000001", "Records", "", "fake", Map.of());
    private static final RecorderDefinition RECORDER = new RecorderDefinition(
            "c0000001",
            "Dryer log",
            "",
            List.of(new When.Every(Duration.ofMillis(100))),
            Layout.proposed()
                    .plus(Column.of(
                            "outlet", SqlType.DOUBLE, new ColumnSource.FromTag(OUTLET, ColumnSource.Aspect.VALUE))),
            List.of(new Where("b0000001", "dryer_log", new Upkeep(true, true), false)));
    private static final List<Definition> ALL = List.of(SOURCE, RECORDS, RECORDER);

    @TempDir
    Path folder;

    private final PlantLink link = mock(PlantLink.class);
    private final LinkKind linkKind = mock(LinkKind.class);
    private final RowStore store = mock(RowStore.class);
    private final StoreKind storeKind = mock(StoreKind.class);
    private Engine engine;

    @BeforeEach
    void open() throws StoreProblem {
        when(linkKind.id()).thenReturn("fake");
        when(linkKind.open(any())).thenReturn(link);
        when(storeKind.id()).thenReturn("fake");
        when(storeKind.open(any(), any())).thenReturn(store);
        when(storeKind.openReading(any(), any())).thenCallRealMethod();
        when(store.dialect()).thenReturn(new StandardDialect());
        when(store.describe(any())).thenReturn(java.util.Optional.empty());
        when(store.landed(any())).thenReturn(Set.of());
        when(store.in(any())).thenReturn(store);
        start();
    }

    private void start() {
        engine = new Engine(new Engine.Settings(
                folder,
                "Quillmoor",
                ZoneOffset.UTC,
                new SystemClock(),
                new SecretBox(new byte[32]),
                dachshund.core.reach.Outside.ANYWHERE,
                List.of(linkKind),
                List.of(storeKind),
                new SegmentJournal.Limits(1 << 30, 0, 1 << 20, 5)));
    }

    @AfterEach
    void close() {
        engine.close();
    }

    private PlantLink.Listener listener() {
        ArgumentCaptor<PlantLink.Listener> captor = ArgumentCaptor.forClass(PlantLink.Listener.class);
        verify(link).start(captor.capture(), any());
        return captor.getValue();
    }

    private LaneState state() {
        return engine.status().get(RECORDER.id()).state();
    }

    @Test
    void aSourceThatIsAwayMakesItsValuesBadAndTheColumnNull() {
        engine.changeover(ALL, List.of(SOURCE));
        PlantLink.Listener plant = listener();
        plant.onState(LinkState.CONNECTED, "Connected.");
        plant.onBatch(List.of(new TagChange("outlet", TagValue.good(101.5, Instant.now()))));
        assertThat(((Made.Whole) engine.preview(RECORDER, engine.plant(ALL)).get(0))
                        .row()
                        .cells()[2])
                .isEqualTo(101.5);
        plant.onState(LinkState.AWAY, "The connection broke.");
        assertThat(((Made.Whole) engine.preview(RECORDER, engine.plant(ALL)).get(0))
                        .row()
                        .cells()[2])
                .isNull();
        assertThat(engine.sources().find(SOURCE.id()).orElseThrow().status().sentence())
                .isEqualTo("The connection broke.");
    }

    @Test
    void anEqualSourceIsNotInterruptedByAReleaseAndANewTagIsAskedForOnTheSameLink() {
        engine.changeover(ALL, List.of(SOURCE));
        engine.changeover(List.of(SOURCE, RECORDS, RECORDER.withName("Other")), List.of(SOURCE));
        engine.look(List.of(SOURCE.withTags(List.of())));
        verify(linkKind, times(1)).open(any());
        verify(link).want(List.of());
    }

    @Test
    void aKindWhoseChangeoverBreaksOffSaysSoAndKeepsNoOtherFromWork() {
        AtomicBoolean broken = new AtomicBoolean(true);
        AtWork<RecorderDefinition> second = new AtWork<>() {
            @Override
            public Class<RecorderDefinition> type() {
                return RecorderDefinition.class;
            }

            @Override
            public void changeover(List<RecorderDefinition> live, Plant plant) {
                if (broken.get()) {
                    throw new AssertionError("a defect");
                }
            }

            @Override
            public void tryOut(RecorderDefinition recorder, Plant plant) {}

            @Override
            public String refused(String id) {
                return "";
            }
        };
        engine.add(second);
        engine.changeover(ALL, List.of(SOURCE));
        soon(() -> state() == LaneState.RECORDING);
        assertThat(engine.refused(RECORDER.id())).contains("is not known").contains("a defect");
        assertThat(engine.refused(RECORDS.id())).isEmpty();
        broken.set(false);
        engine.changeover(ALL, List.of(SOURCE));
        assertThat(engine.refused(RECORDER.id())).isEmpty();
    }

    @Test
    void stoppingActsAtOnceAndOutlivesARestart() {
        engine.changeover(ALL, List.of(SOURCE));
        soon(() -> state() == LaneState.RECORDING);
        engine.recorders().stop(RECORDER.id(), "ann", "screen change");
        assertThat(state()).isEqualTo(LaneState.STOPPED);
        assertThat(engine.status().get(RECORDER.id()).sentence()).isEqualTo("Stopped by ann: screen change");
        engine.close();
        start();
        engine.changeover(ALL, List.of(SOURCE));
        assertThat(state()).isEqualTo(LaneState.STOPPED);
        engine.recorders().start(RECORDER.id());
        soon(() -> state() == LaneState.RECORDING);
    }

    @Test
    void everyStartHasALargerEpochSoThatNoRowIdIsUsedTwice() {
        long first = ((Made.Whole) engine.preview(RECORDER, engine.plant(ALL)).get(0))
                .row()
                .id()
                .epoch();
        engine.close();
        start();
        assertThat(((Made.Whole) engine.preview(RECORDER, engine.plant(ALL)).get(0))
                        .row()
                        .id()
                        .epoch())
                .isGreaterThan(first);
    }
}
