package dachshund.core.layout;

import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;

/** Turns a layout into another shape with the same tags, as far as the shapes allow. */
public final class Reshape {

    private Reshape() {}

    /** What is known of a tag. */
    public record Described(String name, String equipment, String unit, SqlType type) {}

    /**
     * @param tags what is known of a tag, also of one that its source has lost
     */
    public static Layout to(Layout layout, Shape shape, Function<TagRef, Described> tags) {
        if (layout.shape() == shape) {
            return layout;
        }
        Layout result = Layout.proposed(shape);
        // Columns that no tag hangs on are kept: constants, run variables.
        for (Column column : layout.columns()) {
            if (column.from().ofAnyShape() && result.column(column.name()).isEmpty()) {
                result = result.plus(column);
            }
        }
        List<TagRef> refs = List.copyOf(layout.tags());
        if (shape == Shape.ROW_PER_TAG) {
            List<Line> lines = new ArrayList<>();
            refs.forEach(ref -> lines.add(line(ref, tags)));
            return result.withLines(lines);
        }
        for (TagRef ref : refs) {
            result = withTag(result, ref, tags);
        }
        return result;
    }

    /** The layout with the tag at its end: as a column, a line, or a field of its document. */
    public static Layout withTag(Layout layout, TagRef tag, Function<TagRef, Described> tags) {
        Described known = tags.apply(tag);
        if (layout.shape() == Shape.ROW_PER_TAG) {
            List<Line> lines = new ArrayList<>(layout.lines());
            lines.add(line(tag, tags));
            return layout.withLines(lines);
        }
        int at = documentAt(layout);
        if (layout.shape() == Shape.DOCUMENT && at >= 0) {
            List<Column> fields = new ArrayList<>(
                    ((ColumnSource.Document) layout.columns().get(at).from()).fields());
            fields.add(Column.of(
                    Layout.freeName(known.name(), fields), known.type(), new ColumnSource.FromTag(tag, Aspect.VALUE)));
            return layout.with(at, layout.columns().get(at).from(new ColumnSource.Document(fields)));
        }
        return layout.plus(
                Column.of(layout.freeName(known.name()), known.type(), new ColumnSource.FromTag(tag, Aspect.VALUE)));
    }

    private static Line line(TagRef tag, Function<TagRef, Described> tags) {
        Described known = tags.apply(tag);
        return new Line(tag, known.name(), known.equipment(), known.unit());
    }

    /** Index of the column that holds the document; -1 where there is none. */
    public static int documentAt(Layout layout) {
        for (int i = 0; i < layout.columns().size(); i++) {
            if (layout.columns().get(i).from() instanceof ColumnSource.Document) {
                return i;
            }
        }
        return -1;
    }
}
