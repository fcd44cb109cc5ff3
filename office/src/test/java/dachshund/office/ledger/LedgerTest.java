package dachshund.office.ledger;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.ledger.LedgerStore;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.StepRun;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.Landed;
import dachshund.engine.ledger.Happenings;
import dachshund.engine.ledger.Ledger;
import dachshund.engine.ledger.RunDocument;
import dachshund.engine.local.LocalStore;
import dachshund.office.archive.ArchiveBed;
import dachshund.office.ledger.LedgerTable.Numbered;
import dachshund.office.ledger.LedgerTable.Wanted;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Runs come to the ledger once each, whatever is away, and are found again. */
class LedgerTest {

    private static final Instant T = Instant.parse("2026-11-28T06:00:00.123456Z");

    private final LedgerTable table = new LedgerTable(ArchiveBed.POOL);

    @TempDir
    Path folder;

    @BeforeEach
    void empty() throws Exception {
        try (Connection connection = ArchiveBed.POOL.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute("DELETE FROM ledger_key");
            statement.execute("DELETE FROM ledger_run");
        }
    }

    static Run run(int n, Outcome outcome, String lot) {
        return new Run(
                "abc123-1-" + n,
                n % 2 == 0 ? "cccc0000" : "cccc0001",
                "Lot ends",
                T.plusSeconds(n),
                T.plusSeconds(n),
                "request " + n,
                "/" + n,
                outcome,
                12,
                1,
                Map.of("lot", new Run.Read(lot, T, "")),
                List.of(new StepRun("ord", StepRun.Fate.DONE, "SELECT 'ä'", Map.of("weight", n + " kg"), 1, 250, "")),
                "",
                1,
                "order " + n,
                "given",
                Map.of("lot", lot, "request", Integer.toString(n)));
    }

    private static Wanted all(int most) {
        return new Wanted(T.minusSeconds(1), T.plusSeconds(100_000), "", Optional.empty(), "", Long.MAX_VALUE, most);
    }

    private static void soon(Callable<Boolean> it) {
        await().ignoreExceptions().atMost(Duration.ofSeconds(60)).until(it);
    }

    @Test
    void aRunIsReadBackAsItWasAndTakenOnce() {
        Run run = run(1, Outcome.DONE_BUT, "L-1");
        take(List.of(run, run(2, Outcome.DONE, "L-2")));
        take(List.of(run));
        assertThat(table.count()).isEqualTo(2);
        assertThat(table.find("abc123-1-1")).contains(run);
        assertThat(table.find("nobody")).isEmpty();
    }

    @Test
    void runsAreFoundByTimeThingOutcomeKeyAndWhateverStandsInThem() {
        take(IntStream.range(0, 300)
                .mapToObj(n -> run(n, n % 10 == 0 ? Outcome.FAILED : Outcome.DONE, "L-" + n / 3))
                .toList());
        assertThat(numbers(all(1000))).hasSize(300).isSortedAccordingTo((a, b) -> b - a);
        assertThat(numbers(new Wanted(T, T.plusSeconds(10), "", Optional.empty(), "", Long.MAX_VALUE, 100)))
                .hasSize(10);
        assertThat(numbers(new Wanted(T, T.plusSeconds(1000), "cccc0001", Optional.empty(), "", Long.MAX_VALUE, 1000)))
                .hasSize(150)
                .allMatch(n -> n % 2 == 1);
        assertThat(numbers(
                        new Wanted(T, T.plusSeconds(1000), "", Optional.of(Outcome.FAILED), "", Long.MAX_VALUE, 1000)))
                .hasSize(30);
        assertThat(numbers(new Wanted(T, T.plusSeconds(1000), "", Optional.empty(), "L-7", Long.MAX_VALUE, 1000)))
                .containsExactly(23, 22, 21);
        assertThat(numbers(new Wanted(T, T.plusSeconds(1000), "", Optional.empty(), "L-", Long.MAX_VALUE, 1000)))
                .isEmpty();
        List<Integer> anywhere = new ArrayList<>();
        table.everywhere(all(1000), "17 KG", each -> anywhere.add(number(each)));
        assertThat(anywhere).containsExactly(217, 117, 17);
    }

