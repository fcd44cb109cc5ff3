package dachshund.core.row;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;

/** A row of texts that a person looked through, as a row of a layout. */
public final class Mended {

    private Mended() {}

    /**
     * Makes the row. Its identity and record time are those given, whatever the texts say.
     *
     * @param texts by name of the column; null or not there for no value
     * @param zone  in which a date is taken out of a time: plant time
     * @return the row, or why it does not fit
     */
    public static Made of(Layout layout, RowId id, Instant recordTime, Map<String, String> texts, ZoneId zone) {
        List<Column> columns = layout.written();
        Object[] cells = new Object[columns.size()];
        for (int i = 0; i < cells.length; i++) {
            Column column = columns.get(i);
            Object value = fixed(column, id, recordTime);
            if (value == null) {
                value = texts.get(column.name());
            }
            if (value == null) {
                if (column.required()) {
                    return refused(id, recordTime, column, "is required and has no value");
                }
                continue;
            }
            try {
                cells[i] = Conversion.convert(value, column.type(), zone);
            } catch (Conversion.DoesNotFit not) {
                return refused(id, recordTime, column, not.getMessage());
            }
        }
        return new Made.Whole(new Row(id, recordTime, cells));
    }

    /** Whether the column says which row it is, and when it was made: nothing to be mended. */
    public static boolean fixed(Column column) {
        return column.isRowId() || column.isRecordTime();
    }

    private static Object fixed(Column column, RowId id, Instant recordTime) {
        return column.isRowId() && id != null ? id.toString() : column.isRecordTime() ? recordTime : null;
    }

    private static Made refused(RowId id, Instant recordTime, Column column, String why) {
        return new Made.Refused(id, recordTime, List.of(), "Column " + column.name() + " " + why + ".");
    }
}
