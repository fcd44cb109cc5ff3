package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.sql.MariaDbDialect;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.core.when.When;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.recorder.RecorderRun;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import dachshund.links.mariadb.MariaDbKind;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
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
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;

/**
 * Rows a second from a tag change to a committed row, through tag table, row, journal, writer and MariaDB, against a
 * hand-written JDBC loop that batches into the same table over the same driver with the same batch size and durability.
 * Both alternate in slices; medians are reported.
 */
final class IngestBench implements Bench.Benchmark {

    private static final int SLICES = 15;
    private static final int ROWS = 100_000;
    private static final int BATCH = 1000;
    private static final int MOST_HELD = 20_000;
    private static final String RECORDER = "00000001";

    private record Result(double[] ours, double[] plain, double[] oursCpu, double[] plainCpu) {
    }

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        try (PrivateMariaDb server = new PrivateMariaDb(); Connection admin = DriverManager.getConnection(server.url(""))) {
            try (Statement statement = admin.createStatement()) {
                statement.execute("CREATE DATABASE bench");
            }
            System.out.printf("ingest: %d slices of %,d rows each side, alternating; batches of %,d, one commit a batch; one table, one connection%n", SLICES, ROWS, BATCH);
            System.out.println("durability: journal forced every 100 ms; innodb_flush_log_at_trx_commit=1; buffer pool 256 MB; bulk statements on both sides");
            System.out.printf("floors: fsync %.2f ms, idle timer %.3f ms late%n%n", Machine.fsyncMillis(folder), Machine.timerLatenessMillis());
            System.out.printf("%-10s %12s %12s %7s %14s %14s%n", "table", "ours rows/s", "plain rows/s", "ratio", "ours us CPU/row", "plain us CPU/row");
            StringBuilder json = new StringBuilder("{\"bench\":\"ingest\"");
            double[] ratios = new double[2];
            int at = 0;
            for (Map.Entry<String, Integer> table : List.of(Map.entry("narrow", 2), Map.entry("wide", 19))) {
                Result result = measure(server, folder.resolve(table.getKey()), table.getKey(), table.getValue());
                double ours = Machine.median(result.ours());
                double plain = Machine.median(result.plain());
                ratios[at++] = ours / plain;
                System.out.printf(Locale.ROOT, "%-10s %,12.0f %,12.0f %7.2f %14.1f %14.1f%n", table.getKey(), ours, plain, ours / plain,
                        Machine.median(result.oursCpu()), Machine.median(result.plainCpu()));
                json.append(String.format(Locale.ROOT, ",\"%s_ratio\":%.3f,\"%s_rows_per_s\":%.0f,\"%s_plain_rows_per_s\":%.0f,\"%s_cpu_us\":%.2f,\"%s_plain_cpu_us\":%.2f",
                        table.getKey(), ours / plain, table.getKey(), ours, table.getKey(), plain, table.getKey(), Machine.median(result.oursCpu()),
                        table.getKey(), Machine.median(result.plainCpu())));
            }
            double steal = machine.stealPercent();
            System.out.printf(Locale.ROOT, "%nCPU is this process alone (the database's is not in it). Steal %.1f %%%s%n", steal, steal > 5 ? ": VOID, above 5 %" : "");
            System.out.println(json.append(String.format(Locale.ROOT, ",\"ratio\":%.3f,\"steal_percent\":%.1f,\"void\":%b}", Math.min(ratios[0], ratios[1]), steal, steal > 5)));
        }
    }

    private static Layout layout(int values) {
        Layout proposed = Layout.proposed();
        Layout layout = new Layout(List.of(proposed.columns().get(2), proposed.columns().get(1)));
        for (int i = 0; i < values; i++) {
            layout = layout.plus(Column.of("v" + i, SqlType.DOUBLE, new ColumnSource.FromTag(new TagRef("s", "v" + i), ColumnSource.Aspect.VALUE)));
        }
        return layout;
    }

    private Result measure(PrivateMariaDb server, Path folder, String table, int values) throws Exception {
        PlantClock clock = new SystemClock();
        Layout layout = layout(values);
        RecorderDefinition recorder = new RecorderDefinition(RECORDER, "bench", "", List.of(new When.Every(Duration.ofSeconds(1))), layout,
                List.of(new Where("dest", table, new Upkeep(true, false), false)));
        double[][] figures = new double[4][SLICES];
        LocalStore local = new LocalStore(folder.resolve("local.db"));
        CounterBook book = new CounterBook();
        TagTable tags = new TagTable();
        Threads.Worker[] worker = new Threads.Worker[1];
        SegmentJournal journal = new SegmentJournal(folder.resolve("journal"), SegmentJournal.Limits.USUAL, () -> Optional.ofNullable(worker[0]).ifPresent(Threads.Worker::wake));
        Map<String, String> settings = Map.of("host", "127.0.0.1", "port", Integer.toString(server.port()), "database", "bench", "user", "root", "password", "");
        String url = server.url("bench") + "&useBulkStmts=true&timezone=UTC";
        try (DestinationWriter writer = new DestinationWriter("dest", "bench", journal, new MariaDbKind().open(settings), local, book, clock);
             Connection plain = DriverManager.getConnection(url)) {
            try (Statement statement = plain.createStatement()) {
                statement.execute(new MariaDbDialect().createTable(table, layout, false).get(0));
            }
            worker[0] = Threads.start("writer", writer::step);
            RecorderRun run = new RecorderRun(recorder, new RowId("000001", RECORDER, 1, 0, 0), new AtomicLong(), List.of(new RecorderRun.Target("dest", writer, writer.design(recorder))),
                    tags, ZoneOffset.UTC, book, local);
            AtomicLong plainSequence = new AtomicLong();
            ours(run, writer, tags, values, clock);
            plain(plain, layout, table, values, plainSequence);
            for (int slice = 0; slice < SLICES; slice++) {
                boolean oursFirst = slice % 2 == 0;
                for (int side = 0; side < 2; side++) {
                    boolean ours = (side == 0) == oursFirst;
                    long cpu = Machine.processCpuNanos();
                    long from = System.nanoTime();
                    if (ours) {
                        ours(run, writer, tags, values, clock);
                    } else {
                        plain(plain, layout, table, values, plainSequence);
                    }
                    figures[ours ? 0 : 1][slice] = ROWS / ((System.nanoTime() - from) / 1e9);
                    figures[ours ? 2 : 3][slice] = (Machine.processCpuNanos() - cpu) / 1e3 / ROWS;
                }
            }
            worker[0].close();
            check(plain, table);
        }
        local.close();
        return new Result(figures[0], figures[1], figures[2], figures[3]);
    }

    /** Every row of both sides is there once. */
    private static void check(Connection connection, String table) throws Exception {
        try (Statement statement = connection.createStatement();
             ResultSet rows = statement.executeQuery("SELECT COUNT(*), COUNT(DISTINCT row_id) FROM " + table)) {
            rows.next();
            long wanted = 2L * (SLICES + 1) * ROWS;
            if (rows.getLong(1) != wanted || rows.getLong(2) != wanted) {
                throw new IllegalStateException("Rows are missing or doubled: " + rows.getLong(1) + " and " + rows.getLong(2) + " instead of " + wanted);
            }
        }
    }

    /** From a change of every tag to the last commit. */
    private static void ours(RecorderRun run, DestinationWriter writer, TagTable tags, int values, PlantClock clock) {
        for (int n = 0; n < ROWS; n++) {
            Instant now = clock.now();
            List<TagChange> batch = new ArrayList<>(values);
            for (int i = 0; i < values; i++) {
                batch.add(new TagChange("v" + i, TagValue.good(n + i * 0.5, now)));
            }
            tags.offer("s", batch);
            run.fire(now, now);
            if (n % 256 == 0) {
                while (writer.held() > MOST_HELD) {
                    LockSupport.parkNanos(500_000);
                }
            }
        }
        while (writer.held() > 0) {
            LockSupport.parkNanos(200_000);
        }
    }

    /** The plainest code that does the same work: make the values, batch, commit. */
    private static void plain(Connection connection, Layout layout, String table, int values, AtomicLong sequence) throws Exception {
        connection.setAutoCommit(false);
        try (PreparedStatement statement = connection.prepareStatement(new MariaDbDialect().insert(table, layout))) {
            for (int n = 0; n < ROWS; n++) {
                statement.setString(1, new RowId("000002", RECORDER, 1, sequence.incrementAndGet(), 0).toString());
                statement.setObject(2, LocalDateTime.now(ZoneOffset.UTC));
                for (int i = 0; i < values; i++) {
                    statement.setDouble(3 + i, n + i * 0.5);
                }
                statement.addBatch();
                if ((n + 1) % BATCH == 0) {
                    statement.executeBatch();
                    connection.commit();
                }
            }
        }
    }
}
