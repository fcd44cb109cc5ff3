package dachshund.links.mariadb;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.destination.TableDescription;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.Set;
import java.util.stream.Collectors;

/** Rows into one MariaDB database over plain JDBC: bulk inserts, one transaction a call, times in UTC. */
final class MariaDbStore implements RowStore {

    /** Where delivery marks are kept, in the destination's own database. */
    static final String MARK_TABLE = "dachshund_delivery";

    private static final int POOL = 4;
    private static final int CONNECT_MILLIS = 2500;
    private static final int POOL_WAIT_MILLIS = 3000;
    private static final int ANSWER_MILLIS = 30_000;

    private final Dialect dialect;
    private final String url;
    private final Properties login = new Properties();
    private final String place;
    private final String database;
    private final MariaDbProblems problems;
    private HikariDataSource pool;

    MariaDbStore(Dialect dialect, Map<String, String> settings) {
        this.dialect = dialect;
        this.place = settings.get("host").strip() + ":" + settings.get("port").strip();
        this.database = settings.get("database").strip();
        this.problems = new MariaDbProblems(place);
        this.url = "jdbc:mariadb://" + place + "/";
        login.setProperty("user", settings.getOrDefault("user", ""));
        login.setProperty("password", settings.getOrDefault("password", ""));
        login.setProperty("connectTimeout", Integer.toString(CONNECT_MILLIS));
        login.setProperty("socketTimeout", Integer.toString(ANSWER_MILLIS));
        login.setProperty("useBulkStmts", "true");
        login.setProperty("timezone", "UTC");
        login.setProperty("connectionTimeZone", "UTC");
        login.setProperty("forceConnectionTimeZoneToSession", "true");
        // Nothing is cut or clipped silently, whatever the server's own mode is.
        login.setProperty("sessionVariables", "sql_mode='STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION,ERROR_FOR_DIVISION_BY_ZERO',lock_wait_timeout=5,innodb_lock_wait_timeout=5");
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    private synchronized Connection connection() throws SQLException {
        if (pool == null) {
            HikariConfig config = new HikariConfig();
            config.setPoolName("mariadb-" + place + "/" + database);
            config.setJdbcUrl(url + database);
            config.setDataSourceProperties(login);
            config.setMaximumPoolSize(POOL);
            config.setMinimumIdle(0);
            config.setConnectionTimeout(POOL_WAIT_MILLIS);
            config.setInitializationFailTimeout(-1);
            config.setAutoCommit(false);
            pool = new HikariDataSource(config);
        }
        return pool.getConnection();
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        Properties patient = new Properties();
        patient.putAll(login);
        patient.setProperty("connectTimeout", Long.toString(limit.toMillis()));
        try (Connection connection = DriverManager.getConnection(url + database, patient);
             Statement statement = connection.createStatement();
             ResultSet version = statement.executeQuery("SELECT VERSION()")) {
            version.next();
            return LinkTest.good("MariaDB " + version.getString(1).replaceFirst("-MariaDB.*", "") + " answered at " + place + " in "
                    + (System.nanoTime() - from) / 1_000_000 + " ms; the database " + database + " is there.", database);
        } catch (SQLException e) {
            return LinkTest.failed(problems.problem(-1, e).getMessage(), MariaDbProblems.field(e));
        }
    }

    @Override
    public List<String> tables() throws StoreProblem {
        try (Connection connection = connection();
             PreparedStatement statement = connection.prepareStatement(
                     "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' AND table_name <> ? ORDER BY table_name")) {
            statement.setString(1, MARK_TABLE);
            List<String> names = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    names.add(rows.getString(1));
                }
            }
            return names;
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        try (Connection connection = connection()) {
            return describe(connection, table);
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    private Optional<TableDescription> describe(Connection connection, String table) throws SQLException {
        boolean transactional;
        String real;
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT t.table_name, e.transactions FROM information_schema.tables t LEFT JOIN information_schema.engines e ON e.engine = t.engine "
                        + "WHERE t.table_schema = DATABASE() AND t.table_name = ?")) {
            statement.setString(1, table);
            try (ResultSet rows = statement.executeQuery()) {
                if (!rows.next()) {
                    return Optional.empty();
                }
                real = rows.getString(1);
                transactional = "YES".equals(rows.getString(2));
            }
        }
        Set<String> identities = new HashSet<>();
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT MIN(column_name) FROM information_schema.statistics WHERE table_schema = DATABASE() AND table_name = ? AND non_unique = 0 "
                        + "GROUP BY index_name HAVING COUNT(*) = 1")) {
            statement.setString(1, real);
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    identities.add(rows.getString(1));
                }
            }
        }
        List<TableDescription.TableColumn> columns = new ArrayList<>();
        try (PreparedStatement statement = connection.prepareStatement(
                "SELECT column_name, column_type, is_nullable, column_default, extra FROM information_schema.columns "
                        + "WHERE table_schema = DATABASE() AND table_name = ? ORDER BY ordinal_position")) {
            statement.setString(1, real);
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    boolean numbered = rows.getString(5).toLowerCase(java.util.Locale.ROOT).matches(".*(auto_increment|generated).*");
                    boolean mustBeGiven = "NO".equals(rows.getString(3)) && rows.getString(4) == null && !numbered;
                    columns.add(new TableDescription.TableColumn(rows.getString(1), rows.getString(2), mustBeGiven, identities.contains(rows.getString(1))));
                }
            }
        }
        return Optional.of(new TableDescription(real, columns, transactional));
    }

    @Override
    public void apply(List<String> statements) throws StoreProblem {
        try (Connection connection = connection(); Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
            connection.commit();
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public void write(List<RowBatch> batches) throws StoreProblem {
        int at = -1;
        try (Connection connection = connection()) {
            try {
                for (at = 0; at < batches.size(); at++) {
                    insert(connection, batches.get(at));
                }
                at = -1;
                connection.commit();
            } catch (SQLException e) {
                rollBackQuietly(connection);
                throw e;
            }
        } catch (SQLException e) {
            throw problems.problem(at, e);
        }
    }

    private static void rollBackQuietly(Connection connection) {
        try {
            connection.rollback();
        } catch (SQLException gone) {
            // the connection is broken; the database rolls back by itself
        }
    }

    private void insert(Connection connection, RowBatch batch) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(dialect.insert(batch.table(), batch.layout()))) {
            if (batch.rows().size() == 1) {
                CellBinder.bind(statement, batch.layout(), batch.rows().get(0));
                statement.executeUpdate();
            } else {
                for (Row row : batch.rows()) {
                    CellBinder.bind(statement, batch.layout(), row);
                    statement.addBatch();
                }
                statement.executeBatch();
            }
        }
        if (batch.mark()) {
            moveMark(connection, batch);
        }
    }

    private void moveMark(Connection connection, RowBatch batch) throws SQLException {
        String last = batch.rows().get(batch.rows().size() - 1).id().toString();
        String sql = "INSERT INTO " + MARK_TABLE + " (lane, row_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE row_id = VALUES(row_id)";
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setString(1, batch.lane());
            statement.setString(2, last);
            statement.executeUpdate();
        }
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        Optional<Column> column = batch.layout().rowIdColumn();
        if (column.isEmpty() || batch.rows().isEmpty()) {
            return Set.of();
        }
        String name = dialect.quote(column.get().name());
        String sql = "SELECT " + name + " FROM " + dialect.quote(batch.table()) + " WHERE " + name + " IN ("
                + String.join(",", Collections.nCopies(batch.rows().size(), "?")) + ")";
        Set<RowId> there = new HashSet<>();
        try (Connection connection = connection(); PreparedStatement statement = connection.prepareStatement(sql)) {
            for (int i = 0; i < batch.rows().size(); i++) {
                statement.setString(i + 1, batch.rows().get(i).id().toString());
            }
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    there.add(RowId.read(rows.getString(1)));
                }
            }
            return there;
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        try (Connection connection = connection(); Statement make = connection.createStatement()) {
            make.execute("CREATE TABLE IF NOT EXISTS " + MARK_TABLE + " (lane VARCHAR(40) CHARACTER SET ascii PRIMARY KEY, row_id CHAR(40) CHARACTER SET ascii NOT NULL) ENGINE=InnoDB");
            try (PreparedStatement statement = connection.prepareStatement("SELECT row_id FROM " + MARK_TABLE + " WHERE lane = ?")) {
                statement.setString(1, lane);
                try (ResultSet rows = statement.executeQuery()) {
                    return rows.next() ? Optional.of(RowId.read(rows.getString(1))) : Optional.empty();
                }
            }
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public TryOutcome tryOut(String table, Layout layout, Row row) {
        try (Connection connection = connection()) {
            return new OneRowTry(dialect, connection).run(table, layout, row, describe(connection, table));
        } catch (SQLException e) {
            return TryOutcome.failed(problems.problem(-1, e).getMessage());
        }
    }

    @Override
    public TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem {
        try (Connection connection = connection()) {
            List<String> columns = present(connection, table, layout);
            if (columns.isEmpty()) {
                return new TablePage(List.of(), List.of());
            }
            String sql = select(columns, table) + order(layout, columns, "DESC") + " LIMIT " + limit;
            List<List<Object>> found = new ArrayList<>();
            try (Statement statement = connection.createStatement(); ResultSet rows = statement.executeQuery(sql)) {
                while (rows.next()) {
                    found.add(CellBinder.read(rows, columns.size()));
                }
            }
            return new TablePage(columns, found);
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        try (Connection connection = connection()) {
            List<String> columns = present(connection, table, layout);
            String sql = select(columns, table) + order(layout, columns, "ASC");
            try (Statement statement = connection.createStatement(ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY)) {
                statement.setFetchSize(1000);
                try (ResultSet rows = statement.executeQuery(sql)) {
                    while (rows.next()) {
                        taker.row(CellBinder.read(rows, columns.size()));
                    }
                }
            }
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    private List<String> present(Connection connection, String table, Layout layout) throws SQLException {
        Optional<TableDescription> found = describe(connection, table);
        return layout.columns().stream().map(Column::name)
                .filter(name -> found.isPresent() && found.get().column(name).isPresent()).toList();
    }

    private String select(List<String> columns, String table) {
        return "SELECT " + columns.stream().map(dialect::quote).collect(Collectors.joining(", ")) + " FROM " + dialect.quote(table);
    }

    private String order(Layout layout, List<String> columns, String direction) {
        return layout.columns().stream().filter(column -> columns.contains(column.name()))
                .filter(column -> column.isAutoNumber() || column.isRowId() || column.type().family() == dachshund.core.layout.SqlType.Family.TIMESTAMP)
                .findFirst().map(column -> " ORDER BY " + dialect.quote(column.name()) + " " + direction).orElse("");
    }

    @Override
    public synchronized void close() {
        if (pool != null) {
            pool.close();
            pool = null;
        }
    }
}
