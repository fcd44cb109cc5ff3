package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
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
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import java.util.stream.LongStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** One lane's store throws, refuses, hangs, lies or is lost: every other lane goes on, and the account adds up. */
class WhateverAStoreDoesTest {

    private static final String A = "aaaaaaaa";
    private static final String B = "bbbbbbbb";

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private final CounterBook book = new CounterBook();
    private final FakeStore store = new FakeStore(1);
    private SegmentJournal.Limits limits = new SegmentJournal.Limits(1 << 30, 0, 20_000, 1);
    private LocalStore local;
    private DestinationWriter writer;
    private long epoch = 100;

    @BeforeEach
    void open() {
        local = new LocalStore(folder.resolve("local.db"));
        Map.Entry<String, Long> known = local.journal("dest");
        SegmentJournal journal = new SegmentJournal(
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
                store,
                Batching.AT_ONCE,
                local,
                book,
                clock);
    }

    @AfterEach
    void close() {
        writer.close();
        local.close();
    }

    private static RecorderDefinition recorder(String id, String table, boolean rowId, boolean mark) {
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

    private void take(RecorderDefinition recorder, int from, int to) throws Journal.Full {
        LaneDesign design = writer.design(recorder);
        for (int n = from; n < to; n++) {
            RowId id = new RowId(local.installation(), recorder.id(), epoch, n, 0);
            List<Column> written = recorder.layout().written();
            Object[] cells = written.stream()
                    .map(column -> column.isRowId() ? (Object) id.toString() : clock.now())
                    .toArray();
            writer.take(design, new Row(id, clock.now(), cells));
        }
    }

    private void until(java.util.concurrent.Callable<Boolean> reached) {
        await().pollDelay(Duration.ZERO)
                .pollInterval(Duration.ofMillis(2))
                .atMost(Duration.ofSeconds(30))
                .until(() -> {
                    writer.step();
                    clock.pass(Duration.ofMillis(300));
                    return reached.call();
                });
    }

    private List<Long> sequences(String table) {
        return List.copyOf(store.rows(table)).stream()
                .map(row -> row.id().sequence())
                .toList();
    }

    private static List<Long> upTo(int last) {
        return LongStream.rangeClosed(1, last).boxed().toList();
    }

    private void adds(String recorder, long landed, long aside) {
        Account account = writer.status(recorder).orElseThrow().account();
        assertThat(account.difference()).as("%s", account).isZero();
        assertThat(account.landed()).as("%s", account).isEqualTo(landed);
        assertThat(account.aside()).as("%s", account).isEqualTo(aside);
    }

    static Stream<Supplier<Throwable>> anything() {
        return Stream.concat(
                Stream.of(Kind.values())
                        .filter(kind -> kind != Kind.AWAY
                                && kind != Kind.CONTENT
                                && kind != Kind.DUPLICATE
                                && kind != Kind.UNKNOWN)
                        .map(kind -> () -> new StoreProblem(kind, 0, "It said " + kind + ".", null)),
                Stream.of(
                        () -> new IllegalStateException("a driver's defect"),
                        () -> new NullPointerException(),
                        () -> new StackOverflowError(),
                        () -> new NoClassDefFoundError("org/example/Gone"),
                        () -> new AssertionError("never")));
    }

    private static void sneak(Throwable thrown) throws StoreProblem {
        if (thrown instanceof StoreProblem problem) {
            throw problem;
        }
        if (thrown instanceof RuntimeException runtime) {
            throw runtime;
        }
        throw (Error) thrown;
    }

    @ParameterizedTest
    @MethodSource("anything")
    void whatIsThrownAtOneLaneIsItsAffairAloneAndSaid(Supplier<Throwable> thrown) throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 11);
        take(b, 1, 11);
        until(() -> writer.waiting() == 0);
        boolean[] on = {true};
        store.thrower = batch -> {
            if (on[0] && batch.table().equals("a")) {
                sneak(thrown.get());
            }
        };
        take(a, 11, 15);
        for (int n = 11; n < 600; n += 10) {
            take(b, n, n + 10);
            writer.step();
            clock.pass(Duration.ofMillis(20));
        }
        until(() -> sequences("b").size() == 600);
        on[0] = false;
        until(() -> writer.waiting() == 0);
        assertThat(sequences("b")).isEqualTo(upTo(600));
        long aside = local.setAsideCounts().getOrDefault(A, 0L);
        assertThat(sequences("a").size() + aside).isEqualTo(14);
        adds(A, sequences("a").size(), aside);
        adds(B, 600, 0);
        assertThat(writer.said(A))
                .as("what was said")
                .anyMatch(line -> line.words().length() > 10);
    }

    @Test
    void aRowThatFailsForAnUnknownReasonIsFoundAndSetAsideAndItsNeighboursLand() throws Exception {
        store.thrower = batch -> {
            if (batch.rows().stream().anyMatch(row -> row.id().sequence() == 77)) {
                throw new IllegalArgumentException("The maximum length of cell contents is 32767");
            }
        };
        take(recorder(A, "a", true, false), 1, 201);
        take(recorder(B, "b", true, false), 1, 201);
        until(() -> writer.waiting() == 0);
        assertThat(sequences("a")).hasSize(199).doesNotContain(77L).isSorted().doesNotHaveDuplicates();
        assertThat(local.setAside(A, 10)).hasSize(1).allMatch(row -> row.reason()
                .contains("32767"));
        adds(A, 199, 1);
        adds(B, 199, 1);
    }

    @Test
    void whatWasWrittenBeforeSomethingWasThrownIsNotWrittenAgain() throws Exception {
        boolean[] once = {true};
        store.thrower = batch -> {
            if (once[0] && batch.table().equals("a") && batch.rows().size() > 1) {
                once[0] = false;
                store.tables.get("a").addAll(batch.rows());
                throw new IllegalStateException("after it was there");
            }
        };
        take(recorder(A, "a", true, false), 1, 101);
        until(() -> writer.waiting() == 0);
        assertThat(sequences("a")).isEqualTo(upTo(100));
        adds(A, 100, 0);
    }

    @Test
    void aTableThatIsLockedForLongKeepsTheOthersWaitingOnceOnly() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        take(a, 1, 3);
        take(b, 1, 3);
        until(() -> writer.waiting() == 0);
        Thread main = Thread.currentThread();
        int[] waitedOnMain = {0};
        store.thrower = batch -> {
            if (batch.table().equals("a")) {
                waitedOnMain[0] += Thread.currentThread() == main ? 1 : 0;
                throw new StoreProblem(Kind.BUSY, 0, "The table a is locked.", null);
            }
        };
        take(a, 3, 5);
        for (int n = 3; n < 303; n++) {
            take(b, n, n + 1);
            writer.step();
            clock.pass(Duration.ofMillis(300));
        }
        until(() -> sequences("b").size() == 302);
        assertThat(waitedOnMain[0])
                .as("tries in everybody's transaction or thread")
                .isLessThanOrEqualTo(2);
        store.thrower = batch -> {};
        until(() -> writer.waiting() == 0);
        adds(A, 4, 0);
    }

    @Test
    void aLaneThatStandsDoesNotFillTheJournalOfTheOthers() throws Exception {
        close();
        limits = new SegmentJournal.Limits(400_000, 0, 20_000, 1);
        open();
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", true, false);
        store.lockedTable = "a";
        take(a, 1, 1001);
        for (int n = 1; n < 20_000; n += 500) {
            take(b, n, n + 500); // two megabytes in all, five times what the journal holds
            until(() -> writer.status(B).orElseThrow().waiting() == 0);
        }
        assertThat(writer.status(A).orElseThrow().state()).isEqualTo(LaneState.FAULTED);
        close();
        epoch++;
        open();
        assertThat(writer.status(A).orElseThrow().waiting())
                .as("over a restart")
                .isEqualTo(1000);
        store.lockedTable = "";
        take(a, 1001, 1501);
        until(() -> writer.waiting() == 0);
        assertThat(store.rows("a")).hasSize(1500);
        assertThat(sequences("a").subList(0, 1000)).isEqualTo(upTo(1000));
        adds(A, 1500, 0);
        adds(B, 20_000, 0);
    }

    @Test
    void aSmallLaneIsNotBehindALargeOnesBacklog() throws Exception {
        store.away = true;
        RecorderDefinition large = recorder(A, "a", true, false);
        take(large, 1, 30_001);
        take(recorder(B, "b", true, false), 1, 6);
        close(); // all of it is durable
        epoch++;
        open();
        until(() -> writer.status(A).orElseThrow().state() == LaneState.HOLDING);
        store.away = false;
        until(() -> sequences("b").size() == 5);
        assertThat(sequences("a").size()).as("the large one still drains").isLessThan(20_000);
        until(() -> writer.waiting() == 0);
        assertThat(sequences("a")).isEqualTo(upTo(30_000));
    }

    @Test
    void aLostLocalStoreMakesNoRowLandElsewhereOrTwiceAndTheLanesGoOn() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        RecorderDefinition b = recorder(B, "b", false, true);
        take(a, 1, 51);
        take(b, 1, 51);
        until(() -> writer.waiting() == 0);
        store.away = true;
        take(a, 51, 101);
        take(b, 51, 101);
        until(() -> writer.status(A).orElseThrow().state() == LaneState.HOLDING);
        close();
        remove(folder.resolve("local.db"), folder.resolve("local.db-wal"), folder.resolve("local.db-shm"));
        epoch++;
        open();
        assertThat(writer.said()).anyMatch(line -> line.words().contains("knows nothing of the journal"));
        store.away = false;
        take(b, 101, 111); // the recorders are designed anew, in another order
        take(a, 101, 111);
        until(() -> writer.waiting() == 0);
        assertThat(store.rows("a"))
                .hasSize(110)
                .allMatch(row -> row.id().recorder().equals(A));
        assertThat(store.rows("b"))
                .hasSize(110)
                .allMatch(row -> row.id().recorder().equals(B));
        assertThat(store.rows("a").stream().map(Row::id)).doesNotHaveDuplicates();
        assertThat(store.rows("b").stream().map(Row::id)).doesNotHaveDuplicates();
        assertThat(writer.status(A).orElseThrow().account().difference()).isZero();
    }

    @Test
    void aLostJournalIsSaidAndCountedAndNewRowsAreNotTakenForOldOnes() throws Exception {
        RecorderDefinition a = recorder(A, "a", true, false);
        take(a, 1, 51);
        until(() -> writer.waiting() == 0);
        store.away = true;
        take(a, 51, 71);
        until(() -> writer.status(A).orElseThrow().state() == LaneState.HOLDING);
        close();
        try (Stream<Path> all = Files.walk(folder.resolve("journal"))) {
            all.sorted(Comparator.reverseOrder()).forEach(WhateverAStoreDoesTest::removeOne);
        }
        epoch++;
        open();
        assertThat(writer.said()).anyMatch(line -> line.words().contains("is lost"));
        store.away = false;
        take(a, 1, 11);
        until(() -> writer.waiting() == 0);
        assertThat(store.rows("a")).hasSize(60);
        Account account = writer.status(A).orElseThrow().account();
        assertThat(account.lost()).isEqualTo(20);
        assertThat(account.landed()).isEqualTo(60);
        assertThat(account.difference()).isZero();
    }

    @Test
    void aDestinationThatAnswersIsNotAwayThoughEveryLaneOfItStands() throws Exception {
        RecorderDefinition mayNotMake =
                recorder(A, "a", true, false).withWheres(List.of(new Where("dest", "a", Upkeep.NONE, false)));
        store.away = true;
        take(mayNotMake, 1, 5);
        until(() -> writer.away());
        store.away = false;
        until(() -> writer.status(A).orElseThrow().state() == LaneState.FAULTED);
        assertThat(writer.away()).as("or a standby would go on taking its rows").isFalse();
        store.tables.put("a", new java.util.ArrayList<>());
        until(() -> writer.waiting() == 0);
        adds(A, 4, 0);
    }

    @Test
    void aClockThatIsSetBackAnHourSilencesNoDestination() throws Exception {
        take(recorder(A, "a", true, false), 1, 5);
        store.away = true;
        until(() -> writer.away());
        store.away = false;
        clock.set(Duration.ofHours(-1));
        for (int i = 0; i < 100; i++) {
            writer.step();
            clock.pass(Duration.ofMillis(300)); // half a minute in all
        }
        until(() -> writer.waiting() == 0);
        assertThat(clock.now()).isBefore(java.time.Instant.parse("2026-11-24T05:10:00Z"));
    }

    @Test
    void twoInstallationsWithOneConfigurationLandAllTheirRows() throws Exception {
        RecorderDefinition byMark = recorder(A, "a", false, true);
        take(byMark, 1, 51);
        until(() -> writer.waiting() == 0);
        close();
        folder = Files.createDirectory(folder.resolve("second"));
        epoch = 50; // drawn a name that may sort before or after, and an older epoch
        open();
        take(byMark, 1, 51);
        until(() -> writer.waiting() == 0);
        assertThat(store.rows("a")).hasSize(100);
    }

    private static void remove(Path... files) throws IOException {
        for (Path file : files) {
            Files.deleteIfExists(file);
        }
    }

    private static void removeOne(Path file) {
        try {
            Files.delete(file);
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }
}