    @Test
    void pagesFollowEachOtherWithoutAGapAlsoWhereTimesAreEqual() {
        List<Run> same = new ArrayList<>();
        for (int n = 0; n < 120; n++) {
            Run run = run(n, Outcome.DONE, "L");
            same.add(new Run(
                    run.id(),
                    run.thing(),
                    run.name(),
                    T,
                    T,
                    run.why(),
                    run.request(),
                    run.outcome(),
                    1,
                    1,
                    run.snapshot(),
                    run.steps(),
                    "",
                    1,
                    "",
                    "",
                    run.keys()));
        }
        take(same);
        List<String> seen = new ArrayList<>();
        long before = Long.MAX_VALUE;
        while (true) {
            List<Numbered> page = table.find(new Wanted(T, T.plusSeconds(1), "", Optional.empty(), "L", before, 50));
            page.forEach(each -> seen.add(each.run().id()));
            if (page.size() < 50) {
                break;
            }
            before = page.get(49).nth();
        }
        assertThat(seen).hasSize(120).doesNotHaveDuplicates();
    }

    /** A run may have one value under several names, as a minute of rows may: it stands once on each page, and none is missed. */
    @Test
    void aValueUnderSeveralNamesIsOneRun() throws Exception {
        Map<String, String> names = new HashMap<>();
        IntStream.range(0, 20).forEach(n -> names.put("lot " + n, "L"));
        take(IntStream.range(0, 30)
                .mapToObj(n -> withKeys(run(n, Outcome.DONE, "other"), names))
                .toList());
        Wanted page = new Wanted(T, T.plusSeconds(100), "", Optional.empty(), "L", Long.MAX_VALUE, 7);
        List<Integer> seen = new ArrayList<>(numbers(page));
        for (List<Numbered> next = table.find(page); next.size() == 7; ) {
            long before = next.get(6).nth();
            next = table.find(new Wanted(T, T.plusSeconds(100), "", Optional.empty(), "L", before, 7));
            next.forEach(each -> seen.add(number(each)));
        }
        assertThat(seen)
                .isEqualTo(IntStream.range(0, 30).map(n -> 29 - n).boxed().toList());
        List<Integer> anywhere = new ArrayList<>();
        table.everywhere(
                new Wanted(T, T.plusSeconds(100), "", Optional.empty(), "L", Long.MAX_VALUE, 100),
                "abc123",
                each -> anywhere.add(number(each)));
        assertThat(anywhere).hasSize(30).doesNotHaveDuplicates();
    }

    private static Run withKeys(Run run, Map<String, String> keys) {
        return new Run(
                run.id(),
                run.thing(),
                run.name(),
                run.fired(),
                run.begun(),
                run.why(),
                run.request(),
                run.outcome(),
                run.millis(),
                run.tries(),
                run.snapshot(),
                run.steps(),
                run.reason(),
                run.code(),
                run.text(),
                run.answered(),
                keys);
    }

    private void take(List<Run> runs) {
        table.take(runs.stream().map(RunDocument::noted).toList());
    }

    private List<Integer> numbers(Wanted wanted) {
        return table.find(wanted).stream().map(LedgerTest::number).toList();
    }

    private static int number(Numbered each) {
        return Integer.parseInt(each.run().id().substring("abc123-1-".length()));
    }

    @Test
    void whatIsOldGoesWithItsKeys() throws Exception {
        take(IntStream.range(0, 50).mapToObj(n -> run(n, Outcome.DONE, "L")).toList());
        assertThat(table.removeBefore(T.plusSeconds(20), 15)).isEqualTo(15);
        assertThat(table.removeBefore(T.plusSeconds(20), 15)).isEqualTo(5);
        assertThat(numbers(all(100))).hasSize(30).allMatch(n -> n >= 20);
        assertThat(table.find(new Wanted(T, T.plusSeconds(99), "", Optional.empty(), "L", Long.MAX_VALUE, 99)))
                .hasSize(30);
    }

    private Ledger open(LocalStore local) {
        return new Ledger(
                folder.resolve("ledger"),
                new SegmentJournal.Limits(64L << 20, 1, 1L << 20, 20),
                local,
                new SystemClock());
    }

