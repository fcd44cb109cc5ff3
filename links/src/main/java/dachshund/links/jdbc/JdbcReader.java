package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.row.RowId;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;
import java.util.stream.Collectors;

/** Rows of one database read over connections of its own, in transactions that cannot write, within limits of time and rows. */
public final class JdbcReader implements RowReading {

    private static final int AT_ONCE = 1000;

    private final JdbcEngine engine;
    private final Limits limits;
    private final JdbcProblems problems;
    private final Connections connections;
    private final Databases<JdbcReader> others;

    /**
     * @param page  how long the newest rows may take
     * @param whole how long every row of a table may take, at the pace of whoever takes them
     * @param rows  of the newest, never more than these
     */
    public record Limits(Duration page, Duration whole, int rows) {

        public static final Limits USUAL = new Limits(Duration.ofSeconds(10), Duration.ofHours(1), 100_000);
    }

    public JdbcReader(JdbcEngine engine, Limits limits) {
        this.engine = engine;
        this.limits = limits;
        this.problems = new JdbcProblems(engine);
        this.connections = new Connections(engine, problems, engine::readingPool, "reading");
        this.others = new Databases<>(name -> new JdbcReader(engine.in(name), limits));
    }

    @Override
    public RowReading in(String database) {
        return database.isEmpty() ? this : others.of(database);
    }

    @Override
    public boolean hasDatabase(String name) throws StoreProblem {
        return engine.isThere()
                && connections.ask(engine::databases).contains(engine.in(name).database());
    }

    @Override
    public Set<RowId> landed(RowBatch batch) throws StoreProblem {
        return connections.ask(connection -> LandedQuery.of(connection, engine.dialect(), batch));
    }

    @Override
    public TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem {
        if (!engine.isThere()) {
            return new TablePage(List.of(), List.of());
        }
        return within(limits.page(), connection -> {
            List<Column> columns = present(connection, table, layout);
            if (columns.isEmpty()) {
                return new TablePage(List.of(), List.of());
            }
            String sql = engine.dialect()
                    .first(select(columns, table) + order(columns, "DESC"), Math.min(limit, limits.rows()));
            List<List<Object>> found = new ArrayList<>();
            try (Statement statement = connection.createStatement();
                    JdbcEngine.Limit limited = engine.limit(connection, statement, limits.page())) {
                try (ResultSet rows = statement.executeQuery(sql)) {
                    while (rows.next()) {
                        found.add(cells(rows, columns));
                    }
                }
            }
            return new TablePage(columns.stream().map(Column::name).toList(), found);
        });
    }

    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        if (!engine.isThere()) {
            return;
        }
        within(limits.whole(), connection -> {
            List<Column> columns = present(connection, table, layout);
            String sql = select(columns, table) + order(columns, "ASC");
            try (Statement statement =
                            connection.createStatement(ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY);
                    JdbcEngine.Limit limited = engine.limit(connection, statement, limits.whole())) {
                statement.setFetchSize(AT_ONCE);
                try (ResultSet rows = statement.executeQuery(sql)) {
                    while (rows.next()) {
                        taker.row(cells(rows, columns));
                    }
                }
            }
            return null;
        });
    }

    @Override
    public boolean readsBetween() {
        return true;
    }

    @Override
    public void between(
            String table,
            Layout layout,
            Column time,
            Instant from,
            Instant to,
            int most,
            BiConsumer<List<String>, List<Object>> taker)
            throws StoreProblem {
        if (!engine.isThere()) {
            return;
        }
        within(limits.whole(), connection -> {
            List<Column> columns = present(connection, table, layout);
            if (!columns.contains(time)) {
                return null;
            }
            List<String> names = columns.stream().map(Column::name).toList();
            String place = engine.dialect().quote(time.name());
            String all = select(columns, table) + " WHERE " + place + " >= ? AND " + place + " < ? ORDER BY " + place;
            String sql = most == Integer.MAX_VALUE ? all : engine.dialect().first(all, most);
            try (PreparedStatement statement =
                            connection.prepareStatement(sql, ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY);
                    JdbcEngine.Limit limited = engine.limit(connection, statement, limits.whole())) {
                statement.setFetchSize(AT_ONCE);
                engine.bind(statement, 1, from, time.type());
                engine.bind(statement, 2, to, time.type());
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        taker.accept(names, cells(rows, columns));
                    }
                }
            }
            return null;
        });
    }

    private <T> T within(Duration limit, Connections.Work<T> work) throws StoreProblem {
        return within(connections, engine, limit, work);
    }

    /** Work that says so where it took longer than it was given. */
    static <T> T within(Connections connections, JdbcEngine engine, Duration limit, Connections.Work<T> work)
            throws StoreProblem {
        try {
            return connections.ask(connection -> {
                try {
                    return work.on(connection);
                } catch (SQLException broke) {
                    throw engine.brokenOff(broke) ? new TookTooLong(limit, broke) : broke;
                }
            });
        } catch (StoreProblem problem) {
            throw problem.getCause() instanceof TookTooLong late
                    ? new StoreProblem(StoreProblem.Kind.BUSY, -1, late.getMessage(), late)
                    : problem;
        }
    }

    /** The database broke it off because of our limit. */
    private static final class TookTooLong extends SQLException {
        private static final long serialVersionUID = 1;

        TookTooLong(Duration limit, SQLException cause) {
            super(
                    "Reading took longer than " + limit.toSeconds()
                            + " s and was broken off, so that nobody waits for it.",
                    cause);
        }
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
                + columns.stream()
                        .map(Column::name)
                        .map(engine.dialect()::quote)
                        .collect(Collectors.joining(", ")) + " FROM "
                + engine.dialect().quote(table);
    }

    private String order(List<Column> columns, String direction) {
        return columns.stream()
                .filter(column -> column.isAutoNumber()
                        || column.isRowId()
                        || column.type().family() == SqlType.Family.TIMESTAMP)
                .findFirst()
                .map(column -> " ORDER BY " + engine.dialect().quote(column.name()) + " " + direction)
                .orElse("");
    }

    @Override
    public void close() {
        others.close();
        connections.close();
    }
}
