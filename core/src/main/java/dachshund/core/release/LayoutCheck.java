package dachshund.core.release;

import dachshund.core.layout.TypeChoice;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/** Reads a layout with a critical eye before it is released. */
public final class LayoutCheck {

    /**
     * Something to say of one column.
     *
     * @param column   index in the layout, or -1 for the layout as a whole
     * @param blocking whether it must be mended before release; else it is advice
     */
    public record Remark(int column, boolean blocking, String sentence) {
    }

    private LayoutCheck() {
    }

    /**
     * @param tags what is known of a tag, empty where its source does not have it (any more)
     */
    public static List<Remark> remarks(Layout layout, Dialect dialect, Function<TagRef, Optional<TagInfo>> tags) {
        List<Remark> remarks = new ArrayList<>();
        Map<String, Integer> names = new HashMap<>();
        for (int i = 0; i < layout.columns().size(); i++) {
            Column column = layout.columns().get(i);
            int index = i;
            dialect.identifierProblem(column.name()).ifPresentOrElse(
                    problem -> remarks.add(new Remark(index, true, problem)),
                    () -> dialect.identifierHint(column.name()).ifPresent(hint -> remarks.add(new Remark(index, false, hint))));
            Integer before = names.putIfAbsent(column.name().toLowerCase(Locale.ROOT), i);
            if (before != null) {
                remarks.add(new Remark(i, true, "Columns " + (before + 1) + " and " + (i + 1) + " are both named "
                        + column.name() + ". Give one of them another name."));
            }
            tagRemark(column, index, tags).ifPresent(remarks::add);
        }
        if (layout.columns().stream().noneMatch(column -> column.from() instanceof ColumnSource.FromTag)) {
            remarks.add(new Remark(-1, true, "There is no tag in this row yet. Add one at the end of the row."));
        }
        long numbered = layout.columns().stream().filter(Column::isAutoNumber).count();
        if (numbered > 1) {
            remarks.add(new Remark(-1, true, "A table has one auto-number column at most; this layout has " + numbered + "."));
        }
        return remarks;
    }

    private static Optional<Remark> tagRemark(Column column, int index, Function<TagRef, Optional<TagInfo>> tags) {
        if (!(column.from() instanceof ColumnSource.FromTag from)) {
            return Optional.empty();
        }
        Optional<TagInfo> info = tags.apply(from.tag());
        if (info.isEmpty()) {
            return Optional.of(new Remark(index, true, "The tag " + from.tag().address()
                    + " is not among the tags taken from its source. Take it there or remove this column."));
        }
        if (from.aspect() != ColumnSource.Aspect.VALUE) {
            return Optional.empty();
        }
        return TypeChoice.warning(info.get().name(), info.get().kind(), column.type())
                .map(warning -> new Remark(index, false, warning));
    }
}
