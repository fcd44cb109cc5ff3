package dachshund.links.jdbc;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** Writes one row, reads it back as the database holds it, and takes it back. */
final class OneRowTry {

    private static final String COPY = "dachshund_try";

    private final JdbcEngine engine;
    private final Dialect dialect;
    private final BatchWriter writer;
    private final Connection connection;

    OneRowTry(JdbcEngine engine, BatchWriter writer, Connection connection) {
        this.engine = engine;
        this.dialect = engine.dialect();
        this.writer = writer;
        this.connection = connection;
    }

    TryOutcome run(RowBatch one, Optional<TableDescription> found) throws SQLException, StoreProblem {
        if (one.mode() instanceof WriteMode.Call) {
            return called(one);
        }
        if (found.isPresent() && !found.get().transactional()) {
            return TryOutcome.failed(
                    "The table " + one.table()
                            + " has an engine without transactions: a row written to try could not be taken back, so nothing was written.");
        }
        List<String> caveats = new ArrayList<>();
        Layout layout = one.layout();
        List<Column> missing = layout.written().stream()
                .filter(column ->
                        found.isPresent() && found.get().column(column.name()).isEmpty())
                .toList();
        boolean temporary = found.isEmpty() || !missing.isEmpty();
        String used = temporary ? COPY : one.table();
        try (Statement statement = connection.createStatement()) {
            if (temporary) {
                statement.execute(engine.dropTemporary(used));
                makeCopy(statement, one, missing, caveats);
            } else if (layout.columns().stream().anyMatch(Column::isAutoNumber)) {
                caveats.add(
                        "The row is gone again, but the table's auto-number has moved on by one: that cannot be rolled back.");
            }
            return written(new RowBatch(one.lane(), used, layout, false, one.mode(), one.rows()), caveats, temporary);
        } finally {
            connection.rollback();
            if (temporary) {
                try (Statement statement = connection.createStatement()) {
                    statement.execute(engine.dropTemporary(used));
                }
                connection.commit();
            }
        }
    }

    private void makeCopy(Statement statement, RowBatch one, List<Column> missing, List<String> caveats)
            throws SQLException {
        Optional<String> copy = missing.isEmpty() ? Optional.empty() : engine.copyDesign(COPY, one.table());
        if (copy.isPresent()) {
            statement.execute(copy.get());
            for (Column column : missing) {
                for (String sql : dialect.addColumn(COPY, column)) {
                    statement.execute(sql);
                }
            }
            caveats.add("The table does not have "
                    + missing.stream().map(Column::name).collect(Collectors.joining(", "))
                    + " yet, so a temporary copy of its design with these columns was used and is gone again.");
        } else {
            for (String sql : dialect.createTable(COPY, one.layout(), true)) {
                statement.execute(sql);
            }
            caveats.add(
                    missing.isEmpty()
                            ? "The table does not exist yet, so a temporary one of the same design was used and is gone again."
                            : "The table does not have "
                                    + missing.stream().map(Column::name).collect(Collectors.joining(", "))
                                    + " yet, so a temporary table of this design was used and is gone again.");
        }
    }

    private TryOutcome called(RowBatch one) throws SQLException, StoreProblem {
        try {
            writer.write(connection, one);
        } finally {
            connection.rollback();
        }
        return new TryOutcome(
                true,
                "The procedure was called once and rolled back.",
                List.of(),
                List.of(),
                List.of("What a procedure commits by itself cannot be rolled back."));
    }

    private TryOutcome written(RowBatch one, List<String> caveats, boolean temporary)
            throws SQLException, StoreProblem {
        Layout layout = one.layout();
        Row row = one.rows().get(0);
        long number = 0;
        int rows;
        if (one.mode() instanceof WriteMode.Insert) {
            try (PreparedStatement insert =
                    connection.prepareStatement(dialect.insert(one.table(), layout), Statement.RETURN_GENERATED_KEYS)) {
                writer.bind(
                        insert,
                        layout.written().stream().map(Column::type).toArray(SqlType[]::new),
                        java.util.stream.IntStream.range(0, layout.written().size())
                                .toArray(),
                        row);
                rows = insert.executeUpdate();
                number = layout.columns().stream().anyMatch(Column::isAutoNumber) ? generated(insert, layout) : 0;
            }
        } else {
            if (temporary && one.mode() instanceof WriteMode.Update) {
                return new TryOutcome(
                        true,
                        "The table does not exist yet, so there is no row to update.",
                        List.of(),
                        List.of(),
                        caveats);
            }
            rows = writer.write(connection, one);
        }
        String sentence = rows + (rows == 1 ? " row was" : " rows were") + " written and rolled back"
                + (temporary ? " (temporary table)." : ".");
        List<Column> columns = layout.columns();
        Optional<PreparedStatement> again = find(one, row, number);
        if (again.isEmpty()) {
            caveats.add(
                    "The layout has neither row id, key nor auto-number, so the row could not be found again to show it.");
            return new TryOutcome(true, sentence, List.of(), List.of(), caveats);
        }
        try (PreparedStatement find = again.get();
                ResultSet back = find.executeQuery()) {
            back.next();
            List<String> cells = new ArrayList<>();
            for (int i = 0; i < columns.size(); i++) {
                Object cell = engine.read(back, i + 1, columns.get(i).type());
                cells.add(cell == null ? "" : Conversion.plain(cell));
            }
            return new TryOutcome(
                    true, sentence, columns.stream().map(Column::name).toList(), cells, caveats);
        }
    }

    private static long generated(PreparedStatement insert, Layout layout) throws SQLException {
        String auto = layout.columns().stream()
                .filter(Column::isAutoNumber)
                .findFirst()
                .orElseThrow()
                .name();
        try (ResultSet keys = insert.getGeneratedKeys()) {
            if (!keys.next()) {
                return 0;
            }
            // Some drivers give the whole row back, some the number alone.
            return keys.getMetaData().getColumnCount() == 1 ? keys.getLong(1) : keys.getLong(auto);
        }
    }

    /** The query that finds the row again, in the columns of the layout. */
    private Optional<PreparedStatement> find(RowBatch one, Row row, long number) throws SQLException {
        Layout layout = one.layout();
        List<Column> written = layout.written();
        List<Integer> by = new ArrayList<>();
        for (int i = 0; i < written.size(); i++) {
            if (one.mode().needsKey()
                    ? layout.isKey(written.get(i).name())
                    : written.get(i).isRowId()) {
                by.add(i);
            }
        }
        Optional<Column> auto =
                layout.columns().stream().filter(Column::isAutoNumber).findFirst();
        if (by.isEmpty() && (auto.isEmpty() || number == 0)) {
            return Optional.empty();
        }
        String where = by.isEmpty()
                ? dialect.quote(auto.orElseThrow().name()) + " = " + number
                : by.stream()
                        .map(i -> dialect.quote(written.get(i).name()) + " = ?")
                        .collect(Collectors.joining(" AND "));
        PreparedStatement find = connection.prepareStatement("SELECT "
                + layout.columns().stream()
                        .map(Column::name)
                        .map(dialect::quote)
                        .collect(Collectors.joining(", ")) + " FROM " + dialect.quote(one.table()) + " WHERE " + where);
        for (int i = 0; i < by.size(); i++) {
            engine.bind(
                    find, i + 1, row.cells()[by.get(i)], written.get(by.get(i)).type());
        }
        return Optional.of(find);
    }
}
