package dachshund.engine;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
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
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** A whole engine over a link and databases that do what a test wants. */
public abstract class EngineRig {

    protected static final TagRef LEVEL = new TagRef("a0000001", "level");
    protected static final SourceDefinition GOOD = source("a0000001", "good");
    protected static final DestinationDefinition RECORDS =
            new DestinationDefinition("b0000001", "Records", "", "good", Map.of());
    protected static final RecorderDefinition EVERY =
            recorder("c0000001", new When.Every(Duration.ofMillis(50)), valueOf(LEVEL));

    @TempDir
    Path folder;

    protected static final DestinationDefinition SECOND =
            new DestinationDefinition("b0000009", "Second", "", "good", Map.of("is", "second"));

    protected final List<Row> landed = Collections.synchronizedList(new ArrayList<>());
    protected final List<Row> landedInSecond = Collections.synchronizedList(new ArrayList<>());
    protected final AtomicBoolean away = new AtomicBoolean();
    /** The table is in somebody else's use. */
    protected final AtomicBoolean locked = new AtomicBoolean();

    protected final AtomicBoolean secondAway = new AtomicBoolean();
    protected final PlantLink link = mock(PlantLink.class);
    protected final LinkKind good = kind("good", link);
    protected final List<LinkKind> kinds = new ArrayList<>(List.of(good));
    protected final StoreKind storeKind = mock(StoreKind.class);
    protected Engine engine;

    protected static LinkKind kind(String id, PlantLink link) {
        LinkKind kind = mock(LinkKind.class);
        when(kind.id()).thenReturn(id);
        when(kind.outside()).thenReturn(true);
        when(kind.open(any())).thenReturn(link);
        return kind;
    }

    protected static SourceDefinition source(String id, String link) {
        return new SourceDefinition(
                id,
                "Source " + id,
                "",
                link,
                Map.of(),
                Duration.ofSeconds(1),
                List.of(new TagInfo("level", "", "Level", DataKind.NUMBER, "", "", true)));
    }

    protected static Column valueOf(TagRef tag) {
        return Column.of("v", SqlType.DOUBLE, new ColumnSource.FromTag(tag, ColumnSource.Aspect.VALUE));
    }

    protected static RecorderDefinition recorder(String id, When when, Column column) {
        return new RecorderDefinition(
                id,
                "Recorder " + id,
                "",
                List.of(when),
                Layout.proposed().plus(column),
                List.of(new Where("b0000001", "t_" + id, new Upkeep(true, true), false)));
    }

    @BeforeEach
    void open() throws Exception {
        when(storeKind.id()).thenReturn("good");
        when(storeKind.dialect()).thenReturn(new StandardDialect());
        when(storeKind.openReading(any(), any())).thenCallRealMethod();
        when(storeKind.open(any(), any())).thenAnswer(call -> {
            Map<String, String> settings = call.getArgument(0);
            return settings.containsKey("is") ? store(landedInSecond, secondAway) : store(landed, away);
        });
    }

    protected RowStore store(List<Row> there, AtomicBoolean away) throws Exception {
        RowStore store = mock(RowStore.class);
        when(store.dialect()).thenReturn(new StandardDialect());
        when(store.describe(any())).thenReturn(Optional.empty());
        when(store.canFind(any())).thenReturn(true);
        when(store.landed(any())).thenAnswer(call -> {
            answer(away);
            RowBatch batch = call.getArgument(0);
            Set<RowId> found = new HashSet<>(batch.rows().stream().map(Row::id).toList());
            found.retainAll(List.copyOf(there).stream().map(Row::id).toList());
            return found;
        });
        when(store.in(anyString())).thenReturn(store);
        when(store.allOrNothing()).thenReturn(true);
        when(store.tellsOfAll()).thenReturn(true);
        when(store.atOnceBeside()).thenReturn(1);
        doAnswer(call -> {
                    answer(away);
                    if (locked.get()) {
                        throw new StoreProblem(StoreProblem.Kind.BUSY, 0, "The table is locked.", null);
                    }
                    List<RowBatch> batches = call.getArgument(0);
                    batches.forEach(batch -> there.addAll(batch.rows()));
                    return null;
                })
                .when(store)
                .write(any());
        return store;
    }

    protected static void answer(AtomicBoolean away) throws StoreProblem {
        if (away.get()) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "The database is away.", null);
        }
    }

    protected void start(List<SourceDefinition> sources, Definition... rest) {
        engine = new Engine(new Engine.Settings(
                folder,
                "Quillmoor",
                ZoneOffset.UTC,
                new SystemClock(),
                new SecretBox(new byte[32]),
                dachshund.core.reach.Outside.ANYWHERE,
                kinds,
                List.of(storeKind),
                new SegmentJournal.Limits(1 << 30, 0, 1 << 20, 5)));
        changeover(sources, rest);
    }

    protected void changeover(List<SourceDefinition> sources, Definition... rest) {
        List<Definition> all = new ArrayList<>(sources);
        all.addAll(List.of(rest));
        engine.changeover(all, sources);
    }

    @AfterEach
    void close() {
        long from = System.nanoTime();
        engine.close();
        assertThat(Duration.ofNanos(System.nanoTime() - from))
                .as("a stop, whatever hangs")
                .isLessThan(Duration.ofSeconds(15));
    }

    protected long rowsOf(RecorderDefinition recorder) {
        return List.copyOf(landed).stream()
                .filter(row -> row.id().recorder().equals(recorder.id()))
                .count();
    }

    protected void goesOn(RecorderDefinition recorder) {
        long before = rowsOf(recorder);
        soon(() -> rowsOf(recorder) > before + 10);
    }

    protected void offer(String source, Object value) {
        engine.tags().offer(source, List.of(new TagChange("level", TagValue.good(value, Instant.now()))));
    }
}