    @Test
    void anOutageAndARestartLoseNoneAndDoubleNone() {
        AtomicBoolean away = new AtomicBoolean(true);
        LedgerStore through = runs -> {
            if (away.get()) {
                throw new IllegalStateException("It is away.");
            }
            table.take(runs);
        };
        try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                Ledger ledger = open(local)) {
            ledger.storeIn(through);
            IntStream.range(0, 500).forEach(n -> ledger.note(run(n, Outcome.DONE, "L-" + n)));
            soon(() -> ledger.trouble().equals("It is away.") && ledger.waiting() == 500);
        }
        try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                Ledger ledger = open(local)) {
            ledger.storeIn(through);
            IntStream.range(500, 600).forEach(n -> ledger.note(run(n, Outcome.DONE, "L-" + n)));
            away.set(false);
            soon(() -> ledger.waiting() == 0);
        }
        // The cursor is lost: everything comes again, and is there once.
        try (LocalStore local = new LocalStore(folder.resolve("local.db"))) {
            local.remember("ledger settled", "0");
            try (Ledger ledger = open(local)) {
                ledger.storeIn(through);
                soon(() -> ledger.waiting() == 0);
            }
        }
        assertThat(numbers(all(1000))).hasSize(600).doesNotHaveDuplicates();
    }

    /** What happened to a lot has one answer, also where it was no transaction. */
    @Test
    void whatPeopleDidStandsBesideTheRuns() {
        AtomicLong ids = new AtomicLong();
        Instant begun = new SystemClock().now().minusMillis(20);
        try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                Ledger ledger = open(local)) {
            ledger.storeIn(table);
            Happenings happenings =
                    new Happenings(ledger, () -> "abc123-9-" + ids.incrementAndGet(), new SystemClock());
            Map<String, String> cells = new HashMap<>(Map.of("lot", "PL1-7", "note", "x".repeat(100)));
            cells.put("moisture", null);
            happenings.sentAgain("cccc0009", "Dryer", "row 1", cells, "engineer");
            happenings.wrote("aaaa0001", "PL1 / Feed", "30", "34.5", "34.5", "engineer", "", begun);
            happenings.wrote("aaaa0001", "PL1 / Feed", "34.5", "900", "", "engineer", "It lies outside.", begun);
            happenings.released(12, 1, "engineer");
            Landed pallets = new Landed(
                    "abc123-lane-0",
                    "cccc0010",
                    "Pallets",
                    "pallet_record in Production",
                    3,
                    begun,
                    begun.plusSeconds(40),
                    begun,
                    begun.plusSeconds(38),
                    Map.of("lot", List.of("PL1-8", "PL1-9")));
            happenings.landed(pallets);
            happenings.landed(pallets); // told a second time after a death
            soon(() -> ledger.waiting() == 0 && table.count() == 5);
        }
        for (String lot : List.of("PL1-8", "PL1-9")) {
            Run landed = only(lot, "cccc0010");
            assertThat(landed.reason()).isEqualTo("3 rows have landed in pallet_record in Production.");
            assertThat(landed.steps().get(0).values()).isEqualTo(Map.of("lot", "PL1-8, PL1-9"));
            assertThat(landed.millis()).isEqualTo(40_000);
        }
        Run row = only("PL1-7", "");
        assertThat(row.why()).isEqualTo("a row that was set aside, sent again by engineer");
        assertThat(row.keys()).isEqualTo(Map.of("lot", "PL1-7"));
        assertThat(row.steps().get(0).values()).containsEntry("moisture", "nothing");
        List<Numbered> writes = find("PL1 / Feed", "");
        assertThat(writes).extracting(each -> each.run().outcome()).containsOnly(Outcome.DONE, Outcome.FAILED);
        assertThat(writes).allMatch(each -> each.run().millis() >= 20);
        assertThat(only("", Happenings.RELEASE).reason()).isEqualTo("It changed 1 thing.");
        assertThat(only("12", "").name()).isEqualTo("Release 12");
    }

    private List<Numbered> find(String key, String thing) {
        Instant now = new SystemClock().now();
        return table.find(
                new Wanted(now.minusSeconds(60), now.plusSeconds(60), thing, Optional.empty(), key, Long.MAX_VALUE, 9));
    }

    private Run only(String key, String thing) {
        assertThat(find(key, thing)).hasSize(1);
        return find(key, thing).get(0).run();
    }

    @Test
    void oneThatIsRefusedHoldsUpNoOther() throws Exception {
        LedgerStore through = runs -> {
            if (runs.stream().anyMatch(run -> run.id().endsWith("-3"))) {
                throw new IllegalArgumentException("This one never.");
            }
            table.take(runs);
        };
        try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                Ledger ledger = open(local)) {
            ledger.storeIn(through);
            IntStream.range(0, 10).forEach(n -> ledger.note(run(n, Outcome.DONE, "L-" + n)));
            soon(() -> ledger.waiting() == 0);
            assertThat(ledger.missing()).isEqualTo(1);
            assertThat(numbers(all(100))).containsExactly(9, 8, 7, 6, 5, 4, 2, 1, 0);
            assertThat(Files.readString(folder.resolve("ledger/refused.jsonl"))).contains("abc123-1-3\"");
        }
    }
}
