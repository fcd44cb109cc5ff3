package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import com.zaxxer.hikari.HikariPoolMXBean;
import dachshund.core.destination.StoreProblem;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.function.Supplier;

/** The connections that writers, or readers, of one database have among them; made when the first is wanted. */
final class Connections implements AutoCloseable {

    private final JdbcEngine engine;
    private final JdbcProblems problems;
    private final Supplier<HikariConfig> how;
    private final String name;
    private HikariDataSource pool;

    /** @param name what they are for */
    Connections(JdbcEngine engine, JdbcProblems problems, Supplier<HikariConfig> how, String name) {
        this.engine = engine;
        this.problems = problems;
        this.how = how;
        this.name = name;
    }

    @FunctionalInterface
    interface Work<T> {
        T on(Connection connection) throws SQLException;
    }

    /** The caller closes it, which gives it back. */
    Connection take() throws SQLException {
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

    /** One that was taken serves nobody after whoever has it. */
    synchronized void throwAway(Connection taken) {
        if (pool != null) {
            pool.evictConnection(taken);
        }
    }

    private synchronized HikariDataSource pool() {
        if (pool == null) {
            HikariConfig config = how.get();
            config.setPoolName(engine.place() + "/" + engine.database() + " " + name);
            config.setMinimumIdle(0);
            config.setInitializationFailTimeout(-1);
            config.setAutoCommit(false);
            pool = new HikariDataSource(config);
        }
        return pool;
    }

    /** Work on one connection, errors told in sentences. What it does is not committed by this. */
    <T> T ask(Work<T> work) throws StoreProblem {
        try (Connection connection = take()) {
            try {
                return work.on(connection);
            } finally {
                rollBackQuietly(connection);
            }
        } catch (SQLException e) {
            throw problems.problem(-1, e);
        }
    }

    static void rollBackQuietly(Connection connection) {
        try {
            connection.rollback();
        } catch (SQLException gone) {
            // the connection is broken; the database rolls back by itself
        }
    }

    @Override
    public synchronized void close() {
        if (pool != null) {
            pool.close();
            pool = null;
        }
    }
}
