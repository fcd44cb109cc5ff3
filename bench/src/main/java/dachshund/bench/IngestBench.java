package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreKind;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;

/**
 * Rows a second from a tag change to a committed row, through tag table, When, row, journal and writer, against a hand-written
 * JDBC loop that batches into the same tables over the same driver with the same batch size and durability. MariaDB and
 * PostgreSQL; narrow (4 columns) and wide (21); one table, and ten and 500 in turn. Both sides alternate in slices; medians are reported.
 */
final class IngestBench implements Bench.Benchmark {

    /** Which tables, as a regular expression; for work on one of them: -Dbench.only=postgresql_wide. */
    private static final String ONLY = System.getProperty("bench.only", ".*");

    private static final int SLICES = 7;
    /** Slices until the compiler has done its work, which takes a core of two as long as it lasts. */
    private static final int WARM_UP = 3;

    /**
     * Of a slice, narrow and wide: some six seconds, so that its beginning and its end, where rows wait up to 100 ms for the
     * journal to be forced, hardly count.
     */
    private static final int ROWS_NARROW = 1_000_000;

    private static final int ROWS_WIDE = 300_000;
    /** Of a slice with so many tables that it takes long anyway. */
    private static final int ROWS_OF_MANY = 100_000;

    /** Numbers in a row, beside its id and its time. */
    private static final int NARROW = 2;

    private static final int WIDE = 19;
    private static final int BATCH = 1000;
    private static final int TEN = 10;
    private static final int MANY = 500;
    private static final int MOST_HELD = 40_000;

    /** A database and how it is reached, bare and as a destination. */
    private record Side(String name, StoreKind kind, Map<String, String> settings, String url) {

        Object time() {
            return name.equals("postgresql") ? OffsetDateTime.now(ZoneOffset.UTC) : LocalDateTime.now(ZoneOffset.UTC);
        }
    }

