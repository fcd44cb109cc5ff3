package dachshund.bench;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.ledger.Noted;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.StepRun;
import dachshund.engine.ledger.RunDocument;
import dachshund.office.ledger.LedgerTable;
import dachshund.office.ledger.LedgerTable.Wanted;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import org.flywaydb.core.Flyway;

/**
 * A million runs in the ledger: those of a lot, found by its key, against SQL by hand over the same tables, which reads the same
 * rows and makes nothing of them; sides alternate, medians are compared. Then whatever stands in the runs of a day.
 */
final class LedgerBench implements Bench.Benchmark {

    private static final int RUNS = 1_000_000;
    private static final int AT_ONCE = 2000;
    private static final int SEARCHES = 2000;
    private static final int ROUNDS = 7;
    private static final Instant FIRST = Instant.parse("2026-01-01T00:00:00Z");
    private static final Instant LAST = FIRST.plusSeconds(30L * RUNS);

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        try (PrivateMariaDb server = new PrivateMariaDb();
                HikariDataSource pool = new HikariDataSource()) {
            pool.setJdbcUrl(server.url("ledger") + "&createDatabaseIfNotExist=true&timezone=UTC");
            Flyway.configure().dataSource(pool).load().migrate();
            LedgerTable table = new LedgerTable(pool);
            long from = System.nanoTime();
            for (int n = 0; n < RUNS; n += AT_ONCE) {
                List<Noted> runs = new ArrayList<>();
                for (int i = n; i < n + AT_ONCE; i++) {
                    runs.add(RunDocument.noted(one(i)));
                }
                table.take(runs);
            }
            double taken = RUNS / ((System.nanoTime() - from) / 1e9);
            try (Connection connection = pool.getConnection();
                    Statement statement = connection.createStatement()) {
                statement.execute("ANALYZE TABLE ledger_run, ledger_key");
            }
            List<Double> own = new ArrayList<>();
            List<Double> bare = new ArrayList<>();
            List<Double> read = new ArrayList<>();
            // Each side looks for other lots: who looked for the same ones second would find them in memory.
            for (int round = 0; round <= ROUNDS; round++) {
                double a = ours(table, 3 * round, false);
                double b = bare(pool, 3 * round + 1);
                double c = ours(table, 3 * round + 2, true);
                if (round > 0) {
                    own.add(a);
                    bare.add(b);
                    read.add(c);
                }
            }
            own.sort(null);
            bare.sort(null);
            read.sort(null);
            double ratio = own.get(ROUNDS / 2) / bare.get(ROUNDS / 2);
            long since = System.nanoTime();
            int[] found = {0};
            Instant day = FIRST.plus(Duration.ofDays(100));
            table.everywhere(
                    new Wanted(day, day.plus(Duration.ofDays(1)), "", Optional.empty(), "", Long.MAX_VALUE, 1000),
                    "kettle lane joinery",
                    each -> ++found[0] > 0);
            double anywhere = (System.nanoTime() - since) / 1e9;
            System.out.printf(
                    Locale.ROOT,
                    "%,d runs, taken at %,.0f a second. By key: %,.0f searches a second, by hand %,.0f: %.2f (meant: 0.8); with each run read back from its document, as a page shows it, %,.0f: %.2f. Anything within a day of 2,880 runs: %d found in %.2f s%n",
                    RUNS,
                    taken,
                    own.get(ROUNDS / 2),
                    bare.get(ROUNDS / 2),
                    ratio,
                    read.get(ROUNDS / 2),
                    read.get(ROUNDS / 2) / bare.get(ROUNDS / 2),
                    found[0],
                    anywhere);
            System.out.printf(Locale.ROOT, "steal %.1f %%%n", machine.stealPercent());
            System.out.printf(
                    Locale.ROOT, "{\"bench\":\"ledger\",\"key\":%.3f,\"day_seconds\":%.3f}%n", ratio, anywhere);
        }
    }

    private static Run one(int n) {
        Instant at = FIRST.plusSeconds(30L * n);
        String lot = "L-" + n / 3;
        return new Run(
                "abc123-1-" + n,
                "cccc000" + n % 5,
                "Lot ends",
                at,
                at,
                "request " + n,
                "1/" + n,
                n % 50 == 0 ? Outcome.FAILED : Outcome.DONE,
                12,
                1,
                Map.of("lot", new Run.Read(lot, at, ""), "kilos", new Run.Read("812.5", at, "")),
                List.of(
                        new StepRun(
                                "ord",
                                StepRun.Fate.DONE,
                                "SELECT order_no, supplier FROM pellet_order WHERE line = :line",
                                Map.of(
                                        "line",
                                        "PL1",
                                        "→ ord_order_no",
                                        "" + n / 9,
                                        "→ ord_supplier",
                                        n % 7 == 0 ? "Kettle Lane Joinery" : "Harbour Timber"),
                                1,
                                250,
                                ""),
                        new StepRun(
                                "record",
                                StepRun.Fate.DONE,
                                "INSERT INTO lot (lot_id, order_no, kilos) VALUES (:lot, :ord_order_no, :kilos)",
                                Map.of("lot", lot, "ord_order_no", "" + n / 9, "kilos", "812.5"),
                                1,
                                410,
                                "")),
                "",
                1,
                "order " + n / 9,
                "given",
                Map.of("lot", lot, "ord_order_no", "" + n / 9, "request", "" + n));
    }

    /** @param read whether each run that is found is read back from its document */
    private static double ours(LedgerTable table, int seed, boolean read) {
        Random random = new Random(seed);
        long from = System.nanoTime();
        int rows = 0;
        for (int i = 0; i < SEARCHES; i++) {
            for (LedgerTable.Numbered each : table.find(new Wanted(
                    FIRST, LAST, "", Optional.empty(), "L-" + random.nextInt(RUNS / 3), Long.MAX_VALUE, 50))) {
                rows += read && each.run().id().isEmpty() ? 0 : 1;
            }
        }
        checked(rows);
        return SEARCHES / ((System.nanoTime() - from) / 1e9);
    }

    private static double bare(HikariDataSource pool, int seed) throws Exception {
        Random random = new Random(seed);
        long from = System.nanoTime();
        int rows = 0;
        for (int i = 0; i < SEARCHES; i++) {
            try (Connection connection = pool.getConnection();
                    PreparedStatement statement = connection.prepareStatement(
                            "SELECT r.nth, r.document FROM ledger_key k JOIN ledger_run r ON r.nth = k.run WHERE k.value = ? AND k.fired_at >= ? AND k.fired_at < ? ORDER BY k.fired_at DESC, k.run DESC LIMIT 50")) {
                statement.setString(1, "L-" + random.nextInt(RUNS / 3));
                statement.setObject(2, LocalDateTime.ofInstant(FIRST, ZoneOffset.UTC));
                statement.setObject(3, LocalDateTime.ofInstant(LAST, ZoneOffset.UTC));
                try (ResultSet found = statement.executeQuery()) {
                    while (found.next()) {
                        rows += found.getString(2).isEmpty() ? 0 : 1;
                    }
                }
            }
        }
        checked(rows);
        return SEARCHES / ((System.nanoTime() - from) / 1e9);
    }

    private static void checked(int rows) {
        if (rows < SEARCHES * 2) {
            throw new IllegalStateException("Only " + rows + " rows were found.");
        }
    }
}
