package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Session.Told;
import dachshund.core.transaction.Transacting;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Optional;

/** Transactions in one database, each on a connection of its own from a pool beside those of rows and readers. */
public final class JdbcTransacting implements Transacting {

    /** Where it stands which requests were done, in the database that they were done in. */
    public static final String DONE_TABLE = "dachshund_done";

    private static final int MOST_CONNECTIONS = 32;
    private static final Duration LOOK = Duration.ofSeconds(5);

    private final JdbcEngine engine;
    private final String installation;
    private final JdbcProblems problems;
    private final Connections connections;
    private volatile boolean marksMade;

    JdbcTransacting(JdbcEngine engine, String installation) {
        this.engine = engine;
        this.installation = installation;
        this.problems = new JdbcProblems(engine);
        this.connections = new Connections(engine, problems, this::pool, "business");
    }

    private HikariConfig pool() {
        HikariConfig config = engine.pool();
        // An engine that writes one thing at a time keeps its own bound.
        if (engine.writesAtOnce()) {
            config.setMaximumPoolSize(MOST_CONNECTIONS);
        }
        return config;
    }

    @Override
    public Session begin(Isolation isolation, boolean mark, Duration limit) throws StoreProblem {
        if (mark) {
            makeMarks();
        }
        Connection connection = null;
        try {
            connection = connections.take();
            isolate(connection, isolation);
            return new JdbcSession(connection, engine, problems, installation, limit);
        } catch (SQLException e) {
            JdbcSession.giveBack(connection);
            throw problems.problem(-1, e);
        }
    }

    private static void isolate(Connection connection, Isolation isolation) throws SQLException {
        int level =
                switch (isolation) {
                    case READ_COMMITTED -> Connection.TRANSACTION_READ_COMMITTED;
                    case REPEATABLE_READ -> Connection.TRANSACTION_REPEATABLE_READ;
                    case SERIALIZABLE -> Connection.TRANSACTION_SERIALIZABLE;
                };
        if (connection.getTransactionIsolation() != level
                && connection.getMetaData().supportsTransactionIsolationLevel(level)) {
            connection.setTransactionIsolation(level);
        }
    }

    private void makeMarks() throws StoreProblem {
        if (marksMade) {
            return;
        }
        try (Connection connection = connections.take();
                Statement statement = connection.createStatement()) {
            if (!thereAlready(connection)) {
                statement.execute(engine.makeDone(DONE_TABLE));
                connection.commit();
            }
            marksMade = true;
        } catch (SQLException e) {
            StoreProblem problem = problems.problem(-1, e);
            if (problem.kind() == Kind.AWAY) {
                throw problem;
            }
            throw new StoreProblem(
                    Kind.TABLE,
                    -1,
                    "The table " + DONE_TABLE
                            + ", in which it stands which requests were done, cannot be made. Its owner may make it, or the mark is switched off. "
                            + problem.getMessage(),
                    e);
        }
    }

    /** Whoever may not make tables may use one that its owner made. */
    private static boolean thereAlready(Connection connection) {
        try (Statement statement = connection.createStatement();
                ResultSet none = statement.executeQuery("SELECT 1 FROM " + DONE_TABLE + " WHERE 1 = 0")) {
            return !none.next();
        } catch (SQLException missing) {
            return false;
        } finally {
            Connections.rollBackQuietly(connection);
        }
    }

    @Override
    public Optional<Told> told(String transaction, String request) throws StoreProblem {
        return connections.ask(connection -> {
            try (PreparedStatement statement = connection.prepareStatement("SELECT code, said, todo FROM " + DONE_TABLE
                            + " WHERE installation = ? AND what = ? AND request = ?");
                    JdbcEngine.Limit limited = engine.limit(connection, statement, LOOK)) {
                JdbcSession.key(statement, 1, installation, transaction, request);
                try (ResultSet rows = statement.executeQuery()) {
                    return rows.next()
                            ? Optional.of(new Told(rows.getLong(1), rows.getString(2), rows.getString(3)))
                            : Optional.empty();
                }
            }
        });
    }

    @Override
    public void followed(String transaction, String request, Told told) throws StoreProblem {
        connections.ask(connection -> {
            JdbcSession.tell(connection, engine, LOOK, installation, transaction, request, told);
            connection.commit();
            return null;
        });
    }

    @Override
    public void close() {
        connections.close();
    }
}
