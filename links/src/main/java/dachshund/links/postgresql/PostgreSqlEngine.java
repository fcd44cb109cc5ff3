package dachshund.links.postgresql;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableDescription.TableColumn;
import dachshund.core.destination.TableKeeping.Procedure;
import dachshund.core.layout.SqlType;
import dachshund.core.reach.Outside;
import dachshund.core.reader.TableName;
import dachshund.core.row.Row;
import dachshund.links.jdbc.AuthoritySockets;
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
import java.sql.Statement;
import java.sql.Types;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.regex.Pattern;

/** PostgreSQL. Tables are those of the first schema on the user's search path. Errors by SQLSTATE (PostgreSQL documentation, appendix A). */
public final class PostgreSqlEngine extends ServerEngine {

    private static final List<Pattern> ERROR_PLACES = List.of(Pattern.compile(";? *Position: (?<position>\\d+)"));

    private static final PostgreSqlDialect DIALECT = new PostgreSqlDialect();

    /** Statements that a connection keeps ready, so that hundreds of tables in turn are not planned anew each time. */
    private static final int STATEMENTS = 1000;

    private static final String FAILED_TRANSACTION = "25P02";

    private final ArrayInsert arrays = new ArrayInsert(DIALECT);

    PostgreSqlEngine(ServerSettings settings, Outside outside) {
        this(settings, outside, false);
    }

    private PostgreSqlEngine(ServerSettings settings, Outside outside, boolean beside) {
        super(DIALECT, settings, outside, beside);
    }

    public static StoreKind kind() {
        return JdbcKind.server(
                "postgresql",
                DIALECT,
                "5432",
                (settings, outside) -> new PostgreSqlEngine(ServerSettings.of(settings), outside));
    }

    @Override
    public JdbcEngine in(String database) {
        return new PostgreSqlEngine(settings.withDatabase(database), outside, true);
    }

    @Override
    protected String url(String database) {
        return "jdbc:postgresql://" + settings.place() + "/"
                + database.replace("%", "%25").replace("/", "%2F").replace("?", "%3F");
    }

    /** A new database is made from within another; every server has the one named postgres. */
    @Override
    protected String serverDatabase() {
        return "postgres";
    }

    @Override
    protected Properties properties(Duration connectWithin) {
        String seconds = Long.toString(Math.max(1, connectWithin.toSeconds()));
        Properties properties = new Properties();
        properties.setProperty("connectTimeout", seconds);
        properties.setProperty("loginTimeout", seconds);
        properties.setProperty("socketTimeout", Integer.toString(settings.answerSeconds()));
        properties.setProperty("reWriteBatchedInserts", "true");
        properties.setProperty("preparedStatementCacheQueries", Integer.toString(STATEMENTS));
        properties.setProperty("ApplicationName", "dachshund");
        properties.setProperty("sslmode", settings.tls() ? "verify-full" : "disable");
        if (settings.tls()) {
            properties.setProperty("sslfactory", AuthoritySockets.class.getName());
            properties.setProperty(AuthoritySockets.AUTHORITY, settings.authority());
        }
        properties.setProperty("options", "-c TimeZone=UTC -c lock_timeout=5000 -c client_min_messages=warning");
        return properties;
    }

    @Override
    public String answered(Connection connection) throws SQLException {
        return "PostgreSQL "
                + Query.texts(connection, "SHOW server_version").get(0).replaceFirst(" .*", "") + " answered at "
                + place();
    }

    @Override
    public List<String> tables(Connection connection) throws SQLException {
        return Query.texts(
                connection,
                "SELECT table_name FROM information_schema.tables WHERE table_schema = current_schema() AND table_type = 'BASE TABLE' ORDER BY table_name");
    }

    @Override
    public List<String> databases(Connection connection) throws SQLException {
        return Query.texts(connection, "SELECT datname FROM pg_database WHERE NOT datistemplate ORDER BY datname");
    }

    @Override
    public List<Procedure> procedures(Connection connection) throws SQLException {
        Map<String, List<String>> arguments = new LinkedHashMap<>();
        for (List<String> row : Query.rows(
                connection,
                3,
                "SELECT r.specific_name, r.routine_name, p.parameter_name FROM information_schema.routines r "
                        + "LEFT JOIN information_schema.parameters p ON p.specific_schema = r.specific_schema AND p.specific_name = r.specific_name "
                        + "WHERE r.routine_schema = current_schema() AND r.routine_type = 'PROCEDURE' ORDER BY r.routine_name, r.specific_name, p.ordinal_position")) {
            List<String> names = arguments.computeIfAbsent(row.get(0) + "\n" + row.get(1), name -> new ArrayList<>());
            Optional.ofNullable(row.get(2)).ifPresent(names::add);
        }
        return arguments.entrySet().stream()
                .map(each -> new Procedure(each.getKey().substring(each.getKey().indexOf('\n') + 1), each.getValue()))
                .toList();
    }

