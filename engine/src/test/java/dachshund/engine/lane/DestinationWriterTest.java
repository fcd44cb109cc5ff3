package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The way from journal to table under faults; the clock is moved by hand, so back-offs take no time. */
class DestinationWriterTest {

    private static final String A = "aaaaaaaa";
    private static final String B = "bbbbbbbb";

    @TempDir
    Path folder;
    private final FakeClock clock = new FakeClock();
    private final CounterBook book = new CounterBook();
    private FakeStore store = new FakeStore(1);
    private LocalStore local;
    private DestinationWriter writer;
    private long epoch = 100;

    @BeforeEach
    void open() {
        local = new LocalStore(folder.resolve("local.db"));
        writer = new DestinationWriter("dest", "Records", new SegmentJournal(folder.resolve("journal"), new SegmentJournal.Limits(1 << 30, 0, 50_000, 1), () -> { }),
                store, local, book, clock);
    }

    @AfterEach
    void close() {
        writer.close();
        local.close();
    }

    private void restart() {
        close();
        epoch++;
        open();
    }

    private static RecorderDefinition recorder(String id, String table, boolean rowId, boolean mark) {
        Layout layout = rowId ? Layout.proposed() : new Layout(Layout.proposed().columns().stream().filter(column -> !column.isRowId()).toList());
        return new RecorderDefinition(id, "Recorder " + id, "", List.of(new When.Every(Duration.ofSeconds(1))), layout,
                List.of(new Where("dest", table, new Upkeep(true, true), mark)));
    }

    private void take(RecorderDefinition recorder, int from, int to) throws Exception {
        int design = writer.design(recorder);
        for (int n = from; n < to; n++) {
            RowId id = new RowId(local.installation(), recorder.id(), epoch, n, 0);
            List<Column> written = recorder.layout().written();
            Object[] cells = written.stream().map(column -> column.isRowId() ? id.toString() : clock.now()).toArray();
            book.due(recorder.id(), clock.now(), 1);
            writer.take(design, new Row(id, clock.now(), cells));
        }
    }

    /** Steps until nothing is held any more, moving the clock over every pause. */
    private void drain() {
        await().pollDelay(Duration.ZERO).pollInterval(Duration.ofMillis(2)).atMost(Duration.ofSeconds(20)).until(() -> {
            stepOn();
            return writer.held() == 0;
        });
    }

    private void stepOn() {
        writer.step();
        clock.pass(Duration.ofMillis(300));
    }

    private void steps(int count) {
        for (int i = 0; i < count; i++) {
            stepOn();
        }
    }

    private List<Long> sequences(String table) {
        return store.rows(table).stream().map(row -> row.id().sequence()).toList();
    }

    private static List<Long> upTo(int last) {
        return java.util.stream.LongStream.rangeClosed(1, last).boxed().toList();
    }

