package dachshund.links.jdbc;

import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading.Taker;
import dachshund.core.reader.TableShape;
import dachshund.core.transaction.Session;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The rows that a query gives, whatever its columns are. */
final class JdbcQuery {

    private static final int AT_ONCE = 1000;

    private JdbcQuery() {}

    static long ask(
            Connection connection,
            JdbcEngine engine,
            ZoneId zone,
            QueryText query,
            List<Object> values,
            Duration limit,
            long most,
            Taker taker)
            throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                        query.with(BoundValues.marks(values, engine.dialect())),
                        ResultSet.TYPE_FORWARD_ONLY,
                        ResultSet.CONCUR_READ_ONLY);
                JdbcEngine.Limit limited = engine.limit(connection, statement, limit)) {
            statement.setFetchSize(AT_ONCE);
            BoundValues.bind(values, statement, engine, zone);
            Running running = new Running(statement);
            taker.running(running::breakOff);
            try (ResultSet rows = statement.executeQuery()) {
                return take(statement, rows, engine, zone, most, taker);
            } finally {
                running.over();
            }
        }
    }

    /** A statement that somebody else may break off, as long as it is the one that runs over its connection. */
    private static final class Running {

        private static final Logger LOG = LoggerFactory.getLogger(JdbcQuery.class);

        private final Statement statement;
        private boolean over;

        Running(Statement statement) {
            this.statement = statement;
        }

        synchronized void breakOff() {
            if (over) {
                return;
            }
            try {
                statement.cancel();
            } catch (SQLException cannot) {
                LOG.warn("A query could not be broken off; it ends by its limit of time: {}", cannot.getMessage());
            }
        }

        synchronized void over() {
            over = true;
        }
    }

    private static long take(
            PreparedStatement statement, ResultSet rows, JdbcEngine engine, ZoneId zone, long most, Taker taker)
            throws SQLException {
        List<TableShape.Column> columns = new ArrayList<>();
        AnyCell[] cells = cells(rows, engine, zone, columns);
        taker.columns(columns);
        long taken = 0;
        boolean over = false;
        try {
            while (taken < most) {
                if (!rows.next()) {
                    over = true;
                    break;
                }
                taken++;
                if (!taker.row(row(rows, cells))) {
                    break;
                }
            }
            return taken;
        } finally {
            if (!over) {
                JdbcTables.stop(statement);
            }
        }
    }

    /** @param columns gets them */
    private static AnyCell[] cells(ResultSet rows, JdbcEngine engine, ZoneId zone, List<TableShape.Column> columns)
            throws SQLException {
        ResultSetMetaData meta = rows.getMetaData();
        AnyCell[] cells = new AnyCell[meta.getColumnCount()];
        for (int i = 0; i < cells.length; i++) {
            String typeName = meta.getColumnTypeName(i + 1);
            TableShape.Sort sort = AnyCell.sort(meta.getColumnType(i + 1), typeName, engine.typesByCell());
            columns.add(
                    new TableShape.Column(TableShape.free(columns, meta.getColumnLabel(i + 1)), typeName, sort, true));
            cells[i] = AnyCell.of(meta, i + 1, engine, sort, zone);
        }
        return cells;
    }

    private static List<Object> row(ResultSet rows, AnyCell[] cells) throws SQLException {
        Object[] row = new Object[cells.length];
        for (int i = 0; i < row.length; i++) {
            row[i] = cells[i].read(rows);
        }
        return Arrays.asList(row);
    }

    /**
     * What a statement gave beside what it did.
     *
     * @param rows how many
     * @param row  the first
     */
    record First(long rows, Session.Found row) {}

    /** The first of some rows, all of which are read to their end. */
    static First first(ResultSet rows, JdbcEngine engine, ZoneId zone) throws SQLException {
        List<TableShape.Column> columns = new ArrayList<>();
        AnyCell[] cells = cells(rows, engine, zone, columns);
        List<List<Object>> first = new ArrayList<>();
        long count = 0;
        while (rows.next()) {
            if (count++ == 0) {
                first.add(row(rows, cells));
            }
        }
        return new First(
                count,
                new Session.Found(columns.stream().map(TableShape.Column::name).toList(), first));
    }
}
