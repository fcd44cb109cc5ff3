package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import com.zaxxer.hikari.HikariPoolMXBean;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Rows into one database over plain JDBC: one transaction a call, times in UTC. */
public final class JdbcStore implements RowStore {

    /** Where delivery marks are kept, in the destination's own database. */
    public static final String MARK_TABLE = "dachshund_delivery";

    /** Databases beside the own one whose connections are kept. */
    private static final int OTHERS = 100;

    private static final Duration FILE_WITHIN = Duration.ofSeconds(5);

    private final JdbcEngine engine;
    private final JdbcProblems problems;
    private final BatchWriter writer;
    private HikariDataSource pool;
    private volatile boolean marksMade;
    private final Map<String, JdbcStore> others = new LinkedHashMap<>(16, 0.75f, true);

    public JdbcStore(JdbcEngine engine) {
        this.engine = engine;
        this.problems = new JdbcProblems(engine);
        this.writer = new BatchWriter(engine);
    }

    @Override
    public Dialect dialect() {
        return engine.dialect();
    }

    @Override
    public RowStore in(String database) {
        if (database.isEmpty()) {
            return this;
        }
        synchronized (others) {
            JdbcStore other = others.computeIfAbsent(database, name -> new JdbcStore(engine.in(name)));
            if (others.size() > OTHERS) {
                Iterator<JdbcStore> unused = others.values().iterator();
                unused.next().close();
                unused.remove();
            }
            return other;
        }
    }

    @Override
    public int atOnceBeside() {
        return Math.max(1, engine.pool().getMaximumPoolSize() - 1);
    }

    @Override
    public boolean writesAtOnce() {
        return engine.writesAtOnce();
    }

    private Connection connection() throws SQLException {
        HikariDataSource connections = pool();
        try {
            return connections.getConnection();
        } catch (SQLTransientConnectionException none) {
            HikariPoolMXBean now = connections.getHikariPoolMXBean();
            if (now != null && now.getActiveConnections() >= connections.getMaximumPoolSize()) {
                throw new JdbcProblems.AllInUse(connections.getMaximumPoolSize(), engine.place(), none);
            }
            throw none;
        }
    }

    private synchronized HikariDataSource pool() {
        if (pool == null) {
            HikariConfig config = engine.pool();
            config.setPoolName(engine.place() + "/" + engine.database());
            config.setMinimumIdle(0);
            config.setInitializationFailTimeout(-1);
            config.setAutoCommit(false);
            pool = new HikariDataSource(config);
        }
        return pool;
    }

