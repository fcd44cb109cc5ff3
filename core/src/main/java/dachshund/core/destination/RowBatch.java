package dachshund.core.destination;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import java.util.List;
import java.util.Set;

/**
 * Rows of one lane in the order they were made, for one table.
 *
 * @param lane  name of the lane for the delivery mark: recorder and destination
 * @param place the table or file; the store that gets the batch is the one of its database
 * @param mark  whether to move the delivery mark with the rows
 */
public record RowBatch(String lane, Place place, Layout layout, boolean mark, WriteMode mode, List<Row> rows) {

    /** For a table of the destination's own database. */
    public RowBatch(String lane, String table, Layout layout, boolean mark, WriteMode mode, List<Row> rows) {
        this(lane, new Place("", table), layout, mark, mode, rows);
    }

    public String table() {
        return place.table();
    }

    /** The same rows without some of their columns. */
    public RowBatch without(Set<String> columns) {
        if (columns.isEmpty()) {
            return this;
        }
        List<Column> written = layout.written();
        int[] kept = java.util.stream.IntStream.range(0, written.size())
                .filter(i -> !columns.contains(written.get(i).name()))
                .toArray();
        Layout less = layout.withColumns(layout.columns().stream()
                .filter(column -> !columns.contains(column.name()))
                .toList());
        List<Row> rowsLess = rows.stream()
                .map(row -> {
                    Object[] cells = new Object[kept.length];
                    for (int i = 0; i < kept.length; i++) {
                        cells[i] = row.cells()[kept[i]];
                    }
                    return new Row(row.id(), row.recordTime(), cells);
                })
                .toList();
        return new RowBatch(lane, place, less, mark, mode, rowsLess);
    }
}
