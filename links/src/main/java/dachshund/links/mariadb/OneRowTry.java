package dachshund.links.mariadb;

import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.destination.TableDescription;
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

    private final Dialect dialect;
    private final Connection connection;

    OneRowTry(Dialect dialect, Connection connection) {
        this.dialect = dialect;
        this.connection = connection;
    }

    TryOutcome run(String table, Layout layout, Row row, Optional<TableDescription> found) throws SQLException {
        if (found.isPresent() && !found.get().transactional()) {
            return TryOutcome.failed("The table " + table + " has an engine without transactions: a row written to try could not be taken back, so nothing was written.");
        }
        List<String> caveats = new ArrayList<>();
        List<Column> missing = layout.columns().stream().filter(column -> !column.isAutoNumber())
                .filter(column -> found.isPresent() && found.get().column(column.name()).isEmpty()).toList();
        boolean temporary = found.isEmpty() || !missing.isEmpty();
        String used = temporary ? "dachshund_try" : table;
        try (Statement statement = connection.createStatement()) {
            if (temporary) {
                statement.execute("DROP TEMPORARY TABLE IF EXISTS " + dialect.quote(used));
            }
            if (!missing.isEmpty()) {
                statement.execute("CREATE TEMPORARY TABLE " + dialect.quote(used) + " LIKE " + dialect.quote(table));
                for (Column column : missing) {
                    statement.execute(dialect.addColumn(used, column));
                }
                caveats.add("The table does not have " + missing.stream().map(Column::name).collect(Collectors.joining(", "))
                        + " yet, so a temporary copy of its design with these columns was used and is gone again.");
            } else if (temporary) {
                for (String sql : dialect.createTable(used, layout, true)) {
                    statement.execute(sql);
                }
                caveats.add("The table does not exist yet, so a temporary one of the same design was used and is gone again.");
            } else if (layout.columns().stream().anyMatch(Column::isAutoNumber)) {
                caveats.add("The row is gone again, but the table's auto-number has moved on by one: that cannot be rolled back.");
            }
            return written(used, layout, row, statement, caveats, temporary);
        } finally {
            connection.rollback();
            if (temporary) {
                try (Statement statement = connection.createStatement()) {
                    statement.execute("DROP TEMPORARY TABLE IF EXISTS " + dialect.quote(used));
                }
            }
        }
    }

    private TryOutcome written(String used, Layout layout, Row row, Statement statement, List<String> caveats, boolean temporary) throws SQLException {
        int rows;
        long number = 0;
        try (PreparedStatement insert = connection.prepareStatement(dialect.insert(used, layout), Statement.RETURN_GENERATED_KEYS)) {
            CellBinder.bind(insert, layout, row);
            rows = insert.executeUpdate();
            try (ResultSet keys = insert.getGeneratedKeys()) {
                number = keys.next() ? keys.getLong(1) : 0;
            }
        }
        Optional<String> place = whereItIs(layout, row, number);
        String sentence = rows + (rows == 1 ? " row was" : " rows were") + " written and rolled back" + (temporary ? " (temporary table)." : ".");
        List<String> names = layout.columns().stream().map(Column::name).toList();
        if (place.isEmpty()) {
            caveats.add("The layout has neither row id nor auto-number, so the row could not be found again to show it.");
            return new TryOutcome(true, sentence, List.of(), List.of(), caveats);
        }
        String sql = "SELECT " + names.stream().map(dialect::quote).collect(Collectors.joining(", ")) + " FROM " + dialect.quote(used) + " WHERE " + place.get();
        try (ResultSet back = statement.executeQuery(sql)) {
            back.next();
            List<String> cells = CellBinder.read(back, names.size()).stream().map(cell -> cell == null ? "" : Conversion.plain(cell)).toList();
            return new TryOutcome(true, sentence, names, cells, caveats);
        }
    }

    private Optional<String> whereItIs(Layout layout, Row row, long number) {
        if (layout.rowIdColumn().isPresent()) {
            return Optional.of(dialect.quote(layout.rowIdColumn().get().name()) + " = '" + row.id() + "'");
        }
        return layout.columns().stream().filter(Column::isAutoNumber).findFirst()
                .map(column -> dialect.quote(column.name()) + " = " + number);
    }
}
