package dachshund.bench;

import dachshund.core.reach.Outside;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.heavy.Heavy;
import dachshund.standins.mariadb.PrivateMariaDb;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.BufferedOutputStream;
import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Locale;
import java.util.Map;
import org.duckdb.DuckDBAppender;
import org.duckdb.DuckDBConnection;

/**
 * A million rows of 8 columns from MariaDB into a file: as CSV against a bare JDBC reader whose texts go straight into the same
 * CSV library, and as Parquet against a bare JDBC reader that appends to a DuckDB in the same process and copies it out. The
 * sides alternate; the medians are compared. What stays in memory after a collection is looked at all along one more export.
 */
final class ExportBench implements Bench.Benchmark {

    private static final int ROWS = 1_000_000;
    private static final int ROUNDS = 5;
    private static final int AT_ONCE = 1000;
    private static final String SELECT = "SELECT id, made, a, b, c, n, name, state FROM records";
    private static final int LOOK_EVERY = 8_000_000;

    private PrivateMariaDb server;
    private TableReading reading;
    private Exports exports;
    private Path folder;

    private interface Side {
        void run() throws Exception;
    }

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        folder = Files.createTempDirectory("dachshund-bench");
        Heavy heavy = new Heavy(
                folder.resolve("heavy"), new Heavy.Limits(900_000_000L, Duration.ofMinutes(5), Duration.ofSeconds(20)));
        try (PrivateMariaDb started = new PrivateMariaDb()) {
            server = started;
            fill();
            exports = new Exports(heavy);
            reading = ((TablesKind) MariaDbEngine.mariaDb())
                    .openTables(
                            Map.of(
                                    "host",
                                    "127.0.0.1",
                                    "port",
                                    Integer.toString(server.port()),
                                    "database",
                                    "records",
                                    "user",
                                    "reader",
                                    "password",
                                    "reads"),
                            ZoneOffset.UTC,
                            Outside.ANYWHERE);
            Side[] sides = {
                this::bareCsv,
                () -> ours(FileFormat.CSV),
                this::bareParquet,
                () -> ours(FileFormat.PARQUET),
                () -> ours(FileFormat.JSON_LINES),
                () -> ours(FileFormat.WORKBOOK)
            };
            double[][] seconds = new double[sides.length][ROUNDS];
            for (int round = -2; round < ROUNDS; round++) {
                for (int i = 0; i < sides.length; i++) {
                    int side = Math.floorMod(round + i, sides.length);
                    long from = System.nanoTime();
                    sides[side].run();
                    if (round >= 0) {
                        seconds[side][round] = (System.nanoTime() - from) / 1e9;
                    }
                }
            }
            check();
            long[] memory = memory();
            double[] median = new double[sides.length];
            for (int i = 0; i < sides.length; i++) {
                median[i] = Machine.median(seconds[i]);
            }
            double csv = median[0] / median[1];
            double parquet = median[2] / median[3];
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "export: %,d rows of 8 columns from MariaDB, %d rounds each side, alternating%n%nCSV         bare %.2f s, ours %.2f s, ratio %.2f%nParquet     bare %.2f s, ours %.2f s, ratio %.2f%nJSON Lines  ours %.2f s%nWorkbook    ours %.2f s%nheap after a collection, all along an export as CSV: %.1f to %.1f MB%nsteal %.1f %%%s%n",
                    ROWS,
                    ROUNDS,
                    median[0],
                    median[1],
                    csv,
                    median[2],
                    median[3],
                    parquet,
                    median[4],
                    median[5],
                    memory[0] / 1e6,
                    memory[1] / 1e6,
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "");
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"export\",\"ratio\":%.3f,\"parquet_ratio\":%.3f,\"csv_s\":%.2f,\"parquet_s\":%.2f,\"jsonl_s\":%.2f,\"xlsx_s\":%.2f,\"heap_least_mb\":%.1f,\"heap_most_mb\":%.1f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    csv,
                    parquet,
                    median[1],
                    median[3],
                    median[4],
                    median[5],
                    memory[0] / 1e6,
                    memory[1] / 1e6,
                    steal,
                    steal > 5);
        } finally {
            heavy.close();
        }
    }

    private void fill() throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE records");
            statement.execute("CREATE USER reader@'127.0.0.1' IDENTIFIED BY 'reads'");
            statement.execute("GRANT SELECT ON records.* TO reader@'127.0.0.1'");
            statement.execute("USE records");
            statement.execute(
                    "CREATE TABLE records (id BIGINT PRIMARY KEY, made DATETIME(3) NOT NULL, a DOUBLE, b DOUBLE, c DECIMAL(12,3), n INT, name VARCHAR(60), state BOOLEAN)");
            statement.execute(
                    "INSERT INTO records SELECT seq, '2026-01-01' + INTERVAL seq SECOND, seq * 7919 % 100003 / 100, IF(seq % 50 = 0, NULL, SQRT(seq)), seq / 1000, seq % 65536, CONCAT('Lot PL', seq % 3, '-', seq DIV 100), seq % 2 FROM seq_1_to_"
                            + ROWS);
        }
    }

    private void ours(FileFormat format) throws Exception {
        try (OutputStream file =
                new BufferedOutputStream(Files.newOutputStream(folder.resolve("ours." + format.ending())), 1 << 16)) {
            exports.write(reading, Question.all(new TableName("records", "records")), format, file);
        }
    }

    private void bareCsv() throws Exception {
        try (Connection connection = DriverManager.getConnection(server.url("records"));
                Statement statement = connection.createStatement();
                CsvWriter csv = CsvWriter.builder()
                        .build(Files.newBufferedWriter(folder.resolve("bare.csv"), StandardCharsets.UTF_8))) {
            statement.setFetchSize(AT_ONCE);
            csv.writeRecord("id", "made", "a", "b", "c", "n", "name", "state");
            String[] fields = new String[8];
            try (ResultSet rows = statement.executeQuery(SELECT)) {
                while (rows.next()) {
                    for (int i = 0; i < fields.length; i++) {
                        fields[i] = rows.getString(i + 1);
                    }
                    csv.writeRecord(fields);
                }
            }
        }
    }

    private void bareParquet() throws Exception {
        try (Connection connection = DriverManager.getConnection(server.url("records"));
                Statement statement = connection.createStatement();
                DuckDBConnection duck = (DuckDBConnection) DriverManager.getConnection("jdbc:duckdb:");
                Statement copy = ((Connection) duck).createStatement()) {
            statement.setFetchSize(AT_ONCE);
            copy.execute(
                    "CREATE TABLE r (id BIGINT, made TIMESTAMP, a DOUBLE, b DOUBLE, c DECIMAL(12,3), n INTEGER, name VARCHAR, state BOOLEAN)");
            try (DuckDBAppender appender = duck.createAppender("r");
                    ResultSet rows = statement.executeQuery(SELECT)) {
                while (rows.next()) {
                    appender.beginRow();
                    appender.append(rows.getLong(1));
                    appender.append(rows.getObject(2, LocalDateTime.class));
                    appender.append(rows.getDouble(3));
                    double b = rows.getDouble(4);
                    if (rows.wasNull()) {
                        appender.appendNull();
                    } else {
                        appender.append(b);
                    }
                    appender.append(rows.getBigDecimal(5));
                    appender.append(rows.getInt(6));
                    appender.append(rows.getString(7));
                    appender.append(rows.getBoolean(8));
                    appender.endRow();
                }
            }
            run(copy, "COPY r TO '" + folder.resolve("bare.parquet") + "' (FORMAT parquet, COMPRESSION zstd)");
        }
    }

    private static void run(Statement statement, String sql) throws SQLException {
        statement.execute(sql);
    }

    /** Both sides have every row: lines of the CSV, and sums of the Parquet as DuckDB reads them. */
    private void check() throws Exception {
        for (String name : new String[] {"bare.csv", "ours.csv"}) {
            try (var lines = Files.lines(folder.resolve(name))) {
                long count = lines.count();
                if (count != ROWS + 1L) {
                    throw new IllegalStateException(name + " has " + count + " lines.");
                }
            }
        }
        try (Connection duck = DriverManager.getConnection("jdbc:duckdb:");
                Statement statement = duck.createStatement()) {
            String[] sums = new String[2];
            for (int i = 0; i < 2; i++) {
                run(
                        statement,
                        "CREATE OR REPLACE TABLE r AS SELECT * FROM '"
                                + folder.resolve(i == 0 ? "bare.parquet" : "ours.parquet") + "'");
                try (ResultSet rows = statement.executeQuery(
                        "SELECT COUNT(*) || ' ' || SUM(id) || ' ' || SUM(c) || ' ' || SUM(n) || ' ' || COUNT(b) || ' ' || MAX(name) FROM r")) {
                    rows.next();
                    sums[i] = rows.getString(1);
                }
            }
            if (!sums[0].equals(sums[1])) {
                throw new IllegalStateException("The Parquet files differ: " + sums[0] + " and " + sums[1]);
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
            public void write(byte[] bytes, int from, int count) throws IOException {
                since += count;
                if (since > LOOK_EVERY) {
                    since = 0;
                    long used = gcAndUsed();
                    most[0] = Math.min(most[0], used);
                    most[1] = Math.max(most[1], used);
                }
            }
        }) {
            exports.write(reading, Question.all(new TableName("records", "records")), FileFormat.CSV, looks);
        }
        return most;
    }
}
