package dachshund.links.sqlite;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableDescription.TableColumn;
import dachshund.core.destination.TableKeeping.Procedure;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.SqlType;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.links.file.Inside;
import dachshund.links.jdbc.Bind;
import dachshund.links.jdbc.CheckedSource;
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcKind;
import dachshund.links.jdbc.JdbcProblems;
import dachshund.links.jdbc.Query;
import java.io.IOException;
import java.math.BigDecimal;
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
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Properties;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.sqlite.ProgressHandler;
import org.sqlite.SQLiteConnection;

/** SQLite: one file, one writer. Errors by primary result code (SQLite documentation, "Result and Error Codes"). */
public final class SqliteEngine implements JdbcEngine {

    private static final List<Pattern> ERROR_PLACES = List.of(
            Pattern.compile("near \"(?<near>[^\"]+)\""),
            Pattern.compile("no such (?:column|table|function): (?<word>\\S+?)\\)?[.;](?=\\s|$)"));

    private static final DateTimeFormatter TO_SECONDS = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss");
    private static final DateTimeFormatter TO_MILLIS = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss.SSS");

    private static final Dialect DIALECT = new SqliteDialect();

    private static final int PRIMARY = 0xFF;
    /** Our own: the file lies outside its folder. SQLite's primary codes end below. */
    private static final int LEFT = 0xE0;

    private static final int INTERRUPTED = 9;
    /** Of its virtual machine, between two questions. */
    private static final int STEPS = 10_000;

    private static final int BUSY_MILLIS = 5000;
    private static final String ENDING = ".db";
    private static final DateTimeFormatter SECONDS =
            DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss").withZone(ZoneOffset.UTC);

    private final Inside root;
    private final Path file;

    /** @param folder all its files lie under it, which nothing here leaves */
    public static StoreKind kind(Path folder) {
        Inside root = new Inside(folder);
        List<SettingField> fields =
                new ArrayList<>(List.of(SettingField.text("file", "File", "records.db", "records.db")
                        .checked(text -> DIALECT.databaseProblem(text).orElse(""))
                        .helped("Made under the folder for files, if it is not there.")));
        fields.addAll(Batching.fields());
        return new JdbcKind(
                "sqlite",
                DIALECT,
                List.copyOf(fields),
                List.of(WriteMode.Insert.class, WriteMode.Update.class, WriteMode.InsertOrUpdate.class),
                (settings, outside) -> new SqliteEngine(root, root.named(settings.get("file"))));
    }

