package dachshund.links.jdbc;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.transaction.Session;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** One transaction on one connection. */
final class JdbcSession implements Session {

    private static final Logger LOG = LoggerFactory.getLogger(JdbcSession.class);

    private static final Found NONE = new Found(List.of(), List.of());
    /** What gives rows that it has touched, where it gives any. */
    private static final Pattern RETURNING =
            Pattern.compile("\\s*(INSERT|UPDATE|DELETE|REPLACE|MERGE|WITH)\\b", Pattern.CASE_INSENSITIVE);

    private final Connection connection;
    private final JdbcEngine engine;
    private final JdbcProblems problems;
    private final String installation;
    private final Duration limit;
    private final Function<String, Optional<String>> refuses;
    private final Runnable noMarks;
    private final Consumer<Connection> throwAway;
    private final long until;
    private volatile Statement running;
    private volatile Runnable asking = () -> {};
    private volatile boolean broken;
    /** Guards that nothing is done to a connection which is somebody else's by then. */
    private final Object giving = new Object();

    private boolean given;

    /**
     * @param noMarks   told where the table of marks is not there any more
     * @param throwAway takes care that a connection serves nobody after this one
     */
    JdbcSession(
            Connection connection,
            JdbcEngine engine,
            JdbcProblems problems,
            String installation,
            Duration limit,
            Function<String, Optional<String>> refuses,
            Runnable noMarks,
            Consumer<Connection> throwAway) {
        this.noMarks = noMarks;
        this.throwAway = throwAway;
        this.refuses = refuses;
        this.connection = connection;
        this.engine = engine;
        this.problems = problems;
        this.installation = installation;
        this.limit = limit;
        this.until = System.nanoTime() + limit.toNanos();
    }

    @FunctionalInterface
    private interface Doing<T> {
        T with(PreparedStatement statement) throws SQLException;
    }

    private <T> T doing(String sql, Doing<T> doing) throws SQLException {
        if (broken) {
            throw new SQLException("It was broken off.", "57014");
        }
        try (PreparedStatement statement = connection.prepareStatement(sql);
                JdbcEngine.Limit limited = engine.limit(connection, statement, left())) {
            running = statement;
            return doing.with(statement);
        } finally {
            running = null;
        }
    }

    /** Nothing where whoever began it breaks it off by itself. */
    private Duration left() {
        if (limit.isZero()) {
            return Duration.ZERO;
        }
        return Duration.ofNanos(Math.max(1_000_000, until - System.nanoTime()));
    }

    @Override
    public boolean claim(String transaction, String request) throws StoreProblem {
        try {
            doing(
                    "INSERT INTO " + JdbcTransacting.DONE_TABLE + " (installation, what, request) VALUES (?, ?, ?)",
                    statement -> {
                        key(statement, 1, installation, transaction, request);
                        return statement.executeUpdate();
                    });
            return true;
        } catch (SQLException e) {
            StoreProblem problem = problem(e);
            if (problem.kind() == Kind.DUPLICATE) {
                Connections.rollBackQuietly(connection);
                return false;
            }
            if (problem.kind() == Kind.TABLE) {
                noMarks.run();
            }
            throw problem;
        }
    }

    static void key(PreparedStatement statement, int first, String installation, String transaction, String request)
            throws SQLException {
        statement.setString(first, installation);
        statement.setString(first + 1, transaction);
        statement.setString(first + 2, request);
    }

    @Override
    public void tell(String transaction, String request, Told told) throws StoreProblem {
        try {
            tell(connection, engine, left(), installation, transaction, request, told);
        } catch (SQLException e) {
            throw problem(e);
        }
    }