    @Override
    public Optional<TableDescription> describe(Connection connection, String table) throws SQLException {
        // One's own search path finds a temporary table of that name first, as a query would.
        List<List<String>> columns = Query.rows(
                connection,
                5,
                """
                SELECT a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull, a.atthasdef OR a.attgenerated <> '', a.attidentity <> ''
                FROM pg_attribute a WHERE a.attrelid = to_regclass(quote_ident(?)) AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum""",
                table);
        if (columns.isEmpty()) {
            return Optional.empty();
        }
        Map<String, List<String>> keys = new LinkedHashMap<>();
        for (List<String> row : Query.rows(
                connection,
                2,
                """
                SELECT i.indexrelid::text, a.attname FROM pg_index i CROSS JOIN LATERAL unnest(i.indkey) WITH ORDINALITY AS k(no, place)
                JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = k.no
                WHERE i.indrelid = to_regclass(quote_ident(?)) AND i.indisunique AND i.indpred IS NULL ORDER BY 1, k.place""",
                table)) {
            keys.computeIfAbsent(row.get(0), name -> new ArrayList<>()).add(row.get(1));
        }
        List<TableColumn> described = columns.stream()
                .map(row -> {
                    boolean made = "t".equals(row.get(4));
                    return new TableColumn(
                            row.get(0), row.get(1), "t".equals(row.get(2)) && !"t".equals(row.get(3)) && !made, made);
                })
                .toList();
        return Optional.of(new TableDescription(table, described, List.copyOf(keys.values()), true));
    }

    @Override
    public List<Pattern> errorPlaces() {
        return ERROR_PLACES;
    }

    /**
     * Written as text of no type, which the server reads as what the column beside it is: an instant by its offset, or what the
     * clock of that zone showed, where it passes over the offset (PostgreSQL documentation, 8.5.1.3).
     */
    @Override
    public void bindTime(PreparedStatement statement, int at, Instant time, ZoneId zone) throws SQLException {
        statement.setObject(at, time.atZone(zone).toOffsetDateTime().toString(), Types.OTHER);
    }

    @Override
    public boolean bindsInstants() {
        return true;
    }

    /** Texts have no type either, so that they compare with names of enumerations, identifiers and the like. */
    @Override
    public void bindValue(PreparedStatement statement, int at, Object value) throws SQLException {
        if (value instanceof String) {
            statement.setObject(at, value, Types.OTHER);
        } else {
            statement.setObject(at, value);
        }
    }

    @Override
    public boolean namedArguments() {
        return true;
    }

    /** Kept by the server: what the driver would send to break a statement off is lost where it comes before the statement does. */
    @Override
    public Limit limit(Connection connection, Statement statement, Duration within) throws SQLException {
        if (within.isZero()) {
            return () -> {};
        }
        takesAtMost(connection, Math.max(1, within.toMillis()));
        return () -> {
            try {
                takesAtMost(connection, 0);
            } catch (SQLException failed) {
                // What a transaction that failed has set is undone with it.
                if (!FAILED_TRANSACTION.equals(failed.getSQLState())) {
                    throw failed;
                }
            }
        };
    }

    private static void takesAtMost(Connection connection, long millis) throws SQLException {
        try (Statement set = connection.createStatement()) {
            set.execute("SET statement_timeout = " + millis);
        }
    }

    @Override
    public boolean brokenOff(SQLException e) {
        return "57014".equals(e.getSQLState());
    }

    @Override
    public boolean lacksLetters(SQLException e) {
        return "22P05".equals(e.getSQLState()); // untranslatable_character
    }

    @Override
    public Kind kind(SQLException e) {
        String state = e.getSQLState() == null ? "" : e.getSQLState();
        if (state.equals("23505")) {
            return Kind.DUPLICATE;
        }
        if (state.equals("40P01") || state.equals("40001")) {
            return Kind.CLASHED; // deadlock, not to be put in order with others
        }
        if (state.equals("55P03")) {
            return Kind.BUSY; // locked
        }
        if (beside && state.equals("3D000")) {
            return Kind.TABLE;
        }
        // 42: not there or not allowed; 25006: read only
        if (state.startsWith("42") || state.startsWith("55") || state.equals("25006") || state.startsWith("0A")) {
            return Kind.TABLE;
        }
        // 57014: took too long and was broken off
        if (state.equals("57014")) {
            return Kind.BUSY;
        }
        // 28: refused log-in, 3D: no such database, 53: too many connections or a full disk, 57P: shutting down or
        // starting
        if (state.startsWith("28") || state.startsWith("3D") || state.startsWith("53") || state.startsWith("57P")) {
            return Kind.AWAY;
        }
        if (state.startsWith("22") || state.startsWith("23") || state.startsWith("P0") || state.startsWith("44")) {
            return Kind.CONTENT;
        }
        return JdbcProblems.ofConnection(e) ? Kind.AWAY : Kind.UNKNOWN;
    }

