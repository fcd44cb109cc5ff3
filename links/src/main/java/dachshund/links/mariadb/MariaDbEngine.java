package dachshund.links.mariadb;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableDescription.TableColumn;
import dachshund.core.destination.TableKeeping.Procedure;
import dachshund.core.layout.SqlType;
import dachshund.core.reach.Outside;
import dachshund.core.reader.TableName;
import dachshund.core.sql.Dialect;
import dachshund.links.jdbc.Bind;
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcKind;
import dachshund.links.jdbc.JdbcProblems;
import dachshund.links.jdbc.Query;
import dachshund.links.jdbc.ServerEngine;
import dachshund.links.jdbc.ServerSettings;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.regex.Pattern;
import org.mariadb.jdbc.BasePreparedStatement;
import org.mariadb.jdbc.codec.Parameter;
import org.mariadb.jdbc.plugin.codec.LocalDateTimeCodec;

/** MariaDB, and MySQL as far as they are alike. Errors by code and SQLSTATE (MariaDB documentation, "Error Codes"). */
public final class MariaDbEngine extends ServerEngine {

    private static final List<Pattern> ERROR_PLACES = List.of(
            Pattern.compile("near '(?<near>.+)' at line \\d+"),
            Pattern.compile("Unknown column '(?<word>[^']+)'"),
            Pattern.compile("Table '(?<word>[^']+)' doesn't exist"),
            Pattern.compile("FUNCTION (?<word>\\S+) does not exist"));

    public static StoreKind mariaDb() {
        return kind("mariadb", new MariaDbDialect());
    }

    /** MySQL speaks the same protocol. */
    public static StoreKind mySql() {
        return kind("mysql", new MySqlDialect());
    }

    private static StoreKind kind(String id, Dialect dialect) {
        return JdbcKind.server(
                id,
                dialect,
                "3306",
                (settings, outside) -> new MariaDbEngine(dialect, ServerSettings.of(settings), outside));
    }

    MariaDbEngine(Dialect dialect, ServerSettings settings, Outside outside) {
        this(dialect, settings, outside, false);
    }

    private MariaDbEngine(Dialect dialect, ServerSettings settings, Outside outside, boolean beside) {
        super(dialect, settings, outside, beside);
    }

    @Override
    public JdbcEngine in(String database) {
        return new MariaDbEngine(dialect, settings.withDatabase(database), outside, true);
    }

    @Override
    protected String url(String database) {
        return "jdbc:mariadb://" + settings.place() + "/" + database;
    }

    @Override
    protected String serverDatabase() {
        return "";
    }

    /** The server reads each statement once for each connection. */
    @Override
    protected void remember(Properties properties) {
        properties.setProperty("useServerPrepStmts", "true");
        properties.setProperty("cachePrepStmts", "true");
        properties.setProperty("prepStmtCacheSize", "64");
    }

    @Override
    protected Properties properties(Duration connectWithin) {
        Properties properties = new Properties();
        properties.setProperty("connectTimeout", Long.toString(connectWithin.toMillis()));
        properties.setProperty("socketTimeout", Long.toString(settings.answerSeconds() * 1000L));
        properties.setProperty("useBulkStmts", "true");
        properties.setProperty("timezone", "UTC");
        properties.setProperty("connectionTimeZone", "UTC");
        properties.setProperty("forceConnectionTimeZoneToSession", "true");
        properties.setProperty("sslMode", settings.tls() ? "verify-full" : "disable");
        if (settings.tls()) {
            properties.setProperty("tlsSocketType", TellingTls.TYPE);
        }
        if (settings.tls() && !settings.authority().isEmpty()) {
            properties.setProperty("serverSslCert", settings.authority());
        }
        // Nothing is cut or clipped silently, whatever the server's own mode is.
        properties.setProperty(
                "sessionVariables",
                "sql_mode='STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO',lock_wait_timeout=5,innodb_lock_wait_timeout=5");
        return properties;
    }

    @Override
    public String answered(Connection connection) throws SQLException {
        String version = Query.texts(connection, "SELECT VERSION()").get(0);
        return (version.contains("MariaDB") ? "MariaDB " : "MySQL ") + version.replaceFirst("-MariaDB.*", "")
                + " answered at " + place();
    }

    @Override
    public List<String> tables(Connection connection) throws SQLException {
        return Query.texts(
                connection,
                "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' ORDER BY table_name");
    }

    @Override
    public List<String> databases(Connection connection) throws SQLException {
        return Query.texts(
                connection,
                "SELECT schema_name FROM information_schema.schemata WHERE schema_name NOT IN ('information_schema', 'performance_schema', 'mysql', 'sys') ORDER BY schema_name");
    }

