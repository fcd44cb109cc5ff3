package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.outcome.Outcome;
import dachshund.core.reach.Outside;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.core.when.When;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.heavy.Heavy;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.BufferedOutputStream;
import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Locale;
import java.util.Map;

/**
 * A million rows of 8 columns that a saved query with a window and a parameter gives, from MariaDB into a CSV file, against a bare
 * prepared statement whose texts go straight into the same CSV library; sides alternate, medians are compared. All along one
 * recorder writes a row each 100 ms into the same server, by the engine's own way: which of its ticks are skipped is counted, and
 * what stays in memory after a collection is looked at in one more run.
 */
final class QueryBench implements Bench.Benchmark {

    private static final int ROWS = 1_000_000;
    private static final int ROUNDS = 7;
    private static final int AT_ONCE = 1000;
    private static final Duration PERIOD = Duration.ofMillis(100);
    private static final int LOOK_EVERY = 8_000_000;
    private static final String SELECT =
            "SELECT id, made, a, b, c, n, name, state FROM asked WHERE made >= %s AND made < %s AND n >= %s";
    private static final Instant FROM = Instant.parse("2026-01-01T00:00:00Z");
    private static final Instant TO = Instant.parse("2027-01-01T00:00:00Z");

    private Path folder;
    private MariaBed bed;
    private TableReading reading;
    private Exports exports;

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        folder = Files.createTempDirectory("dachshund-bench");
        Heavy heavy = new Heavy(
                folder.resolve("heavy"), new Heavy.Limits(900_000_000L, Duration.ofMinutes(5), Duration.ofSeconds(20)));
        RecorderDefinition design = MariaBed.recorder(0, "beside", 4, new When.Every(PERIOD));
        try (MariaBed open = new MariaBed()) {
            bed = open;
            bed.execute(
                    "CREATE TABLE asked (id BIGINT PRIMARY KEY, made DATETIME(3) NOT NULL, a DOUBLE, b DOUBLE, c DECIMAL(12,3), n INT, name VARCHAR(60), state BOOLEAN)");
            bed.execute(
                    "INSERT INTO asked SELECT seq, '2026-01-01' + INTERVAL seq SECOND, seq * 7919 % 100003 / 100, IF(seq % 50 = 0, NULL, SQRT(seq)), seq / 1000, seq % 65536, CONCAT('Lot PL', seq % 3, '-', seq DIV 100), seq % 2 FROM seq_1_to_"
                            + ROWS);
            exports = new Exports(heavy);
            reading = ((TablesKind) MariaDbEngine.mariaDb())
                    .openTables(
                            Map.of(
                                    "host", "127.0.0.1",
                                    "port", Integer.toString(bed.port()),
                                    "database", "bench",
                                    "user", "root",
                                    "password", ""),
                            ZoneOffset.UTC,
                            Outside.ANYWHERE);
            double[] bare = new double[ROUNDS];
            double[] ours = new double[ROUNDS];
            long due;
            long skipped;
            try (RecorderRig rig = new RecorderRig(folder, bed.open(), Batching.AT_ONCE, List.of(design))) {
                for (int i = 0; i < 4; i++) {
                    rig.tags.offer(
                            MariaBed.SOURCE,
                            List.of(new TagChange(
                                    MariaBed.tag(0, i).address(), TagValue.good(i * 0.5, rig.clock.now()))));
                }
                Thread.sleep(3000);
                long before = rig.book.total(Outcome.SKIPPED);
                long from = System.nanoTime();
                for (int round = -2; round < ROUNDS; round++) {
                    boolean oursFirst = Math.floorMod(round, 2) == 0;
                    double first = timed(oursFirst ? this::ours : this::bare);
                    double second = timed(oursFirst ? this::bare : this::ours);
                    if (round >= 0) {
                        ours[round] = oursFirst ? first : second;
                        bare[round] = oursFirst ? second : first;
                    }
                }
                due = (System.nanoTime() - from) / PERIOD.toNanos();
                skipped = rig.book.total(Outcome.SKIPPED) - before;
                rig.recorders.stop(MariaBed.id(0), "bench", "over");
                while (rig.waiting() > 0) {
                    Thread.sleep(10);
                }
            }
            check();
            long[] memory = memory();
            double byBare = Machine.median(bare);
            double byOurs = Machine.median(ours);
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "query: %,d rows of 8 columns through a saved query into CSV, %d rounds each side, alternating%nbare %.2f s, ours %.2f s, ratio %.2f%nbeside it a recorder at 100 ms: about %,d ticks due, %d skipped, %,d rows in its table%nheap after a collection, all along one more: %.1f to %.1f MB%nsteal %.1f %%%s%n",
                    ROWS,
                    ROUNDS,
                    byBare,
                    byOurs,
                    byBare / byOurs,
                    due,
                    skipped,
                    bed.count("SELECT COUNT(*) FROM beside"),
                    memory[0] / 1e6,
                    memory[1] / 1e6,
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "");
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"query\",\"ratio\":%.3f,\"bare_s\":%.2f,\"ours_s\":%.2f,\"due\":%d,\"skipped\":%d,\"heap_least_mb\":%.1f,\"heap_most_mb\":%.1f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    byBare / byOurs,
                    byBare,
                    byOurs,
                    due,
                    skipped,
                    memory[0] / 1e6,
                    memory[1] / 1e6,
                    steal,
                    steal > 5);
        } finally {
            heavy.close();
        }
    }

    private interface Side {
        void run() throws Exception;
    }

    private static double timed(Side side) throws Exception {
        long from = System.nanoTime();
        side.run();
        return (System.nanoTime() - from) / 1e9;
    }

    private void ours() throws Exception {
        try (OutputStream file = new BufferedOutputStream(Files.newOutputStream(folder.resolve("ours.csv")), 1 << 16)) {
            ask(file);
        }
    }

    private void ask(OutputStream to) throws Exception {
        QueryText text = QueryText.of(String.format(SELECT, ":from", ":to", ":least"));
        exports.write(
                taker -> reading.ask(
                        text, List.of(FROM, TO, java.math.BigDecimal.ZERO), TableReading.WHOLE, Long.MAX_VALUE, taker),
                FileFormat.CSV,
                to);
    }

    private void bare() throws Exception {
        try (Connection connection = bed.connect();
                PreparedStatement statement = connection.prepareStatement(String.format(SELECT, "?", "?", "?"));
                CsvWriter csv = CsvWriter.builder()
                        .build(Files.newBufferedWriter(folder.resolve("bare.csv"), StandardCharsets.UTF_8))) {
            statement.setFetchSize(AT_ONCE);
            statement.setObject(1, LocalDateTime.ofInstant(FROM, ZoneOffset.UTC));
            statement.setObject(2, LocalDateTime.ofInstant(TO, ZoneOffset.UTC));
            statement.setInt(3, 0);
            csv.writeRecord("id", "made", "a", "b", "c", "n", "name", "state");
            String[] fields = new String[8];
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    for (int i = 0; i < fields.length; i++) {
                        fields[i] = rows.getString(i + 1);
                    }
                    csv.writeRecord(fields);
                }
            }
        }
    }

    private void check() throws IOException {
        for (String name : new String[] {"bare.csv", "ours.csv"}) {
            try (var lines = Files.lines(folder.resolve(name))) {
                long count = lines.count();
                if (count != ROWS + 1L) {
                    throw new IllegalStateException(name + " has " + count + " lines.");
                }
            }
        }
    }

    private static long gcAndUsed() {
        System.gc();
        return Runtime.getRuntime().totalMemory() - Runtime.getRuntime().freeMemory();
    }

    /** The least and the most that stays in memory while a million rows pass. */
    private long[] memory() throws Exception {
        long[] most = {Long.MAX_VALUE, 0};
        try (OutputStream looks = new FilterOutputStream(OutputStream.nullOutputStream()) {
            private long since;

            @Override
            public void write(byte[] bytes, int from, int count) {
                since += count;
                if (since > LOOK_EVERY) {
                    since = 0;
                    long used = gcAndUsed();
                    most[0] = Math.min(most[0], used);
                    most[1] = Math.max(most[1], used);
                }
            }
        }) {
            ask(looks);
        }
        return most;
    }
}
