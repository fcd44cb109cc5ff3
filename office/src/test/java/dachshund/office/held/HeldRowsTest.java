package dachshund.office.held;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.HeldRow;
import dachshund.engine.lane.LaneDesign;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** More rows than a page waits for, of more than one design; the writer is a list. */
class HeldRowsTest {

    private static final Column TEXT = Column.of("words", SqlType.read("varchar(40)"), new ColumnSource.Constant("x"));
    private static final Instant NOON = Instant.parse("2026-05-01T12:00:00Z");

    private final Engine engine = mock(Engine.class);
    private final Definitions definitions = mock(Definitions.class);
    private final DestinationWriter writer = mock(DestinationWriter.class);
    private final HeldRows held = new HeldRows(definitions, engine);
    private final List<HeldRow> rows = new ArrayList<>();
    private final AtomicLong settled = new AtomicLong();

    private static RecorderDefinition design(String table, SqlType type) {
        return new RecorderDefinition(
                "00000001",
                "Tall",
                "",
                List.of(new When.Every(Duration.ofSeconds(1))),
                new Layout(List.of(TEXT.typed(type))),
                List.of(new Where("00000002", table, Upkeep.NONE, false)));
    }

    private void hold(int count, RecorderDefinition design, String text) {
        for (int i = 0; i < count; i++) {
            long nth = rows.size() + 1L;
            rows.add(new HeldRow(
                    nth,
                    Optional.of(LaneDesign.of(design)),
                    "somewhere",
                    Optional.of(new Row(new RowId("aaaaaa", "00000001", 1, nth, 0), NOON, new Object[] {text})),
                    ""));
        }
    }

    @BeforeEach
    void writer() {
        when(engine.zone()).thenReturn(ZoneId.of("UTC"));
        when(engine.writer("00000002")).thenReturn(Optional.of(writer));
        when(writer.status(any())).thenReturn(Optional.empty());
        when(writer.last("00000001")).thenAnswer(asked -> (long) rows.size());
        when(writer.settled("00000001")).thenAnswer(asked -> settled.get());
        when(writer.held(any(), anyLong(), anyInt())).thenAnswer(asked -> {
            long after = asked.getArgument(1);
            int most = asked.getArgument(2);
            return CompletableFuture.completedFuture(rows.stream()
                    .filter(row -> row.nth() > after && row.nth() > settled.get())
                    .limit(most)
                    .toList());
        });
    }

    private void released(RecorderDefinition design) {
        when(definitions.live("00000001")).thenReturn(Optional.of(design));
    }

    private HeldRows.Rehearsed rehearsed() {
        return held.rehearsed("00000001", "00000002");
    }

    private HeldRows.Rehearsed all(Progress progress) {
        return held.rehearseAll("00000001", "00000002", held.last("00000001", "00000002"), progress);
    }

    @Test
    void whatStandsBehindTheFirstFiveThousandIsLookedAtToo() {
        hold(7_300, design("before", SqlType.read("varchar(40)")), "short");
        hold(400, design("before", SqlType.read("varchar(40)")), "much longer than six");
        released(design("now", SqlType.read("varchar(6)")));
        assertThat(rehearsed().all()).isFalse();
        assertThat(rehearsed().looked()).isEqualTo(5_000);
        assertThat(rehearsed().fit()).isEqualTo(5_000);

        HeldRows.Rehearsed all = all(Progress.UNHEARD);
        assertThat(all.all()).isTrue();
        assertThat(all.looked()).isEqualTo(7_700);
        assertThat(all.fit()).isEqualTo(7_300);
        assertThat(all.other()).isTrue();
        assertThat(all.aside().values()).containsExactly(400L);
        assertThat(all.first().orElseThrow().cells()).containsExactly("short");
        assertThat(rehearsed()).as("kept for the page").isEqualTo(all);

        settled.set(10);
        assertThat(rehearsed().all()).as("some have landed since").isFalse();
        settled.set(0);
        released(design("now", SqlType.read("varchar(7)")));
        assertThat(rehearsed().all()).as("another release").isFalse();
    }

    @Test
    void aPatternOfBeforeIsFoundWhereverItStands() {
        hold(6_000, design("line_{words}", SqlType.read("varchar(40)")), "a");
        hold(1, design("hall_{words}", SqlType.read("varchar(40)")), "a");
        released(design("line_{words}", SqlType.read("varchar(40)")));
        assertThat(rehearsed().refusal()).isEmpty();
        assertThat(all(Progress.UNHEARD).refusal()).contains("hall_{words} was the one");
    }

    @Test
    void rowsThatComeWhileItGoesOnAreNotLookedAtAndItCanBeEnded() {
        hold(2_500, design("before", SqlType.read("varchar(40)")), "short");
        released(design("now", SqlType.read("varchar(6)")));
        long last = held.last("00000001", "00000002");
        hold(2_500, design("before", SqlType.read("varchar(40)")), "later");
        assertThat(held.rehearseAll("00000001", "00000002", last, Progress.UNHEARD)
                        .looked())
                .isEqualTo(2_500);
        held.discard("00000001", "00000002", 0);
        Progress ended = new Progress() {
            @Override
            public void step(String words, long of, boolean mayEnd) {
                assertThat(mayEnd).isTrue();
            }

            @Override
            public void done(long n) {
                throw new Ended();
            }
        };
        assertThatThrownBy(() -> all(ended)).isInstanceOf(Progress.Ended.class);
        assertThat(rehearsed().all()).as("nothing is kept of what was ended").isTrue();
    }

    @Test
    void whatWasRehearsedIsWhatIsGivenAndNothingWhereAnotherDesignWasReleasedMeanwhile() {
        hold(3, design("before", SqlType.read("varchar(40)")), "short");
        RecorderDefinition now = design("now", SqlType.read("varchar(6)"));
        released(now);
        HeldRows.Rehearsed rehearsed = all(Progress.UNHEARD);
        released(design("now", SqlType.read("varchar(3)")));
        assertThatThrownBy(() -> held.give("00000001", "00000002", rehearsed))
                .hasMessageContaining("Another design was released");
        verify(writer, never()).give(any(), anyLong(), any(), any());
        released(now);
        held.give("00000001", "00000002", rehearsed);
        verify(writer).give("00000001", 3, now, ZoneId.of("UTC"));
    }

    @Test
    void aWriterThatIsBusyIsSaidAndOneThatFailsToo() {
        released(design("now", SqlType.read("varchar(6)")));
        when(writer.held(any(), anyLong(), anyInt())).thenReturn(new CompletableFuture<>());
        assertThatThrownBy(this::rehearsed)
                .isInstanceOf(HeldRows.Busy.class)
                .hasMessageContaining("has not come to this in 3 s");
        when(writer.held(any(), anyLong(), anyInt()))
                .thenReturn(CompletableFuture.failedFuture(new IllegalStateException("torn")));
        assertThatThrownBy(this::rehearsed).hasMessageContaining("could not be read");
    }

    @Test
    void aThousandReasonsAreNotAThousandLines() {
        for (int i = 0; i < 1_000; i++) {
            rows.add(new HeldRow(i + 1, Optional.empty(), "", Optional.empty(), "damaged at " + i));
        }
        released(design("now", SqlType.read("varchar(6)")));
        assertThat(rehearsed().aside()).hasSize(201).containsEntry("other reasons", 800L);
    }
}
