package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Rows into one database over plain JDBC: one transaction a call, times in UTC. */
public final class JdbcStore implements RowStore {

    /** Where delivery marks are kept, in the destination's own database. */
    public static final String MARK_TABLE = "dachshund_delivery";

    private static final Duration FILE_WITHIN = Duration.ofSeconds(5);
    private static final Duration REMOVE_WITHIN = Duration.ofSeconds(30);

    private final JdbcEngine engine;
    private final JdbcProblems problems;
    private final BatchWriter writer;
    private final Connections connections;
    private final JdbcReader reader;
    private final Databases<JdbcStore> others;
    private volatile boolean marksMade;

    public JdbcStore(JdbcEngine engine) {
        this.engine = engine;
        this.problems = new JdbcProblems(engine);
        this.writer = new BatchWriter(engine);
        this.connections = new Connections(engine, problems, engine::pool, "writing");
        this.reader = new JdbcReader(engine, JdbcReader.Limits.USUAL);
        this.others = new Databases<>(name -> new JdbcStore(engine.in(name)));
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
        return others.of(database);
    }

    @Override
    public int atOnceBeside() {
        return Math.max(1, engine.pool().getMaximumPoolSize() - 1);
    }

    @Override
    public boolean writesAtOnce() {
        return engine.writesAtOnce();
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
        return connections.ask(engine::tables).stream()
                .filter(table -> !table.equals(MARK_TABLE))
                .toList();
    }

    @Override
    public Optional<TableDescription> describe(String table) throws StoreProblem {
        return engine.isThere() ? connections.ask(connection -> engine.describe(connection, table)) : Optional.empty();
    }

    @Override
    public List<Procedure> procedures() throws StoreProblem {
        return engine.isThere() ? connections.ask(engine::procedures) : List.of();
    }

    @Override
    public List<String> databases() throws StoreProblem {
        return engine.isThere() ? connections.ask(engine::databases) : List.of();
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
        try (Connection connection = connections.take();
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
    public int remove(String table, String rowId, List<RowId> ids) throws StoreProblem {
        if (ids.isEmpty() || !engine.isThere()) {
            return 0;
        }
        String sql = "DELETE FROM " + dialect().quote(table) + " WHERE "
                + dialect().quote(rowId) + " IN (" + String.join(",", Collections.nCopies(ids.size(), "?")) + ")";
        try (Connection connection = connections.take()) {
            try (PreparedStatement statement = connection.prepareStatement(sql);
                    JdbcEngine.Limit limited = engine.limit(connection, statement, REMOVE_WITHIN)) {
                for (int i = 0; i < ids.size(); i++) {
                    statement.setString(i + 1, ids.get(i).toString());
                }
                int removed = statement.executeUpdate();
                connection.commit();
                return removed;
            } catch (SQLException e) {
                Connections.rollBackQuietly(connection);
                throw e;
            }
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
        try (Connection connection = connections.take()) {
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
                Connections.rollBackQuietly(connection);
                throw e;
            }
        } catch (SQLException e) {
            throw problems.problem(at, e);
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
        return connections.ask(connection -> LandedQuery.of(connection, dialect(), batch));
    }

    @Override
    public Optional<RowId> mark(String lane) throws StoreProblem {
        makeMarks();
        return connections.ask(connection -> {
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
        try (Connection connection = connections.take()) {
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
        return reader.lastRows(table, layout, limit);
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        reader.readAll(table, layout, taker);
    }

    @Override
    public void close() {
        others.close();
        reader.close();
        connections.close();
    }
}
