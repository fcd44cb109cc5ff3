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
import java.util.ArrayList;
import java.util.Collections;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/** Transactions in one database, each on a connection of its own from a pool beside those of rows and readers. */
public final class JdbcTransacting implements Transacting {

    /** Where it stands which requests were done, in the database that they were done in. */
    public static final String DONE_TABLE = "dachshund_done";

    private static final int MOST_CONNECTIONS = 32;
    private static final int MOST_READ = 500;
    private static final Duration LOOK = Duration.ofSeconds(5);
    /** In the second one of two databases nothing is ever noted to be done. */
    private static final String NOTHING_TO_DO = " AND (todo = '' OR todo IS NULL)";

    /** A table of many marks is read through for those that are old. */
    private static final Duration LOOK_THROUGH = Duration.ofMinutes(1);

    private final JdbcEngine engine;
    private final String installation;
    private final JdbcProblems problems;
    /** For each level its own: a connection keeps it, and nothing is asked or set before each transaction. */
    private final Map<Isolation, Connections> connections = new EnumMap<>(Isolation.class);

    private final Map<String, Optional<String>> read = new ConcurrentHashMap<>();
    private volatile boolean marksMade;

    JdbcTransacting(JdbcEngine engine, String installation) {
        this.engine = engine;
        this.installation = installation;
        this.problems = new JdbcProblems(engine);
        for (Isolation each : Isolation.values()) {
            connections.put(each, new Connections(engine, problems, () -> pool(each), "business " + each.words()));
        }
    }

    private HikariConfig pool(Isolation isolation) {
        HikariConfig config = engine.poolOfFewStatements();
        engine.isolate(config, isolation.name());
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
            connection = connections.get(isolation).take();
            return new JdbcSession(
                    connection,
                    engine,
                    problems,
                    installation,
                    limit,
                    this::refuses,
                    () -> marksMade = false,
                    connections.get(isolation)::throwAway);
        } catch (SQLException e) {
            JdbcSession.giveBack(connection);
            throw problems.problem(-1, e);
        }
    }

    /** Why a statement is not sent: read once, since a design sends the same ones again and again. */
    private Optional<String> refuses(String statement) {
        if (read.size() > MOST_READ) {
            read.clear();
        }
        return read.computeIfAbsent(statement, engine::refuses);
    }

    private void makeMarks() throws StoreProblem {
        if (!marksMade) {
            makeThem();
        }
    }

    /** One after the other: two who make it at once may stand in each other's way. */
    private synchronized void makeThem() throws StoreProblem {
        try (Connection connection = connections.get(Isolation.READ_COMMITTED).take();
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
        return connections.get(Isolation.READ_COMMITTED).ask(connection -> {
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
    public List<Left> left(String transaction, int most) throws StoreProblem {
        return connections.get(Isolation.READ_COMMITTED).ask(connection -> {
            if (!marksMade && !thereAlready(connection)) {
                return List.of(); // nothing was ever done there
            }
            try (PreparedStatement statement =
                            connection.prepareStatement("SELECT request, code, said, todo FROM " + DONE_TABLE
                                    + " WHERE installation = ? AND what = ? AND todo <> '' ORDER BY done_at, request");
                    JdbcEngine.Limit limited = engine.limit(connection, statement, LOOK)) {
                statement.setString(1, installation);
                statement.setString(2, transaction);
                statement.setMaxRows(most);
                List<Left> all = new ArrayList<>();
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        all.add(new Left(
                                rows.getString(1), new Told(rows.getLong(2), rows.getString(3), rows.getString(4))));
                    }
                }
                return all;
            }
        });
    }

    @Override
    public List<String> doneBefore(String transaction, int days, int most) throws StoreProblem {
        return connections.get(Isolation.READ_COMMITTED).ask(connection -> {
            if (!marksMade && !thereAlready(connection)) {
                return List.of();
            }
            try (PreparedStatement statement = connection.prepareStatement("SELECT request FROM " + DONE_TABLE
                            + " WHERE installation = ? AND what = ? AND done_at < " + engine.daysAgo(days)
                            + NOTHING_TO_DO);
                    JdbcEngine.Limit limited = engine.limit(connection, statement, LOOK_THROUGH)) {
                statement.setString(1, installation);
                statement.setString(2, transaction);
                statement.setMaxRows(most);
                List<String> all = new ArrayList<>();
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        all.add(rows.getString(1));
                    }
                }
                return all;
            }
        });
    }

    @Override
    public int forget(String transaction, List<String> requests) throws StoreProblem {
        return connections.get(Isolation.READ_COMMITTED).ask(connection -> {
            String these = String.join(", ", Collections.nCopies(requests.size(), "?"));
            try (PreparedStatement statement = connection.prepareStatement("DELETE FROM " + DONE_TABLE
                            + " WHERE installation = ? AND what = ? AND request IN (" + these + ")" + NOTHING_TO_DO);
                    JdbcEngine.Limit limited = engine.limit(connection, statement, LOOK)) {
                statement.setString(1, installation);
                statement.setString(2, transaction);
                for (int i = 0; i < requests.size(); i++) {
                    statement.setString(3 + i, requests.get(i));
                }
                int gone = statement.executeUpdate();
                connection.commit();
                return gone;
            }
        });
    }

    @Override
    public void followed(String transaction, String request, Told told) throws StoreProblem {
        connections.get(Isolation.READ_COMMITTED).ask(connection -> {
            JdbcSession.tell(connection, engine, LOOK, installation, transaction, request, told);
            connection.commit();
            return null;
        });
    }

    @Override
    public void close() {
        connections.values().forEach(Connections::close);
    }
}
