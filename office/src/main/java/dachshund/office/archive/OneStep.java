package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore.Problem;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import javax.sql.DataSource;

/** Work with our own database: all of it or nothing, or a question alone; what goes wrong is a sentence. */
final class OneStep {

    private final DataSource dataSource;

    OneStep(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    /** What is done over a connection. */
    interface Work<T> {
        T with(Connection connection) throws SQLException;
    }

    /** All of it is done, or nothing. */
    <T> T once(Work<T> work) throws Problem {
        try (Connection connection = dataSource.getConnection()) {
            connection.setAutoCommit(false);
            try {
                T result = work.with(connection);
                connection.commit();
                return result;
            } catch (SQLException | RuntimeException | Error broken) {
                back(connection, broken);
                throw broken;
            } finally {
                connection.setAutoCommit(true);
            }
        } catch (SQLException cannot) {
            throw problem(cannot);
        }
    }

    private static void back(Connection connection, Throwable broken) {
        try {
            connection.rollback();
        } catch (SQLException gone) {
            broken.addSuppressed(gone);
        }
    }

    /** A row as one thing. */
    interface Row<T> {
        T of(ResultSet row) throws SQLException;
    }

    /**
     * What a question alone gives, a thing a row.
     *
     * @param values of its question marks
     */
    <T> List<T> list(String sql, Row<T> each, long... values) throws Problem {
        return ask(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(sql)) {
                for (int i = 0; i < values.length; i++) {
                    statement.setLong(i + 1, values[i]);
                }
                try (ResultSet rows = statement.executeQuery()) {
                    List<T> all = new ArrayList<>();
                    while (rows.next()) {
                        all.add(each.of(rows));
                    }
                    return all;
                }
            }
        });
    }

    /** A question that changes nothing: no transaction, and so fewer trips to the database. */
    <T> T ask(Work<T> work) throws Problem {
        try (Connection connection = dataSource.getConnection()) {
            return work.with(connection);
        } catch (SQLException cannot) {
            throw problem(cannot);
        }
    }

    private static Problem problem(SQLException cannot) {
        String said = cannot.getMessage() == null ? cannot.getClass().getSimpleName() : cannot.getMessage();
        return new Problem("Our own database does not answer: " + said + (said.endsWith(".") ? "" : "."), cannot);
    }
}