    SqliteEngine(Inside root, Path file) {
        this.root = root;
        this.file = file;
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public String database() {
        return file.getFileName().toString();
    }

    /** A file beside this one. */
    @Override
    public JdbcEngine in(String database) {
        if (DIALECT.databaseProblem(database).isPresent()) {
            throw new IllegalArgumentException(database);
        }
        return new SqliteEngine(root, file.resolveSibling(database.contains(".") ? database : database + ENDING));
    }

    @Override
    public String place() {
        return database();
    }

    /** A file has one writer at a time. */
    @Override
    public boolean writesAtOnce() {
        return false;
    }

    @Override
    public HikariConfig pool() {
        Properties pragmas = new Properties();
        pragmas.setProperty("busy_timeout", Integer.toString(BUSY_MILLIS));
        pragmas.setProperty("journal_mode", "WAL");
        pragmas.setProperty("synchronous", "FULL");
        HikariConfig config = new HikariConfig();
        config.setDataSource(new CheckedSource("jdbc:sqlite:" + file, pragmas, this::makeFolder));
        config.setMaximumPoolSize(2);
        return config;
    }

    private void makeFolder() throws SQLException {
        try {
            root.check(file);
            Files.createDirectories(file.getParent());
        } catch (Inside.Left left) {
            throw new SQLException(left.getMessage(), "", LEFT, left);
        } catch (IOException e) {
            throw new SQLException(
                    "The folder of " + file.getFileName() + " cannot be made: " + e.getMessage(), "", 14, e);
        }
    }

    /** Looking makes no file. */
    @Override
    public boolean isThere() {
        return Files.exists(file);
    }

    @Override
    public Connection connect(Duration limit) throws SQLException {
        makeFolder();
        return DriverManager.getConnection("jdbc:sqlite:" + file);
    }

    @Override
    public Optional<Connection> connectServer() {
        return Optional.empty();
    }

    @Override
    public String answered(Connection connection) throws SQLException {
        return "SQLite "
                + Query.texts(connection, "SELECT sqlite_version() FROM (SELECT COUNT(*) FROM sqlite_master)")
                        .get(0) + " opened " + database();
    }

    @Override
    public List<String> tables(Connection connection) throws SQLException {
        return Query.texts(
                connection,
                "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name");
    }

    @Override
    public List<String> databases(Connection connection) {
        String[] files =
                file.getParent().toFile().list((folder, name) -> name.endsWith(ENDING) || name.equals(database()));
        return files == null ? List.of() : Stream.of(files).sorted().toList();
    }

    @Override
    public List<Procedure> procedures(Connection connection) {
        return List.of();
    }

    @Override
    public Optional<TableDescription> describe(Connection connection, String table) throws SQLException {
        List<List<String>> found = Query.rows(
                connection,
                5,
                "SELECT name, type, \"notnull\", dflt_value, pk FROM pragma_table_info(?) ORDER BY cid",
                table);
        if (found.isEmpty()) {
            return Optional.empty();
        }
        List<String> primary = found.stream()
                .filter(row -> !row.get(4).equals("0"))
                .map(row -> row.get(0))
                .toList();
        List<List<String>> keys = new ArrayList<>();
        if (!primary.isEmpty()) {
            keys.add(primary);
        }
        for (String index : Query.texts(
                connection, "SELECT name FROM pragma_index_list(?) WHERE \"unique\" = 1 AND partial = 0", table)) {
            keys.add(Query.texts(connection, "SELECT name FROM pragma_index_info(?) ORDER BY seqno", index));
        }
        List<TableColumn> columns = found.stream()
                .map(row -> {
                    // A sole primary key of exactly this type is the number of the row, which SQLite gives by itself.
                    boolean numbered =
                            primary.equals(List.of(row.get(0))) && row.get(1).equalsIgnoreCase("INTEGER");
                    return new TableColumn(
                            row.get(0),
                            row.get(1),
                            "1".equals(row.get(2)) && row.get(3) == null && !numbered,
                            numbered);
                })
                .toList();
        return Optional.of(new TableDescription(table, columns, keys, true));
    }

    @Override
    public List<Pattern> errorPlaces() {
        return ERROR_PLACES;
    }

    /** As most programs write times there: what the clock showed, to the second, with a blank between date and time. */
    @Override
    public void bindTime(PreparedStatement statement, int at, Instant time, ZoneId zone) throws SQLException {
        boolean whole = time.truncatedTo(ChronoUnit.SECONDS).equals(time);
        statement.setString(at, (whole ? TO_SECONDS : TO_MILLIS).format(LocalDateTime.ofInstant(time, zone)));
    }

    /** It has neither dates nor truth values. */
    @Override
    public void bindValue(PreparedStatement statement, int at, Object value) throws SQLException {
        if (value instanceof BigDecimal number) {
            if (number.stripTrailingZeros().scale() <= 0
                    && number.toBigInteger().bitLength() < Long.SIZE) {
                statement.setLong(at, number.longValue());
            } else {
                statement.setDouble(at, number.doubleValue());
            }
        } else if (value instanceof Long || value instanceof Integer) {
            // As a text it would be more than every number where no column says that it is one.
            statement.setLong(at, ((Number) value).longValue());
        } else if (value instanceof Double number) {
            statement.setDouble(at, number);
        } else if (value instanceof Boolean yes) {
            statement.setInt(at, yes ? 1 : 0);
        } else {
            statement.setString(at, value.toString());
        }
    }

    @Override
    public boolean namedArguments() {
        return false;
    }

    /** Beside the writer, in a file that it cannot change. */
    @Override
    public HikariConfig readingPool() {
        HikariConfig config = pool();
        config.setConnectionInitSql("PRAGMA query_only = ON");
        return config;
    }

    /** The driver's own limit is one for locks alone; here the work is asked now and then whether it may go on. */
    /** Everything is serializable there (SQLite documentation, "Isolation In SQLite"). */
    @Override
    public void isolate(HikariConfig pool, String level) {}

    @Override
    public Limit limit(Connection connection, Statement statement, Duration within) throws SQLException {
        if (within.isZero()) {
            return () -> {};
        }
        Connection own = connection.unwrap(SQLiteConnection.class);
        long until = System.nanoTime() + within.toNanos();
        ProgressHandler.setHandler(own, STEPS, new ProgressHandler() {
            @Override
            protected int progress() {
                return System.nanoTime() > until ? 1 : 0;
            }
        });
        return () -> ProgressHandler.clearHandler(own);
    }

    @Override
    public boolean brokenOff(SQLException e) {
        return (e.getErrorCode() & PRIMARY) == INTERRUPTED;
    }

    @Override
    public Kind kind(SQLException e) {
        String message = String.valueOf(e.getMessage());
        return switch (e.getErrorCode() & PRIMARY) {
            case 19 ->
                message.contains("UNIQUE") || message.contains("PRIMARYKEY") || message.contains("PRIMARY KEY")
                        ? Kind.DUPLICATE
                        : Kind.CONTENT;
            case 18, 20, 25 -> Kind.CONTENT;
            // an error in the statement: no such table or column
            case 1 -> Kind.TABLE;
            case 5, 6 -> Kind.BUSY;
            // cannot be opened, read only, full, no file of its kind, an error of the disk
            case 8, 10, 13, 14, 23, 26, LEFT -> Kind.AWAY;
            default -> JdbcProblems.ofConnection(e) ? Kind.AWAY : Kind.UNKNOWN;
        };
    }

    @Override
    public Optional<String> sentence(SQLException e) {
        return Optional.ofNullable(
                switch (e.getErrorCode() & PRIMARY) {
                    case 5 -> "The file " + database() + " is held by another program";
                    case 8, 14, 23 -> "The file " + database() + " cannot be written";
                    case LEFT -> "It is refused";
                    case 26 -> "The file " + database() + " is not a SQLite database";
                    default -> null;
                });
    }

    @Override
    public String field(SQLException e) {
        return "file";
    }

    /** Times are texts in UTC, as SQLite's date functions read them. */
    @Override
    public void bind(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException {
        if (cell instanceof Instant time) {
            statement.setString(at, SECONDS.format(time) + fraction(time.getNano(), type.size()));
        } else if (cell instanceof LocalTime time) {
            statement.setString(
                    at,
                    time.withNano(0).format(DateTimeFormatter.ISO_LOCAL_TIME) + fraction(time.getNano(), type.size()));
        } else if (cell instanceof BigDecimal exact) {
            statement.setString(at, exact.toPlainString());
        } else if (cell instanceof LocalDate) {
            statement.setString(at, cell.toString());
        } else {
            Bind.standard(statement, at, cell, type);
        }
    }

    private static String fraction(int nanos, int digits) {
        return digits == 0
                ? ""
                : "." + String.format(Locale.ROOT, "%09d", nanos).substring(0, digits);
    }

    /** Everything of a declared type that SQLite does not have comes back as text or number, so the layout's type says what it is. */
    @Override
    public Object read(ResultSet rows, int at, SqlType type) throws SQLException {
        Object cell = rows.getObject(at);
        if (cell == null) {
            return null;
        }
        try {
            return switch (type.family()) {
                case BOOLEAN -> rows.getInt(at) != 0;
                case DECIMAL -> new BigDecimal(rows.getString(at));
                case TIMESTAMP -> Instant.parse(rows.getString(at).replace(' ', 'T') + "Z");
                case DATE -> LocalDate.parse(rows.getString(at));
                case TIME -> LocalTime.parse(rows.getString(at));
                case TEXT, JSON, UUID -> rows.getString(at);
                default -> cell;
            };
        } catch (java.time.DateTimeException | NumberFormatException writtenByAnother) {
            return rows.getString(at);
        }
    }

    @Override
    public boolean typesByCell() {
        return true;
    }

    @Override
    public String makeMarks(String table) {
        return "CREATE TABLE IF NOT EXISTS " + table + " (lane TEXT PRIMARY KEY, row_id TEXT NOT NULL)";
    }

    @Override
    public String moveMark(String table) {
        return "INSERT INTO " + table
                + " (lane, row_id) VALUES (?, ?) ON CONFLICT (lane) DO UPDATE SET row_id = excluded.row_id";
    }

    @Override
    public String daysAgo(int days) {
        return "datetime('now', '-" + days + " days')";
    }

    @Override
    public Optional<String> copyDesign(String copy, String table) {
        return Optional.empty();
    }

    @Override
    public String dropTemporary(String table) {
        return "DROP TABLE IF EXISTS temp." + DIALECT.quote(table);
    }
}