    @Override
    public List<Procedure> procedures(Connection connection) throws SQLException {
        Map<String, List<String>> arguments = new LinkedHashMap<>();
        for (List<String> row : Query.rows(
                connection,
                2,
                "SELECT r.routine_name, p.parameter_name FROM information_schema.routines r "
                        + "LEFT JOIN information_schema.parameters p ON p.specific_schema = r.routine_schema AND p.specific_name = r.specific_name "
                        + "WHERE r.routine_schema = DATABASE() AND r.routine_type = 'PROCEDURE' ORDER BY r.routine_name, p.ordinal_position")) {
            List<String> names = arguments.computeIfAbsent(row.get(0), name -> new ArrayList<>());
            Optional.ofNullable(row.get(1)).ifPresent(names::add);
        }
        return arguments.entrySet().stream()
                .map(each -> new Procedure(each.getKey(), each.getValue()))
                .toList();
    }

    @Override
    public Optional<TableDescription> describe(Connection connection, String table) throws SQLException {
        List<List<String>> tables = Query.rows(
                connection,
                2,
                "SELECT t.table_name, e.transactions FROM information_schema.tables t "
                        + "LEFT JOIN information_schema.engines e ON e.engine = t.engine WHERE t.table_schema = DATABASE() AND t.table_name = ?",
                table);
        if (tables.isEmpty()) {
            return Optional.empty();
        }
        String real = tables.get(0).get(0);
        Map<String, List<String>> keys = new LinkedHashMap<>();
        for (List<String> row : Query.rows(
                connection,
                2,
                "SELECT index_name, column_name FROM information_schema.statistics "
                        + "WHERE table_schema = DATABASE() AND table_name = ? AND non_unique = 0 ORDER BY index_name, seq_in_index",
                real)) {
            keys.computeIfAbsent(row.get(0), name -> new ArrayList<>()).add(row.get(1));
        }
        List<TableColumn> columns = new ArrayList<>();
        for (List<String> row : Query.rows(
                connection,
                5,
                "SELECT column_name, column_type, is_nullable, column_default, extra FROM information_schema.columns "
                        + "WHERE table_schema = DATABASE() AND table_name = ? ORDER BY ordinal_position",
                real)) {
            String extra = row.get(4).toLowerCase(Locale.ROOT);
            boolean made = extra.contains("auto_increment") || extra.contains("generated");
            columns.add(new TableColumn(
                    row.get(0), row.get(1), "NO".equals(row.get(2)) && row.get(3) == null && !made, made));
        }
        return Optional.of(new TableDescription(
                real,
                columns,
                List.copyOf(keys.values()),
                "YES".equals(tables.get(0).get(1))));
    }

    /** A file on the server is none of its tables, and a lock changes no row: a read-only transaction lets both through. */
    @Override
    public Optional<String> refuses(String query) {
        return HiddenWords.refusal(query);
    }

    @Override
    public List<Pattern> errorPlaces() {
        return ERROR_PLACES;
    }

    @Override
    public boolean namedArguments() {
        return false;
    }

    /** The driver keeps to itself that a connection is for reading; the server is told. */
    @Override
    public HikariConfig readingPool() {
        HikariConfig config = pool();
        config.setConnectionInitSql("SET SESSION TRANSACTION READ ONLY");
        return config;
    }

    /** MariaDB, MySQL, and a statement that the driver itself breaks off. */
    @Override
    public boolean brokenOff(SQLException e) {
        return e.getErrorCode() == 1969 || e.getErrorCode() == 3024 || e.getErrorCode() == 1317;
    }

    @Override
    public boolean lacksLetters(SQLException e) {
        return e.getErrorCode() == 1267; // ER_CANT_AGGREGATE_2COLLATIONS
    }

