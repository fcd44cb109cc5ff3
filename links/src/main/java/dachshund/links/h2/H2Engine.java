package dachshund.links.h2;

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
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcKind;
import dachshund.links.jdbc.JdbcProblems;
import dachshund.links.jdbc.Query;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Clob;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/** H2 within this process: one file. */
public final class H2Engine implements JdbcEngine {

    private static final Dialect DIALECT = new H2Dialect();

    private static final String ENDING = ".mv.db";

    private final Inside root;
    private final Path file;

    /** @param folder all its files lie under it, which nothing here leaves */
    public static StoreKind kind(Path folder) {
        Inside root = new Inside(folder);
        List<SettingField> fields = new ArrayList<>(List.of(SettingField.text("file", "File", "records", "records")
                .checked(text -> DIALECT.databaseProblem(text).orElse(""))));
        fields.addAll(Batching.fields());
        return new JdbcKind(
                "h2",
                DIALECT,
                List.copyOf(fields),
                List.of(WriteMode.Insert.class, WriteMode.Update.class, WriteMode.InsertOrUpdate.class),
                (settings, outside) -> new H2Engine(root, root.named(settings.get("file"))));
    }

    H2Engine(Inside root, Path file) {
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

    @Override
    public JdbcEngine in(String database) {
        return new H2Engine(root, file.resolveSibling(database));
    }

    @Override
    public String place() {
        return database();
    }

    @Override
    public boolean writesAtOnce() {
        return false;
    }

    @Override
    public boolean isThere() {
        return Files.exists(file.resolveSibling(database() + ENDING));
    }

    private String url() {
        return "jdbc:h2:file:" + file.toAbsolutePath()
                + ";DB_CLOSE_ON_EXIT=FALSE;DATABASE_TO_UPPER=FALSE;CASE_INSENSITIVE_IDENTIFIERS=TRUE";
    }

    @Override
    public HikariConfig pool() {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url());
        config.setMaximumPoolSize(2);
        return config;
    }

    @Override
    public Connection connect(Duration limit) throws SQLException {
        return DriverManager.getConnection(url());
    }

    @Override
    public Optional<Connection> connectServer() {
        return Optional.empty();
    }

    @Override
    public String answered(Connection connection) throws SQLException {
        return "H2 " + connection.getMetaData().getDatabaseProductVersion() + " opened " + database();
    }

    @Override
    public List<String> tables(Connection connection) throws SQLException {
        return Query.texts(
                connection,
                "SELECT TABLE_NAME FROM INFORMATION_SCHEMA.TABLES WHERE TABLE_SCHEMA = 'PUBLIC' AND TABLE_TYPE = 'BASE TABLE' ORDER BY TABLE_NAME");
    }

    @Override
    public List<String> databases(Connection connection) {
        String[] files = file.getParent().toFile().list((folder, name) -> name.endsWith(ENDING));
        return files == null
                ? List.of()
                : Stream.of(files)
                        .map(name -> name.substring(0, name.length() - ENDING.length()))
                        .sorted()
                        .toList();
    }

    @Override
    public List<Procedure> procedures(Connection connection) {
        return List.of();
    }

    @Override
    public Optional<TableDescription> describe(Connection connection, String table) throws SQLException {
        List<TableColumn> columns = new ArrayList<>();
        try (ResultSet found = connection.getMetaData().getColumns(null, "PUBLIC", escaped(connection, table), null)) {
            while (found.next()) {
                if (found.getString("TABLE_NAME").equals(table)) {
                    boolean made = "YES".equals(found.getString("IS_AUTOINCREMENT"));
                    columns.add(new TableColumn(
                            found.getString("COLUMN_NAME"),
                            type(found),
                            "NO".equals(found.getString("IS_NULLABLE"))
                                    && found.getString("COLUMN_DEF") == null
                                    && !made,
                            made));
                }
            }
        }
        if (columns.isEmpty()) {
            return Optional.empty();
        }
        Map<String, List<String>> keys = new LinkedHashMap<>();
        try (ResultSet found = connection.getMetaData().getIndexInfo(null, "PUBLIC", table, true, false)) {
            while (found.next()) {
                keys.computeIfAbsent(found.getString("INDEX_NAME"), name -> new ArrayList<>())
                        .add(found.getString("COLUMN_NAME"));
            }
        }
        return Optional.of(new TableDescription(table, columns, List.copyOf(keys.values()), true));
    }

    private static String escaped(Connection connection, String table) throws SQLException {
        String escape = connection.getMetaData().getSearchStringEscape();
        return table.replace(escape, escape + escape).replace("_", escape + "_").replace("%", escape + "%");
    }

    private static String type(ResultSet found) throws SQLException {
        String name = found.getString("TYPE_NAME");
        int size = found.getInt("COLUMN_SIZE");
        int digits = found.getInt("DECIMAL_DIGITS");
        return switch (name) {
            case "NUMERIC", "DECIMAL" -> name + "(" + size + "," + digits + ")";
            case "CHARACTER", "CHARACTER VARYING" -> name + "(" + size + ")";
            case "TIME", "TIMESTAMP" -> name + "(" + digits + ")";
            default -> name;
        };
    }

    @Override
    public boolean namedArguments() {
        return false;
    }

    @Override
    public boolean brokenOff(SQLException e) {
        return e.getErrorCode() == 57014;
    }

    @Override
    public Kind kind(SQLException e) {
        String state = String.valueOf(e.getSQLState());
        if (e.getErrorCode() == 23505) {
            return Kind.DUPLICATE;
        }
        if (e.getErrorCode() == 50200 || e.getErrorCode() == 57014) {
            return Kind.BUSY;
        }
        if (e.getErrorCode() == 40001) {
            return Kind.CLASHED;
        }
        if (state.startsWith("42")) {
            return Kind.TABLE;
        }
        if (state.startsWith("22") || state.startsWith("23")) {
            return Kind.CONTENT;
        }
        return state.startsWith("90") || JdbcProblems.ofConnection(e) ? Kind.AWAY : Kind.UNKNOWN;
    }

    @Override
    public Optional<String> sentence(SQLException e) {
        return Optional.empty();
    }

    @Override
    public String field(SQLException e) {
        return "file";
    }

    @Override
    public void bind(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException {
        if (cell != null && type.family() == SqlType.Family.UUID) {
            statement.setObject(at, java.util.UUID.fromString(cell.toString()));
        } else {
            Bind.standard(statement, at, cell, type);
        }
    }

    @Override
    public Object read(ResultSet rows, int at, SqlType type) throws SQLException {
        return rows.getObject(at) instanceof Clob ? rows.getString(at) : Bind.read(rows, at);
    }

    @Override
    public String makeMarks(String table) {
        return "CREATE TABLE IF NOT EXISTS " + table
                + " (lane CHARACTER VARYING(200) PRIMARY KEY, row_id CHARACTER VARYING(60) NOT NULL)";
    }

    @Override
    public String moveMark(String table) {
        return "MERGE INTO " + table + " (lane, row_id) KEY (lane) VALUES (?, ?)";
    }

    @Override
    public Optional<String> copyDesign(String copy, String table) {
        return Optional.empty();
    }

    @Override
    public String dropTemporary(String table) {
        return "DROP TABLE IF EXISTS " + dialect().quote(table);
    }
}