    /** Work on one connection, errors told in sentences. What it does is not committed by this. */
    private <T> T ask(Work<T> work) throws StoreProblem {
        try (Connection connection = connection()) {
            try {
                return work.on(connection);
            } finally {
                rollBackQuietly(connection);
            }
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @FunctionalInterface
    private interface Work<T> {
        T on(Connection connection) throws SQLException;
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        try (Connection connection = engine.connect(limit)) {
            return LinkTest.good(
                    engine.answered(connection) + " in " + (System.nanoTime() - from) / 1_000_000 + " ms; the database "
                            + engine.database() + " is there.",
                    engine.database());
        } catch (SQLException e) {
            return problems.failed(e);
        }
    }

    @Override
    public List<String> tables() throws StoreProblem {
        if (!engine.isThere()) {
            return List.of();
        }
        return ask(engine::tables).stream()
                .filter(table -> !table.equals(MARK_TABLE))
                .toList();
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        return engine.isThere() ? ask(connection -> engine.describe(connection, table)) : Optional.empty();
    }

    @Override
    public List<Procedure> procedures() throws StoreProblem {
        return engine.isThere() ? ask(engine::procedures) : List.of();
    }

    @Override
    public List<String> databases() throws StoreProblem {
        return engine.isThere() ? ask(engine::databases) : List.of();
    }

    @Override
    public boolean hasDatabase(String name) throws StoreProblem {
        return databases().contains(engine.in(name).database());
    }

    @Override
    public void createDatabase() throws StoreProblem {
        try {
            Optional<Connection> server = engine.connectServer();
            if (server.isEmpty()) {
                // a file is made by opening it
                engine.connect(FILE_WITHIN).close();
                return;
            }
            try (Connection connection = server.get();
                    Statement statement = connection.createStatement()) {
                statement.execute(dialect().createDatabase(engine.database()));
            }
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    @Override
    public void apply(List<String> statements) throws StoreProblem {
        try (Connection connection = connection();
                Statement statement = connection.createStatement()) {
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
        if (batches.stream().anyMatch(RowBatch::mark)) {
            makeMarks();
        }
        int at = -1;
        try (Connection connection = connection()) {
            try {
                for (at = 0; at < batches.size(); at++) {
                    RowBatch batch = batches.get(at);
                    writer.write(connection, batch);
                    if (batch.mark()) {
                        moveMark(connection, batch);
                    }
                }
                at = -1;
                connection.commit();
            } catch (SQLException | StoreProblem e) {
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

    private void makeMarks() throws StoreProblem {
        if (!marksMade) {
            apply(List.of(engine.makeMarks(MARK_TABLE)));
            marksMade = true;
        }
    }

    private void moveMark(Connection connection, RowBatch batch) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(engine.moveMark(MARK_TABLE))) {
            statement.setString(1, batch.lane());
            statement.setString(
                    2, batch.rows().get(batch.rows().size() - 1).id().toString());
            statement.executeUpdate();
        }
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        Optional<Column> column = batch.layout().rowIdColumn();
        if (column.isEmpty() || batch.rows().isEmpty()) {
            return Set.of();
        }
        String name = dialect().quote(column.get().name());
        String sql = "SELECT " + name + " FROM " + dialect().quote(batch.table()) + " WHERE " + name + " IN ("
                + String.join(",", Collections.nCopies(batch.rows().size(), "?")) + ")";
        return ask(connection -> {
            Set<RowId> there = new HashSet<>();
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < batch.rows().size(); i++) {
                    statement.setString(i + 1, batch.rows().get(i).id().toString());
                }
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        there.add(RowId.read(rows.getString(1)));
                    }
                }
            }
            return there;
        });
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        makeMarks();
        return ask(connection -> {
            try (PreparedStatement statement =
                    connection.prepareStatement("SELECT row_id FROM " + MARK_TABLE + " WHERE lane = ?")) {
                statement.setString(1, lane);
                try (ResultSet rows = statement.executeQuery()) {
                    return rows.next() ? Optional.of(RowId.read(rows.getString(1))) : Optional.empty();
                }
            }
        });
    }

    @Override
    public TryOutcome tryOut(RowBatch one) {
        try (Connection connection = connection()) {
            return new OneRowTry(engine, writer, connection).run(one, engine.describe(connection, one.table()));
        } catch (SQLException e) {
            return TryOutcome.failed(problems.problem(-1, e).getMessage());
        } catch (StoreProblem refused) {
            return TryOutcome.failed(refused.getMessage());
        } catch (RuntimeException driver) {
            return TryOutcome.failed("The driver failed: " + driver.getMessage());
        }
    }

    @Override
    public TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem {
        return ask(connection -> {
            List<Column> columns = present(connection, table, layout);
            if (columns.isEmpty()) {
                return new TablePage(List.of(), List.of());
            }
            String sql = select(columns, table) + order(columns, "DESC") + " LIMIT " + limit;
            List<List<Object>> found = new ArrayList<>();
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery(sql)) {
                while (rows.next()) {
                    found.add(cells(rows, columns));
                }
            }
            return new TablePage(columns.stream().map(Column::name).toList(), found);
        });
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        ask(connection -> {
            List<Column> columns = present(connection, table, layout);
            String sql = select(columns, table) + order(columns, "ASC");
            try (Statement statement =
                    connection.createStatement(ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY)) {
                statement.setFetchSize(1000);
                try (ResultSet rows = statement.executeQuery(sql)) {
                    while (rows.next()) {
                        taker.row(cells(rows, columns));
                    }
                }
            }
            return null;
        });
    }

    private List<Object> cells(ResultSet rows, List<Column> columns) throws SQLException {
        List<Object> cells = new ArrayList<>(columns.size());
        for (int i = 0; i < columns.size(); i++) {
            cells.add(engine.read(rows, i + 1, columns.get(i).type()));
        }
        return cells;
    }

    private List<Column> present(Connection connection, String table, Layout layout) throws SQLException {
        Optional<TableDescription> found = engine.describe(connection, table);
        return layout.columns().stream()
                .filter(column ->
                        found.isPresent() && found.get().column(column.name()).isPresent())
                .toList();
    }

    private String select(List<Column> columns, String table) {
        return "SELECT "
                + columns.stream().map(Column::name).map(dialect()::quote).collect(Collectors.joining(", ")) + " FROM "
                + dialect().quote(table);
    }

    private String order(List<Column> columns, String direction) {
        return columns.stream()
                .filter(column -> column.isAutoNumber()
                        || column.isRowId()
                        || column.type().family() == SqlType.Family.TIMESTAMP)
                .findFirst()
                .map(column -> " ORDER BY " + dialect().quote(column.name()) + " " + direction)
                .orElse("");
    }

    @Override
    public synchronized void close() {
        synchronized (others) {
            others.values().forEach(JdbcStore::close);
        }
        if (pool != null) {
            pool.close();
            pool = null;
        }
    }
}