    @Override
    public Optional<String> sentence(SQLException e) {
        return Optional.ofNullable(
                switch (e.getSQLState() == null ? "" : e.getSQLState()) {
                    case "28P01", "28000" -> "The database at " + place() + " refuses this user or password";
                    case "3D000" -> "There is no such database at " + place();
                    case "42P01" -> "The table is not there";
                    case "42501" -> "This user may not do that";
                    default -> null;
                });
    }

    @Override
    public String field(SQLException e) {
        return switch (e.getSQLState() == null ? "" : e.getSQLState()) {
            case "28P01", "28000" -> "password";
            case "3D000" -> "database";
            default -> "host";
        };
    }

    @Override
    public void bind(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException {
        if (cell instanceof Instant time) {
            statement.setObject(at, Bind.utc(time).atOffset(ZoneOffset.UTC));
        } else if (cell != null && type.family() == SqlType.Family.JSON) {
            statement.setObject(at, cell, Types.OTHER);
        } else if (cell instanceof java.util.UUID) {
            statement.setObject(at, cell);
        } else if (cell == null) {
            statement.setNull(
                    at,
                    switch (type.family()) {
                        case JSON, UUID -> Types.OTHER;
                        case TIMESTAMP -> Types.TIMESTAMP_WITH_TIMEZONE;
                        case SMALLINT -> Types.SMALLINT;
                        case INTEGER -> Types.INTEGER;
                        default -> Bind.nullType(type);
                    });
        } else if (cell instanceof Long whole && type.family() != SqlType.Family.BIGINT) {
            statement.setInt(at, whole.intValue());
        } else {
            Bind.standard(statement, at, cell, type);
        }
    }

    @Override
    public boolean writeAll(Connection connection, RowBatch batch, List<Row> rows) throws SQLException {
        return arrays.write(connection, batch, rows);
    }

    @Override
    public Object read(ResultSet rows, int at, SqlType type) throws SQLException {
        return switch (rows.getMetaData().getColumnTypeName(at)) {
            case "timestamptz" ->
                Optional.ofNullable(rows.getObject(at, OffsetDateTime.class))
                        .map(OffsetDateTime::toInstant)
                        .orElse(null);
            case "timestamp" ->
                Optional.ofNullable(rows.getObject(at, LocalDateTime.class))
                        .map(time -> time.toInstant(ZoneOffset.UTC))
                        .orElse(null);
            case "time" -> rows.getObject(at, LocalTime.class);
            case "bool" -> rows.getObject(at);
            default -> Bind.read(rows, at);
        };
    }

    /** Of a table that nobody has analysed there is no estimate: -1 since version 14, 0 before. */
    @Override
    public Map<TableName, Long> estimates(Connection connection) throws SQLException {
        Map<TableName, Long> rows = new LinkedHashMap<>();
        for (List<String> each : Query.rows(
                connection,
                3,
                "SELECT n.nspname, c.relname, c.reltuples::bigint::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace "
                        + "WHERE c.relkind IN ('r', 'p', 'm', 'f') AND c.reltuples > 0")) {
            rows.put(new TableName(each.get(0), each.get(1)), Long.valueOf(each.get(2)));
        }
        return rows;
    }

    @Override
    public Optional<String> mayWrite(Connection connection) throws SQLException {
        List<String> may = Query.texts(
                connection,
                "SELECT p FROM unnest(ARRAY['INSERT', 'UPDATE', 'DELETE', 'TRUNCATE']) p WHERE EXISTS (SELECT 1 FROM pg_class c "
                        + "JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p') "
                        + "AND n.nspname NOT IN ('pg_catalog', 'information_schema', 'pg_toast') AND has_table_privilege(c.oid, p)) ORDER BY p");
        return may.isEmpty() ? Optional.empty() : Optional.of(String.join(", ", may));
    }

    @Override
    public boolean namesInstants(String typeName) {
        return typeName.equals("timestamptz");
    }

    @Override
    public String makeMarks(String table) {
        return "CREATE TABLE IF NOT EXISTS " + table + " (lane VARCHAR(40) PRIMARY KEY, row_id CHAR(40) NOT NULL)";
    }

    @Override
    public String moveMark(String table) {
        return "INSERT INTO " + table
                + " (lane, row_id) VALUES (?, ?) ON CONFLICT (lane) DO UPDATE SET row_id = excluded.row_id";
    }

    @Override
    public Optional<String> copyDesign(String copy, String table) {
        return Optional.of(
                "CREATE TEMPORARY TABLE " + dialect.quote(copy) + " (LIKE " + dialect.quote(table) + " INCLUDING ALL)");
    }

    @Override
    public String dropTemporary(String table) {
        return "DROP TABLE IF EXISTS pg_temp." + dialect.quote(table);
    }
}
