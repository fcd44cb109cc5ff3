package dachshund.web.backup;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.office.own.DachshundSettings;
import dachshund.office.own.OwnDatabase;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.OutputStream;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.sql.Types;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.MigrationVersion;

/**
 * The application's own tables as lines of JSON: the version of the schema first, then for each table a line with its columns
 * and a line for each row, every value as its text in SQL, as Base64 where its column is said to be, or null. Read in one snapshot; written into an empty database, whose
 * schema is made at that version and migrated when the application starts.
 */
final class OwnTables {

    private static final String HISTORY = "flyway_schema_history";
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Set<Integer> AS_TEXT = Set.of(
            Types.BIT,
            Types.BOOLEAN,
            Types.TINYINT,
            Types.SMALLINT,
            Types.INTEGER,
            Types.BIGINT,
            Types.DECIMAL,
            Types.DOUBLE,
            Types.CHAR,
            Types.VARCHAR,
            Types.LONGVARCHAR,
            Types.DATE,
            Types.TIME,
            Types.TIMESTAMP);

    private static final Set<Integer> AS_BASE64 =
            Set.of(Types.BINARY, Types.VARBINARY, Types.LONGVARBINARY, Types.BLOB);
    private static final String BASE64 = "base64:";
    /** Rows in memory; one may hold a block of the archive. */
    private static final int AT_ONCE = 100;

    private final DachshundSettings.Database settings;

    OwnTables(DachshundSettings.Database settings) {
        this.settings = settings;
    }

    private Connection connection(String database) throws SQLException {
        return DriverManager.getConnection(
                OwnDatabase.url(settings, database) + "&tinyInt1isBit=false", settings.user(), settings.secret());
    }

    /** Rows by table. */
    Map<String, Long> write(OutputStream out) throws SQLException, IOException {
        Map<String, Long> counts = new LinkedHashMap<>();
        try (Connection connection = connection(settings.name());
                Statement statement = connection.createStatement()) {
            connection.setAutoCommit(false);
            statement.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY");
            line(out, List.of(version(statement)));
            for (String table : tables(connection)) {
                counts.put(table, table(connection, table, out));
            }
            connection.rollback();
        }
        return counts;
    }

    private static void line(OutputStream out, List<String> values) throws IOException {
        out.write(JSON.writeValueAsBytes(values));
        out.write('\n');
    }

    private static String version(Statement statement) throws SQLException {
        try (ResultSet row = statement.executeQuery(
                "SELECT version FROM " + HISTORY + " WHERE success ORDER BY installed_rank DESC LIMIT 1")) {
            row.next();
            return row.getString(1);
        }
    }

    private List<String> tables(Connection connection) throws SQLException {
        List<String> tables = new ArrayList<>();
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT table_name FROM information_schema.tables WHERE table_schema = ? AND table_type = 'BASE TABLE' AND table_name <> ? ORDER BY table_name")) {
            statement.setString(1, settings.name());
            statement.setString(2, HISTORY);
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    tables.add(rows.getString(1));
                }
            }
        }
        return tables;
    }

    private static long table(Connection connection, String table, OutputStream out) throws SQLException, IOException {
        long count = 0;
        try (Statement statement = connection.createStatement()) {
            statement.setFetchSize(AT_ONCE);
            try (ResultSet rows = statement.executeQuery("SELECT * FROM " + quoted(table))) {
                int columns = rows.getMetaData().getColumnCount();
                List<String> head = new ArrayList<>(List.of("table", table));
                boolean[] base64 = new boolean[columns + 1];
                for (int i = 1; i <= columns; i++) {
                    int type = rows.getMetaData().getColumnType(i);
                    String name = rows.getMetaData().getColumnName(i);
                    base64[i] = AS_BASE64.contains(type);
                    if (!base64[i] && !AS_TEXT.contains(type)) {
                        throw new IOException(
                                "The column " + table + "." + name + " has a type that no backup is made of.");
                    }
                    head.add(base64[i] ? BASE64 + name : name);
                }
                line(out, head);
                while (rows.next()) {
                    List<String> values = new ArrayList<>(List.of("row"));
                    for (int i = 1; i <= columns; i++) {
                        byte[] bytes = base64[i] ? rows.getBytes(i) : null;
                        values.add(
                                !base64[i]
                                        ? rows.getString(i)
                                        : bytes == null
                                                ? null
                                                : Base64.getEncoder().encodeToString(bytes));
                    }
                    line(out, values);
                    count++;
                }
            }
        }
        return count;
    }

    private static String quoted(String name) {
        return "`" + name.replace("`", "``") + "`";
    }

    /** Whether there is anything in our own database. */
    boolean empty() throws SQLException {
        try (Connection connection = connection("");
                PreparedStatement statement = connection.prepareStatement(
                        "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = ?")) {
            statement.setString(1, settings.name());
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                return row.getLong(1) == 0;
            }
        }
    }

    void remove() throws SQLException {
        try (Connection connection = connection("");
                Statement statement = connection.createStatement()) {
            statement.execute("DROP DATABASE IF EXISTS " + quoted(settings.name()));
        }
    }

    /** Fills an empty database; all rows or none. @return rows by table */
    Map<String, Long> read(BufferedReader in) throws SQLException, IOException {
        try (Connection connection = connection("");
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE IF NOT EXISTS " + quoted(settings.name()) + " CHARACTER SET utf8mb4");
        }
        String version = JSON.readValue(in.readLine(), String[].class)[0];
        Flyway.configure()
                .dataSource(OwnDatabase.url(settings, settings.name()), settings.user(), settings.secret())
                .target(MigrationVersion.fromVersion(version))
                .load()
                .migrate();
        Map<String, Long> counts = new LinkedHashMap<>();
        try (Connection connection = connection(settings.name());
                Statement statement = connection.createStatement()) {
            statement.execute("SET foreign_key_checks = 0"); // tables come by their names
            connection.setAutoCommit(false);
            for (String table : tables(connection)) {
                statement.execute("DELETE FROM " + quoted(table)); // what a migration put there
            }
            String table = "";
            String[] head = {};
            PreparedStatement insert = null;
            for (String line = in.readLine(); line != null; line = in.readLine()) {
                String[] values = JSON.readValue(line, String[].class);
                if (values[0].equals("table")) {
                    finish(insert);
                    table = values[1];
                    head = values;
                    counts.put(table, 0L);
                    insert = connection.prepareStatement(insert(values));
                    continue;
                }
                for (int i = 1; i < values.length; i++) {
                    if (values[i] != null && head[i + 1].startsWith(BASE64)) {
                        insert.setBytes(i, Base64.getDecoder().decode(values[i]));
                    } else {
                        insert.setString(i, values[i]);
                    }
                }
                insert.addBatch();
                if (counts.merge(table, 1L, Long::sum) % AT_ONCE == 0) {
                    insert.executeBatch();
                }
            }
            finish(insert);
            connection.commit();
        }
        return counts;
    }

    private static void finish(PreparedStatement insert) throws SQLException {
        if (insert != null) {
            insert.executeBatch();
            insert.close();
        }
    }

    private static String insert(String[] head) {
        return "INSERT INTO " + quoted(head[1]) + " ("
                + Arrays.stream(head)
                        .skip(2)
                        .map(name -> quoted(name.startsWith(BASE64) ? name.substring(BASE64.length()) : name))
                        .collect(Collectors.joining(", "))
                + ") VALUES ("
                + String.join(", ", Collections.nCopies(head.length - 2, "?")) + ")";
    }
}
