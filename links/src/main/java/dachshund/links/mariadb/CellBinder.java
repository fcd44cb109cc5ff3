package dachshund.links.mariadb;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;

/** Cells to JDBC parameters and back. Instants travel as UTC wall clock, which is what DATETIME holds. */
final class CellBinder {

    private CellBinder() {
    }

    static void bind(PreparedStatement statement, Layout layout, Row row) throws SQLException {
        Object[] cells = row.cells();
        for (int i = 0; i < cells.length; i++) {
            Object cell = cells[i];
            int at = i + 1;
            if (cell == null) {
                statement.setNull(at, nullType(layout, i));
            } else if (cell instanceof Double number) {
                statement.setDouble(at, number);
            } else if (cell instanceof Long whole) {
                statement.setLong(at, whole);
            } else if (cell instanceof String text) {
                statement.setString(at, text);
            } else if (cell instanceof Instant time) {
                statement.setObject(at, LocalDateTime.ofInstant(time, ZoneOffset.UTC));
            } else if (cell instanceof BigDecimal exact) {
                statement.setBigDecimal(at, exact);
            } else {
                statement.setBoolean(at, (Boolean) cell);
            }
        }
    }

    /** A bulk statement wants one type per parameter over all rows, so NULL carries the type of its column. */
    private static int nullType(Layout layout, int index) {
        Column column = layout.written().get(index);
        return switch (column.type().family()) {
            case BOOLEAN -> Types.BOOLEAN;
            case SMALLINT, INTEGER, BIGINT -> Types.BIGINT;
            case DECIMAL -> Types.DECIMAL;
            case DOUBLE -> Types.DOUBLE;
            case TEXT -> Types.VARCHAR;
            case TIMESTAMP -> Types.TIMESTAMP;
        };
    }

    static List<Object> read(ResultSet rows, int columns) throws SQLException {
        List<Object> cells = new ArrayList<>(columns);
        for (int i = 1; i <= columns; i++) {
            int type = rows.getMetaData().getColumnType(i);
            Object cell = type == Types.TIMESTAMP ? rows.getObject(i, LocalDateTime.class) : rows.getObject(i);
            cells.add(cell instanceof LocalDateTime time ? time.toInstant(ZoneOffset.UTC)
                    : cell == null || cell instanceof Number || cell instanceof Boolean ? cell : rows.getString(i));
        }
        return cells;
    }
}
