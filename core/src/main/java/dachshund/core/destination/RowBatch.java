package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import java.util.List;

/**
 * Rows of one lane in the order they were made, for one table.
 *
 * @param lane name of the lane for the delivery mark: recorder and destination
 * @param mark whether to move the delivery mark with the rows
 */
public record RowBatch(String lane, String table, Layout layout, boolean mark, List<Row> rows) {
}