    @Override
    public Kind kind(SQLException e) {
        String state = e.getSQLState() == null ? "" : e.getSQLState();
        // The driver's own words, under the state of a statement that is wrong: the connection ended meanwhile.
        if (e.getErrorCode() == -1 && String.valueOf(e.getMessage()).contains("closed connection")) {
            return Kind.AWAY;
        }
        return switch (e.getErrorCode()) {
            case 1205 -> Kind.BUSY; // locked
            case 1213 -> Kind.CLASHED; // deadlock
            case 1062, 1586 -> Kind.DUPLICATE;
            case 1146,
                    1054,
                    1142,
                    1143,
                    1103,
                    1932,
                    1033,
                    1034,
                    1194,
                    1195,
                    1036,
                    1050,
                    1060,
                    1118,
                    1071,
                    1064,
                    1305,
                    1318,
                    1370,
                    // a table that cannot grow, as on a full disk; an error of the disk under it
                    1114,
                    1026,
                    1030 -> Kind.TABLE;
            case 1044, 1049 -> beside ? Kind.TABLE : Kind.AWAY;
            // refused log-in, too many connections, full disk, shutting down
            case 1045, 1698, 1040, 1203, 1021, 1053, 1290, 1836, 1927, 4031 -> Kind.AWAY;
            case 1048, 1264, 1265, 1292, 1366, 1406, 1364, 1452, 4025, 3819, 1526, 1644 -> Kind.CONTENT;
            default ->
                state.startsWith("22") || state.startsWith("23") || state.startsWith("45")
                        ? Kind.CONTENT
                        : state.startsWith("42") ? Kind.TABLE : JdbcProblems.ofConnection(e) ? Kind.AWAY : Kind.UNKNOWN;
        };
    }

    @Override
    public Optional<String> sentence(SQLException e) {
        return Optional.ofNullable(
                switch (e.getErrorCode()) {
                    case 1045, 1698 ->
                        "The database at " + place() + " refuses this user or password"
                                + (settings.tls() ? "" : ", or takes them over TLS only");
                    // the server does not say which of the two it is
                    case 1044 -> "This user may not use the database, or there is no such database";
                    case 1049 -> "There is no such database at " + place();
                    case 1146 -> "The table is not there";
                    default -> null;
                });
    }

    @Override
    public String field(SQLException e) {
        return switch (e.getErrorCode()) {
            case 1045, 1698 -> "password";
            case 1044, 1049 -> "database";
            default -> "host";
        };
    }

    /** DATETIME holds a wall clock: it is given the one of UTC. */
    @Override
    public void bind(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException {
        if (cell instanceof Instant time) {
            // By setObject the driver looks through all its codecs for every value.
            statement
                    .unwrap(BasePreparedStatement.class)
                    .setParameter(at - 1, new Parameter<>(LocalDateTimeCodec.INSTANCE, Bind.utc(time)));
        } else {
            Bind.standard(statement, at, cell, type);
        }
    }

    @Override
    public Object read(ResultSet rows, int at, SqlType type) throws SQLException {
        return Bind.read(rows, at);
    }

    @Override
    public Map<TableName, Long> estimates(Connection connection) throws SQLException {
        Map<TableName, Long> rows = new HashMap<>();
        for (List<String> each : Query.rows(
                connection,
                3,
                "SELECT table_schema, table_name, table_rows FROM information_schema.tables WHERE table_rows IS NOT NULL")) {
            rows.put(new TableName(each.get(0), each.get(1)), Long.valueOf(each.get(2)));
        }
        return rows;
    }

    @Override
    public Optional<String> mayWrite(Connection connection) throws SQLException {
        List<String> may = Query.texts(
                connection,
                "SELECT DISTINCT privilege_type FROM (SELECT privilege_type FROM information_schema.user_privileges "
                        + "UNION ALL SELECT privilege_type FROM information_schema.schema_privileges "
                        + "UNION ALL SELECT privilege_type FROM information_schema.table_privileges) p "
                        + "WHERE privilege_type IN ('INSERT', 'UPDATE', 'DELETE', 'DROP', 'CREATE', 'ALTER') ORDER BY privilege_type");
        return may.isEmpty() ? Optional.empty() : Optional.of(String.join(", ", may));
    }

    /** DATETIME is what some clock showed. */
    @Override
    public boolean namesInstants(String typeName) {
        return typeName.toUpperCase(Locale.ROOT).startsWith("TIMESTAMP");
    }

    @Override
    public String makeMarks(String table) {
        return "CREATE TABLE IF NOT EXISTS " + table
                + " (lane VARCHAR(40) CHARACTER SET ascii PRIMARY KEY, row_id CHAR(40) CHARACTER SET ascii NOT NULL) ENGINE=InnoDB";
    }

    @Override
    public String moveMark(String table) {
        return "INSERT INTO " + table + " (lane, row_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE row_id = VALUES(row_id)";
    }

    @Override
    public String makeDone(String table) {
        return super.makeDone(table) + " ENGINE=InnoDB CHARACTER SET utf8mb4 COLLATE utf8mb4_bin";
    }

    @Override
    public Optional<String> copyDesign(String copy, String table) {
        return Optional.of("CREATE TEMPORARY TABLE " + dialect.quote(copy) + " LIKE " + dialect.quote(table));
    }

    @Override
    public String dropTemporary(String table) {
        return "DROP TEMPORARY TABLE IF EXISTS " + dialect.quote(table);
    }
}
