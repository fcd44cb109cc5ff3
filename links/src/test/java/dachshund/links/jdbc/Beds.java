package dachshund.links.jdbc;

import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.links.sqlite.SqliteEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.Statement;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/** A laboratory's database on the real engines, made by others and read by an account that may read alone. */
final class Beds implements AutoCloseable {

    /** Clocks are set back there at 01:00 UTC on 2026-10-25 (tz database, Europe/Berlin), from 03:00 to 02:00. */
    static final ZoneId ZONE = ZoneId.of("Europe/Berlin");

    final PrivateMariaDb mariaDb;
    final PrivatePostgreSql postgreSql;
    private final List<Bed> beds = new ArrayList<>();

    /** One engine with what others made in it. */
    record Bed(String engine, String schema, TableReading reading) {
        TableName name(String table) {
            return new TableName(schema, table);
        }

        @Override
        public String toString() {
            return engine;
        }
    }

    Stream<Bed> all() {
        return beds.stream();
    }

    static void make(Connection connection, String... statements) throws Exception {
        try (Statement statement = connection.createStatement()) {
            for (String each : statements) {
                statement.execute(each);
            }
        }
    }

    /** 5,000 lots, one each ten minutes as a clock of Berlin shows it, and analyses that name them. */
    private static void fill(Connection connection, String stamp, boolean texts) throws Exception {
        make(
                connection,
                "CREATE TABLE lot (lot_no INTEGER NOT NULL PRIMARY KEY, made " + stamp
                        + " NOT NULL, seconds BIGINT, millis BIGINT, written VARCHAR(40), weight DOUBLE PRECISION, price DECIMAL(20,4), day DATE, note VARCHAR(80))",
                "CREATE TABLE analysis (id INTEGER NOT NULL PRIMARY KEY, lot_no INTEGER NOT NULL, moisture DOUBLE PRECISION, FOREIGN KEY (lot_no) REFERENCES lot (lot_no))",
                "CREATE VIEW heavy AS SELECT lot_no, weight FROM lot WHERE weight > 900");
        connection.setAutoCommit(false);
        try (PreparedStatement insert =
                connection.prepareStatement("INSERT INTO lot VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)")) {
            Instant at = Instant.parse("2026-10-20T00:00:00Z");
            for (int i = 0; i < 5000; i++) {
                insert.setInt(1, i);
                String clock = at.atZone(ZONE).toLocalDateTime().toString().replace('T', ' ') + ":00";
                if (texts) {
                    insert.setString(2, clock);
                    insert.setString(8, clock.substring(0, 10));
                } else {
                    insert.setObject(2, at.atZone(ZONE).toLocalDateTime());
                    insert.setObject(8, at.atZone(ZONE).toLocalDate());
                }
                insert.setLong(3, at.getEpochSecond());
                insert.setLong(4, at.toEpochMilli());
                insert.setString(5, at.toString());
                insert.setDouble(6, i % 1000);
                insert.setBigDecimal(7, new BigDecimal("1234567890123456.7891"));
                insert.setString(9, i % 7 == 0 ? null : "Lot \"" + i + "\", ä");
                insert.addBatch();
                at = at.plusSeconds(600);
            }
            insert.executeBatch();
        }
        connection.commit();
    }

    static TableReading tables(StoreKind kind, Map<String, String> settings, ZoneId zone, Outside outside) {
        return ((TablesKind) kind).openTables(settings, zone, outside);
    }

    Beds(Path folder) throws Exception {
        mariaDb = new PrivateMariaDb();
        try (Connection connection = DriverManager.getConnection(mariaDb.url(""))) {
            make(
                    connection,
                    "CREATE DATABASE laboratory",
                    "CREATE DATABASE hidden",
                    "CREATE TABLE hidden.secret (id INT)",
                    "CREATE USER reader@'127.0.0.1' IDENTIFIED BY 'reads'",
                    "GRANT SELECT ON laboratory.* TO reader@'127.0.0.1'",
                    "USE laboratory");
            fill(connection, "DATETIME(3)", false);
        }
        postgreSql = new PrivatePostgreSql();
        try (Connection connection = DriverManager.getConnection(postgreSql.url("postgres"))) {
            make(connection, "CREATE DATABASE laboratory", "CREATE USER reader PASSWORD 'reads'");
        }
        try (Connection connection = DriverManager.getConnection(postgreSql.url("laboratory"))) {
            make(connection, "CREATE SCHEMA \"Lab 1\"", "SET search_path TO \"Lab 1\"");
            fill(connection, "TIMESTAMP(3)", false);
            make(
                    connection,
                    "GRANT USAGE ON SCHEMA \"Lab 1\" TO reader",
                    "GRANT SELECT ON ALL TABLES IN SCHEMA \"Lab 1\" TO reader",
                    "ANALYZE");
            connection.commit();
        }
        Files.createDirectories(folder.resolve("files"));
        try (Connection connection =
                DriverManager.getConnection("jdbc:sqlite:" + folder.resolve("files/laboratory.db"))) {
            fill(connection, "TIMESTAMP", true);
        }
        Map<String, String> server =
                Map.of("host", "127.0.0.1", "database", "laboratory", "user", "reader", "password", "reads");
        beds.add(new Bed(
                "MariaDB",
                "laboratory",
                tables(MariaDbEngine.mariaDb(), with(server, mariaDb.port()), ZONE, Outside.ANYWHERE)));
        beds.add(new Bed(
                "PostgreSQL",
                "Lab 1",
                tables(PostgreSqlEngine.kind(), with(server, postgreSql.port()), ZONE, Outside.ANYWHERE)));
        beds.add(new Bed(
                "SQLite",
                "",
                tables(
                        SqliteEngine.kind(folder.resolve("files")),
                        Map.of("file", "laboratory.db"),
                        ZONE,
                        Outside.ANYWHERE)));
    }

    static Map<String, String> with(Map<String, String> settings, int port) {
        Map<String, String> all = new java.util.HashMap<>(settings);
        all.put("port", Integer.toString(port));
        return all;
    }

    @Override
    public void close() {
        beds.forEach(bed -> bed.reading().close());
        mariaDb.close();
        postgreSql.close();
    }
}