    static void tell(
            Connection connection,
            JdbcEngine engine,
            Duration limit,
            String installation,
            String transaction,
            String request,
            Told told)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("UPDATE " + JdbcTransacting.DONE_TABLE
                        + " SET code = ?, said = ?, todo = ? WHERE installation = ? AND what = ? AND request = ?");
                JdbcEngine.Limit limited = engine.limit(connection, statement, limit)) {
            statement.setLong(1, told.code());
            statement.setString(2, told.text());
            statement.setString(3, told.todo());
            key(statement, 4, installation, transaction, request);
            if (statement.executeUpdate() != 1) {
                throw new SQLException("The mark of the request is gone from " + JdbcTransacting.DONE_TABLE + ".");
            }
        }
    }

    @Override
    public void leave(String transaction, String name, String line) throws StoreProblem {
        try {
            int there = doing(
                    "UPDATE " + JdbcTransacting.DONE_TABLE
                            + " SET said = ? WHERE installation = ? AND what = ? AND request = ?",
                    statement -> line(statement, line, transaction, name));
            if (there == 0) {
                doing(
                        "INSERT INTO " + JdbcTransacting.DONE_TABLE
                                + " (said, installation, what, request, code, todo) VALUES (?, ?, ?, ?, 0, '')",
                        statement -> line(statement, line, transaction, name));
            }
        } catch (SQLException e) {
            throw problem(e);
        }
    }

    private int line(PreparedStatement statement, String line, String transaction, String name) throws SQLException {
        statement.setString(1, line);
        key(statement, 2, installation, transaction, name);
        return statement.executeUpdate();
    }

    @Override
    public Optional<String> left(String transaction, String name) throws StoreProblem {
        try {
            return doing(
                    "SELECT said FROM " + JdbcTransacting.DONE_TABLE
                            + " WHERE installation = ? AND what = ? AND request = ?",
                    statement -> {
                        key(statement, 1, installation, transaction, name);
                        try (ResultSet rows = statement.executeQuery()) {
                            return rows.next() ? Optional.ofNullable(rows.getString(1)) : Optional.empty();
                        }
                    });
        } catch (SQLException e) {
            throw problem(e);
        }
    }

    @Override
    public Found ask(QueryText query, List<Object> values, int most) throws StoreProblem, QueryProblem {
        List<String> columns = new ArrayList<>();
        List<List<Object>> rows = new ArrayList<>();
        try {
            if (broken) {
                throw new SQLException("It was broken off.", "57014");
            }
            JdbcQuery.ask(connection, engine, ZoneOffset.UTC, query, values, left(), most, new TableReading.Taker() {
                @Override
                public void running(Runnable breakOff) {
                    asking = breakOff;
                }

                @Override
                public void columns(List<TableShape.Column> found) {
                    found.forEach(each -> columns.add(each.name()));
                }

                @Override
                public boolean row(List<Object> cells) {
                    rows.add(cells);
                    return true;
                }
            });
            return new Found(columns, rows);
        } catch (SQLException e) {
            throw JdbcTables.placed(problem(e), engine, query, values);
        }
    }

    @Override
    public Changed change(QueryText text, List<Object> values) throws StoreProblem, QueryProblem {
        Optional<String> refused = refuses.apply(text.statement());
        if (refused.isPresent()) {
            throw new QueryProblem(refused.get());
        }
        try {
            return doing(text.with(BoundValues.marks(values, engine.dialect())), statement -> {
                BoundValues.bind(values, statement, engine, ZoneOffset.UTC);
                return changed(statement, RETURNING.matcher(text.statement()).lookingAt());
            });
        } catch (SQLException e) {
            throw JdbcTables.placed(problem(e), engine, text, values);
        }
    }

    /**
     * A procedure may give several results, and an error with any of them.
     *
     * @param returning whether the rows that it gives are those that it has touched
     */
    private Changed changed(PreparedStatement statement, boolean returning) throws SQLException {
        boolean rows = statement.execute();
        long touched = -1;
        Found first = NONE;
        while (true) {
            long count = rows ? -1 : statement.getLargeUpdateCount();
            if (!rows && count < 0) {
                return new Changed(touched, first);
            }
            if (rows && first.columns().isEmpty()) {
                JdbcQuery.First of = JdbcQuery.first(statement.getResultSet(), engine, ZoneOffset.UTC);
                first = of.row();
                count = returning ? of.rows() : -1;
            }
            touched = count < 0 ? touched : Math.max(0, touched) + count;
            rows = statement.getMoreResults();
        }
    }

    @Override
    public void commit() throws StoreProblem {
        try {
            if (broken) {
                throw new SQLException("It was broken off.", "57014");
            }
            connection.commit();
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    private StoreProblem problem(SQLException e) {
        if (broken || engine.brokenOff(e)) {
            return new StoreProblem(
                    Kind.BUSY,
                    -1,
                    limit.isZero()
                            ? "It was broken off."
                            : "The database took longer than the " + dachshund.core.time.PeriodText.write(limit)
                                    + " that the run has, and was broken off.",
                    e);
        }
        return problems.problem(-1, e);
    }

    @Override
    public void breakOff() {
        broken = true;
        synchronized (giving) {
            if (!given) {
                breakOffNow();
            }
        }
    }

    private void breakOffNow() {
        asking.run();
        Statement now = running;
        try {
            if (now != null) {
                now.cancel();
            }
        } catch (SQLException cannot) {
            LOG.warn("A statement could not be broken off: {}", cannot.getMessage());
        }
        try {
            connection.abort(Runnable::run);
        } catch (SQLException cannot) {
            LOG.warn("A connection could not be closed: {}", cannot.getMessage());
        }
    }

    @Override
    public void close() {
        Connections.rollBackQuietly(connection);
        synchronized (giving) {
            given = true;
            if (broken) {
                // It was closed beneath the pool, or may be told to stop a statement of whoever has it next.
                throwAway.accept(connection);
            }
            giveBack(connection);
        }
    }

    /** @param connection null for none */
    static void giveBack(Connection connection) {
        try {
            if (connection != null) {
                connection.close();
            }
        } catch (SQLException gone) {
            LOG.debug("A connection was broken when it was given back: {}", gone.getMessage());
        }
    }
}
