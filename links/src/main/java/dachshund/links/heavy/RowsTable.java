package dachshund.links.heavy;

import java.math.BigDecimal;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import org.duckdb.DuckDBAppender;

/** A table of an embedded DuckDB whose columns get the narrowest types that hold all their cells exactly. */
final class RowsTable {

    private final OwnDuck duck;
    private final String table;
    private final List<String> columns;
    private final ColumnType[] types;
    private DuckDBAppender appender;
    private long rows;

    RowsTable(OwnDuck duck, String table, List<String> columns) throws SQLException {
        this.duck = duck;
        this.table = table;
        this.columns = columns;
        this.types = new ColumnType[columns.size()];
        Arrays.fill(types, ColumnType.NOTHING);
        duck.run("CREATE TABLE " + OwnDuck.name(table) + " ("
                + columns.stream()
                        .map(each -> OwnDuck.name(each) + " " + ColumnType.NOTHING.sql())
                        .collect(Collectors.joining(", "))
                + ")");
        appender = duck.database().createAppender(table);
    }

    void add(List<Object[]> more) throws SQLException {
        List<Integer> wider = new ArrayList<>();
        for (int i = 0; i < types.length; i++) {
            ColumnType type = types[i];
            for (Object[] row : more) {
                type = type.with(row[i]);
            }
            if (!type.sql().equals(types[i].sql())) {
                wider.add(i);
            }
            types[i] = type;
        }
        if (!wider.isEmpty()) {
            appender.close();
            for (int i : wider) {
                become(i, types[i].sql());
            }
            appender = duck.database().createAppender(table);
        }
        for (Object[] row : more) {
            appender.beginRow();
            for (int i = 0; i < row.length; i++) {
                put(row[i], types[i]);
            }
            appender.endRow();
        }
        rows += more.size();
    }

    private void become(int column, String type) throws SQLException {
        duck.run(
                "ALTER TABLE " + OwnDuck.name(table) + " ALTER " + OwnDuck.name(columns.get(column)) + " TYPE " + type);
    }

    private void put(Object cell, ColumnType type) throws SQLException {
        if (cell == null) {
            appender.appendNull();
            return;
        }
        switch (type.sort()) {
            case WHOLE -> appender.append((long) (Long) cell);
            case NUMBER -> appender.append(((Number) cell).doubleValue());
            case EXACT ->
                appender.append((cell instanceof Long whole ? BigDecimal.valueOf(whole) : (BigDecimal) cell)
                        .setScale(type.scale()));
            case TRUTH -> appender.append((boolean) (Boolean) cell);
            case TIME -> appender.append(((Instant) cell).atOffset(ZoneOffset.UTC));
            case DAY -> appender.append((LocalDate) cell);
            case CLOCK -> appender.append((LocalTime) cell);
            default -> appender.append(cell instanceof BigDecimal exact ? exact.toPlainString() : cell.toString());
        }
    }

    /**
     * No more rows come.
     *
     * @param usual types of columns in which no cell is, in DuckDB's words
     * @return how many rows there are
     */
    long finish(List<String> usual) throws SQLException {
        appender.close();
        for (int i = 0; i < types.length && i < usual.size(); i++) {
            if (types[i].sort() == ColumnType.NOTHING.sort() && !usual.get(i).equals(ColumnType.NOTHING.sql())) {
                become(i, usual.get(i));
            }
        }
        return rows;
    }
}