    @Test
    void rowsLandInOrderAndTheTableIsMadeFirst() throws Exception {
        take(recorder(A, "a", true, false), 1, 2501);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(2500));
        assertThat(store.made).hasSize(1);
        assertThat(book.total(Outcome.LANDED)).isEqualTo(2500);
        assertThat(writer.status(A).orElseThrow().state()).isEqualTo(LaneState.RECORDING);
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6})
    void nothingIsLostOrDoubledWhateverBreaksAndWhenever(long seed) throws Exception {
        store = new FakeStore(seed);
        restart();
        store.awayBefore = 0.2;
        store.awayAfterCommit = 0.3;
        RecorderDefinition byId = recorder(A, "by_id", true, false);
        RecorderDefinition byMark = recorder(B, "by_mark", false, true);
        int n = 1;
        for (int round = 0; round < 25; round++) {
            take(byId, n, n + 40);
            take(byMark, n, n + 40);
            n += 40;
            steps(3);
            if (store.random.nextInt(6) == 0) {
                restart(); // rows that were on disk are there again, cursors may lie behind what was committed
                epoch--;
            }
        }
        drain();
        assertThat(sequences("by_id")).isEqualTo(upTo(1000));
        assertThat(sequences("by_mark")).isEqualTo(upTo(1000));
    }

    @Test
    void withoutIdentityOrMarkARowMayLandTwiceButNoneIsLost() throws Exception {
        store.awayAfterCommit = 0.3;
        RecorderDefinition bare = recorder(A, "bare", false, false);
        for (int n = 1; n <= 200; n += 10) {
            take(bare, n, n + 10);
            steps(2);
        }
        drain();
        assertThat(sequences("bare")).containsAll(upTo(200)).hasSizeGreaterThanOrEqualTo(200);
    }

    @Test
    void aRefusedRowIsSetAsideAndTheRowsAroundItLand() throws Exception {
        store.refused = row -> row.id().sequence() == 7 || row.id().sequence() == 650;
        take(recorder(A, "a", true, false), 1, 1001);
        drain();
        assertThat(store.rows("a")).hasSize(998);
        assertThat(sequences("a")).doesNotContain(7L, 650L).isSorted();
        assertThat(local.setAside(A, 10)).hasSize(2).allMatch(row -> row.reason().contains("out of range"));
        assertThat(book.total(Outcome.SET_ASIDE)).isEqualTo(2);
    }

    @Test
    void manyRefusalsInARowFaultTheLaneInsteadOfFillingTheStore() throws Exception {
        store.refused = row -> true;
        take(recorder(A, "a", true, false), 1, 501);
        await().until(() -> {
            stepOn();
            return writer.status(A).orElseThrow().state() == LaneState.FAULTED;
        });
        assertThat(writer.status(A).orElseThrow().sentence()).contains("100 rows in a row were refused");
        assertThat(local.setAsideCounts().get(A)).isEqualTo(100);
        store.refused = row -> false;
        drain();
        assertThat(store.rows("a")).hasSize(400);
    }

    @Test
    void aLockedTableStopsItsOwnLaneOnly() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 11);
        take(b, 1, 11);
        drain();
        store.lockedTable = "a";
        take(a, 11, 3011);
        take(b, 11, 3011);
        await().until(() -> {
            stepOn();
            return store.rows("b").size() == 3010;
        });
        assertThat(writer.status(A).orElseThrow().state()).isEqualTo(LaneState.FAULTED);
        assertThat(writer.status(A).orElseThrow().held()).isEqualTo(3000);
        assertThat(writer.status(B).orElseThrow().state()).isEqualTo(LaneState.RECORDING);
        store.lockedTable = "";
        take(a, 3011, 3021);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(3020));
    }

    @Test
    void whileTheDestinationIsAwayRowsAreHeldAndCountedAlsoOverARestart() throws Exception {
        store.away = true;
        take(recorder(A, "a", true, false), 1, 501);
        await().until(() -> {
            stepOn();
            return writer.status(A).orElseThrow().state() == LaneState.HOLDING;
        });
        assertThat(writer.status(A).orElseThrow().sentence()).contains("rows are safe on disk");
        restart();
        assertThat(writer.held()).isEqualTo(500);
        store.away = false;
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(500));
    }

    @Test
    void rowsHeldWhenADesignChangesLandByTheirOwnDesignFirst() throws Exception {
        store.away = true;
        take(recorder(A, "old_table", true, false), 1, 11);
        take(recorder(A, "new_table", true, false), 11, 21);
        steps(3);
        store.away = false;
        drain();
        assertThat(store.rows("old_table")).hasSize(10);
        assertThat(sequences("new_table")).first().isEqualTo(11L);
    }

    @Test
    void aTableThatMayNotBeMadeFaultsTheLaneWithASentence() throws Exception {
        RecorderDefinition strict = recorder(A, "a", true, false).withWheres(List.of(new Where("dest", "a", Upkeep.NONE, false)));
        take(strict, 1, 3);
        await().until(() -> {
            stepOn();
            return writer.status(A).orElseThrow().state() == LaneState.FAULTED;
        });
        assertThat(writer.status(A).orElseThrow().sentence()).contains("may not make it");
        assertThat(store.made).isEmpty();
        assertThat(writer.held()).isEqualTo(2);
    }
}
