package dachshund.web.row;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import java.util.ArrayList;
import java.util.List;

/**
 * Which column of a layout, or which field of the document in one.
 *
 * @param field -1 for the column itself
 */
public record ColumnPlace(int column, int field) {

    /** Reads 3 or 3.2. */
    public static ColumnPlace read(String text) {
        String[] parts = text.split("\\.");
        return new ColumnPlace(Integer.parseInt(parts[0]), parts.length > 1 ? Integer.parseInt(parts[1]) : -1);
    }

    /** The columns among which it is one. */
    public List<Column> among(Layout layout) {
        return field < 0
                ? layout.columns()
                : ((ColumnSource.Document) layout.columns().get(column).from()).fields();
    }

    public int index() {
        return field < 0 ? column : field;
    }

    public Column of(Layout layout) {
        return among(layout).get(index());
    }

    public Layout with(Layout layout, Column changed) {
        if (field < 0) {
            return layout.with(column, changed);
        }
        List<Column> fields = new ArrayList<>(among(layout));
        fields.set(field, changed);
        return document(layout, fields);
    }

    public Layout without(Layout layout) {
        if (field < 0) {
            return layout.without(column);
        }
        List<Column> fields = new ArrayList<>(among(layout));
        fields.remove(field);
        return document(layout, fields);
    }

    public Layout moved(Layout layout, int to) {
        int last = among(layout).size() - 1;
        int place = Math.max(0, Math.min(last, to));
        if (field < 0) {
            return layout.moved(column, place);
        }
        List<Column> fields = new ArrayList<>(among(layout));
        fields.add(place, fields.remove(field));
        return document(layout, fields);
    }

    private Layout document(Layout layout, List<Column> fields) {
        return layout.with(column, layout.columns().get(column).from(new ColumnSource.Document(fields)));
    }
}