    private record Result(double ours, double plain, double oursCpu, double plainCpu) {
        double ratio() {
            return ours / plain;
        }
    }

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        try (PrivateMariaDb maria = new PrivateMariaDb();
                PrivatePostgreSql postgres = new PrivatePostgreSql()) {
            execute(maria.url(""), "CREATE DATABASE bench");
            execute(postgres.url("postgres"), "CREATE DATABASE bench");
            List<Side> sides = List.of(
                    new Side(
                            "mariadb",
                            MariaDbEngine.mariaDb(),
                            settings(maria.port(), "root"),
                            maria.url("bench") + "&useBulkStmts=true&timezone=UTC"),
                    new Side(
                            "postgresql",
                            PostgreSqlEngine.kind(),
                            settings(postgres.port(), "postgres"),
                            postgres.url("bench") + "&reWriteBatchedInserts=true"));
            System.out.printf(
                    "ingest: %d slices of %,d narrow and %,d wide rows each side (%d tables: %,d), alternating; batches of %,d rows, one commit a batch; plain: one connection, ours: 4 at most%n",
                    SLICES, ROWS_NARROW, ROWS_WIDE, MANY, ROWS_OF_MANY, BATCH);
            System.out.println(
                    "durability: journal forced every 100 ms; innodb_flush_log_at_trx_commit=1, buffer pool 256 MB; synchronous_commit=on, shared_buffers 128 MB");
            System.out.printf(
                    "floors: fsync %.2f ms, idle timer %.3f ms late%n%n",
                    Machine.fsyncMillis(folder), Machine.timerLatenessMillis());
            System.out.printf(
                    "%-32s %12s %12s %7s %14s %14s%n",
                    "table", "ours rows/s", "plain rows/s", "ratio", "ours us CPU/row", "plain us CPU/row");
            StringBuilder json = new StringBuilder("{\"bench\":\"ingest\"");
            double least = Double.MAX_VALUE;
            for (Side side : sides) {
                for (int values : new int[] {NARROW, WIDE}) {
                    for (int tables : new int[] {1, TEN, MANY}) {
                        String name = side.name() + "_" + (values == NARROW ? "narrow" : "wide")
                                + (tables == 1 ? "" : "_" + tables);
                        if (!name.matches(ONLY)) {
                            continue;
                        }
                        Result result = measure(side, folder.resolve(name), name, values, tables);
                        least = Math.min(least, result.ratio());
                        System.out.printf(
                                Locale.ROOT,
                                "%-32s %,12.0f %,12.0f %7.2f %14.1f %14.1f%n",
                                name,
                                result.ours(),
                                result.plain(),
                                result.ratio(),
                                result.oursCpu(),
                                result.plainCpu());
                        json.append(String.format(
                                Locale.ROOT,
                                ",\"%s_ratio\":%.3f,\"%s_rows_per_s\":%.0f,\"%s_cpu_us\":%.2f,\"%s_plain_cpu_us\":%.2f",
                                name,
                                result.ratio(),
                                name,
                                result.ours(),
                                name,
                                result.oursCpu(),
                                name,
                                result.plainCpu()));
                    }
                }
            }
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "%nCPU is this process alone (the database's is not in it). Steal %.1f %%%s%n",
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "");
            System.out.println(json.append(String.format(
                    Locale.ROOT, ",\"ratio\":%.3f,\"steal_percent\":%.1f,\"void\":%b}", least, steal, steal > 5)));
        }
    }

    private static Map<String, String> settings(int port, String user) {
        return Map.of(
                "host", "127.0.0.1", "port", Integer.toString(port), "database", "bench", "user", user, "password", "");
    }

    private static void execute(String url, String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(url);
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Row id, record time and so many numbers; each table's tags are its own. */
    private static Layout layout(int table, int values) {
        Layout proposed = Layout.proposed();
        Layout layout =
                new Layout(List.of(proposed.columns().get(2), proposed.columns().get(1)));
        for (int i = 0; i < values; i++) {
            layout = layout.plus(Column.of(
                    "v" + i,
                    SqlType.DOUBLE,
                    new ColumnSource.FromTag(new TagRef("s", table + "/" + i), ColumnSource.Aspect.VALUE)));
        }
        return layout;
    }

    private static RecorderDefinition recorder(int table, String name, int values) {
        When change =
                new When.OnChange(Deadband.NONE, List.of(new TagRef("s", table + "/0")), Duration.ZERO, Duration.ZERO);
        return new RecorderDefinition(
                String.format("%08x", table + 1),
                name,
                "",
                List.of(change),
                layout(table, values),
                List.of(new Where("dest", name, new Upkeep(true, false), false)));
    }

    private Result measure(Side side, Path folder, String name, int values, int tables) throws Exception {
        int rows = tables == MANY ? ROWS_OF_MANY : values == NARROW ? ROWS_NARROW : ROWS_WIDE;
        double[][] figures = new double[4][SLICES];
        List<RecorderDefinition> designs = new ArrayList<>();
        // Tables of its own for each side: whoever's row ids are the larger would add to the end of an index, the other
        // in its midst.
        List<RecorderDefinition> plains = new ArrayList<>();
        for (int table = 0; table < tables; table++) {
            designs.add(recorder(table, name + "_" + table, values));
            plains.add(recorder(table, "plain_" + name + "_" + table, values));
        }
        List<RecorderDefinition> all = new ArrayList<>(designs);
        all.addAll(plains);
        // As a source keeps the addresses of its tags.
        String[][] addresses = new String[tables][values];
        for (int table = 0; table < tables; table++) {
            for (int i = 0; i < values; i++) {
                addresses[table][i] = table + "/" + i;
            }
        }
        try (Connection plain = DriverManager.getConnection(side.url())) {
            try (Statement statement = plain.createStatement()) {
                for (RecorderDefinition design : all) {
                    for (String sql : side.kind()
                            .dialect()
                            .createTable(design.wheres().get(0).table(), design.layout(), false)) {
                        statement.execute(sql);
                    }
                }
            }
            try (RecorderRig rig =
                    new RecorderRig(folder, side.kind().open(side.settings()), Batching.AT_ONCE, designs)) {
                long[] sequence = new long[2];
                // The first value of a tag is no change; both sides warm up.
                offer(rig, addresses, tables, sequence);
                for (int slice = 0; slice < WARM_UP; slice++) {
                    ours(rig, addresses, rows, sequence);
                    plain(plain, side, plains, values, rows, sequence);
                }
                for (int slice = 0; slice < SLICES; slice++) {
                    for (int turn = 0; turn < 2; turn++) {
                        boolean ours = (turn == 0) == (slice % 2 == 0);
                        long cpu = Machine.processCpuNanos();
                        long from = System.nanoTime();
                        if (ours) {
                            ours(rig, addresses, rows, sequence);
                        } else {
                            plain(plain, side, plains, values, rows, sequence);
                        }
                        figures[ours ? 0 : 1][slice] = rows / ((System.nanoTime() - from) / 1e9);
                        figures[ours ? 2 : 3][slice] = (Machine.processCpuNanos() - cpu) / 1e3 / rows;
                    }
                }
            }
            check(plain, side.kind().dialect(), designs, rows);
            check(plain, side.kind().dialect(), plains, rows);
        }
        return new Result(
                Machine.median(figures[0]),
                Machine.median(figures[1]),
                Machine.median(figures[2]),
                Machine.median(figures[3]));
    }

    /** Every row of one side is there once. */
    private static void check(Connection connection, Dialect dialect, List<RecorderDefinition> designs, int each)
            throws SQLException {
        long rows = 0;
        long ids = 0;
        connection.setAutoCommit(true);
        try (Statement statement = connection.createStatement()) {
            for (RecorderDefinition design : designs) {
                String table = dialect.quote(design.wheres().get(0).table());
                try (ResultSet result =
                        statement.executeQuery("SELECT COUNT(*), COUNT(DISTINCT row_id) FROM " + table)) {
                    result.next();
                    rows += result.getLong(1);
                    ids += result.getLong(2);
                }
                statement.execute("DROP TABLE " + table);
            }
        }
        long wanted = (long) (SLICES + WARM_UP) * each;
        if (rows != wanted || ids != wanted) {
            throw new IllegalStateException(
                    "Rows are missing or doubled: " + rows + " and " + ids + " instead of " + wanted);
        }
    }

    private static void offer(RecorderRig rig, String[][] addresses, int count, long[] sequence) {
        int tables = addresses.length;
        int values = addresses[0].length;
        for (int n = 0; n < count; n++) {
            long at = sequence[0]++;
            Instant now = rig.clock.now();
            int table = (int) (at % tables);
            List<TagChange> batch = new ArrayList<>(values);
            for (int i = 0; i < values; i++) {
                batch.add(new TagChange(addresses[table][i], TagValue.good(at + i * 0.5, now)));
            }
            rig.tags.offer("s", batch);
            if (n % 256 == 0) {
                while (rig.waiting() > MOST_HELD) {
                    LockSupport.parkNanos(500_000);
                }
            }
        }
    }

    /** From a change of every tag of a row to the last commit. */
    private static void ours(RecorderRig rig, String[][] addresses, int rows, long[] sequence) {
        offer(rig, addresses, rows, sequence);
        while (rig.waiting() > 0) {
            LockSupport.parkNanos(200_000);
        }
    }

    /** The plainest code that does the same work: make the values, batch, commit. */
    private static void plain(
            Connection connection, Side side, List<RecorderDefinition> designs, int values, int rows, long[] sequence)
            throws SQLException {
        connection.setAutoCommit(false);
        PreparedStatement[] statements = new PreparedStatement[designs.size()];
        for (int table = 0; table < statements.length; table++) {
            statements[table] = connection.prepareStatement(side.kind()
                    .dialect()
                    .insert(
                            designs.get(table).wheres().get(0).table(),
                            designs.get(table).layout()));
        }
        for (int n = 0; n < rows; n++) {
            PreparedStatement statement = statements[n % statements.length];
            statement.setString(1, new RowId("ffffff", "00000001", 1, ++sequence[1], 0).toString());
            statement.setObject(2, side.time());
            for (int i = 0; i < values; i++) {
                statement.setDouble(3 + i, n + i * 0.5);
            }
            statement.addBatch();
            if ((n + 1) % BATCH == 0) {
                for (int table = 0; table < Math.min(statements.length, BATCH); table++) {
                    statements[table].executeBatch();
                }
                connection.commit();
            }
        }
        for (PreparedStatement statement : statements) {
            statement.close();
        }
    }
}
