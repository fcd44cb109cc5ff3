package dachshund.engine.lane;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.withSettings;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.function.Predicate;
import java.util.stream.LongStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** One destination's journal, local store and writer on a store with faults; the clock is moved by hand, so pauses take no time. */
abstract class WriterRig {

    static final String A = "aaaaaaaa";
    static final String B = "bbbbbbbb";
    static final String C = "cccccccc";

    /** By the name of a method of the local store, whether it fails; for {@link #restartWhereTheDiskMayRefuse}. */
    volatile Predicate<String> refuses = method -> false;

    @TempDir
    Path folder;

    final FakeClock clock = new FakeClock();
    final CounterBook book = new CounterBook();
    FakeStore store = new FakeStore(1);
    SegmentJournal.Limits limits = new SegmentJournal.Limits(1 << 30, 0, 20_000, 1);
    Batching batching = Batching.AT_ONCE;
    LocalStore local;
    SegmentJournal journal;
    DestinationWriter writer;
    long epoch = 100;

    @BeforeEach
    void open() {
        open(new LocalStore(folder.resolve("local.db")));
    }

    private void open(LocalStore store) {
        local = store;
        Map.Entry<String, Long> known = local.journal("dest");
        journal = new SegmentJournal(
                folder.resolve("journal"),
                limits,
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                () -> {});
        writer = new DestinationWriter(
                "dest",
                "Records",
                journal,
                new Offered(folder.resolve("offered")),
                this.store,
                batching,
                local,
                book,
                clock);
    }

    @AfterEach
    void close() {
        writer.close();
        local.close();
    }

    /** @param anew the same store, opened by the caller */
    void restartWith(LocalStore anew) {
        close();
        epoch++;
        open(anew);
    }

    /**
     * Begins anew on a local store of which {@link #refuses} says what fails. It is told how to answer before any thread asks:
     * what is asked by others cannot be told meanwhile.
     */
    void restartWhereTheDiskMayRefuse() {
        restartWith(mock(
                LocalStore.class,
                withSettings().useConstructor(folder.resolve("local.db")).defaultAnswer(call -> {
                    if (refuses.test(call.getMethod().getName())) {
                        throw new IllegalStateException("the disk does not answer");
                    }
                    return call.callRealMethod();
                })));
    }

    void restart() {
        close();
        epoch++;
        open();
    }

    static RecorderDefinition recorder(String id, String table, boolean rowId, boolean mark) {
        Layout layout = rowId
                ? Layout.proposed()
                : new Layout(Layout.proposed().columns().stream()
                        .filter(column -> !column.isRowId())
                        .toList());
        return new RecorderDefinition(
                id,
                "Recorder " + id,
                "",
                List.of(new When.Every(Duration.ofSeconds(1))),
                layout,
                List.of(new Where("dest", table, new Upkeep(true, true), mark)));
    }

    void take(RecorderDefinition recorder, int from, int to) throws Journal.Full {
        LaneDesign design = writer.design(recorder);
        for (int n = from; n < to; n++) {
            RowId id = new RowId(local.installation(), recorder.id(), epoch, n, 0);
            List<Column> written = recorder.layout().written();
            Object[] cells = written.stream()
                    .map(column -> column.isRowId() ? (Object) id.toString() : clock.now())
                    .toArray();
            book.due(recorder.id(), clock.now(), 1);
            writer.take(design, new Row(id, clock.now(), cells));
        }
    }

    /** Rows are read when they are on disk. */
    void onDisk() {
        soon(() -> journal.durable() == journal.end());
    }

    void stepOn() {
        writer.step();
        clock.pass(Duration.ofMillis(300));
    }

    void steps(int count) {
        for (int i = 0; i < count; i++) {
            stepOn();
        }
    }

    /** Steps until it is so, moving the clock over every pause. */
    void until(Callable<Boolean> reached) {
        soon(() -> {
            stepOn();
            return reached.call();
        });
    }

    /** Steps until no row waits any more. */
    void drain() {
        until(() -> writer.waiting() == 0);
    }

    LaneStatus status(String recorder) {
        return writer.status(recorder).orElseThrow();
    }

    List<Long> sequences(String table) {
        return List.copyOf(store.rows(table)).stream()
                .map(row -> row.id().sequence())
                .toList();
    }

    static List<Long> upTo(int last) {
        return LongStream.rangeClosed(1, last).boxed().toList();
    }

    void adds(String recorder, long landed, long aside) {
        Account account = status(recorder).account();
        assertThat(account.difference()).as("%s", account).isZero();
        assertThat(account.landed()).as("%s", account).isEqualTo(landed);
        assertThat(account.aside()).as("%s", account).isEqualTo(aside);
    }
}
