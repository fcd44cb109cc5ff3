package dachshund.core.release;

import dachshund.core.definition.Follows;
import dachshund.core.equipment.PropertyLookup;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.TypeChoice;
import dachshund.core.row.Conversion;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/** Reads a layout with a critical eye before it is released. */
public final class LayoutCheck {

    private final Layout layout;
    private final Dialect dialect;
    private final Function<TagRef, Optional<TagInfo>> tags;
    private final PropertyLookup properties;
    private final String equipment;
    private final List<Remark> remarks = new ArrayList<>();

    /**
     * Something to say of one column.
     *
     * @param column   index in the layout, or -1 for the layout as a whole
     * @param blocking whether it must be mended before release; else it is advice
     */
    public record Remark(int column, boolean blocking, String sentence) {}

    private LayoutCheck(
            Layout layout,
            Dialect dialect,
            Function<TagRef, Optional<TagInfo>> tags,
            PropertyLookup properties,
            String equipment) {
        this.layout = layout;
        this.dialect = dialect;
        this.tags = tags;
        this.properties = properties;
        this.equipment = equipment;
    }

    /**
     * @param tags      what is known of a tag, empty where its source does not have it (any more)
     * @param equipment id of the recorder's own equipment; empty for none
     */
    public static List<Remark> remarks(
            Layout layout,
            Dialect dialect,
            Function<TagRef, Optional<TagInfo>> tags,
            PropertyLookup properties,
            String equipment) {
        LayoutCheck check = new LayoutCheck(layout, dialect, tags, properties, equipment);
        check.columns();
        check.whole();
        return check.remarks;
    }

    private void columns() {
        Map<String, Integer> names = new HashMap<>();
        for (int i = 0; i < layout.columns().size(); i++) {
            Column column = layout.columns().get(i);
            int index = i;
            dialect.identifierProblem(column.name())
                    .ifPresentOrElse(
                            problem -> remarks.add(new Remark(index, true, problem)),
                            () -> dialect.identifierHint(column.name())
                                    .ifPresent(hint -> remarks.add(new Remark(index, false, hint))));
            Integer before = names.putIfAbsent(column.name().toLowerCase(Locale.ROOT), i);
            if (before != null) {
                remarks.add(new Remark(
                        i,
                        true,
                        "Columns " + (before + 1) + " and " + (i + 1) + " are both named " + column.name()
                                + ". Give one of them another name."));
            }
            source(column, index);
            column.from().within().forEach(field -> source(field, index));
        }
    }

    private void source(Column column, int index) {
        known(column.from().tags(), index);
        column.from()
                .remarks(column, around())
                .forEach(remark -> remarks.add(new Remark(index, remark.blocking(), remark.sentence())));
    }

    private ColumnSource.Around around() {
        return new ColumnSource.Around() {
            @Override
            public Optional<TagInfo> tag(TagRef tag) {
                return tags.apply(tag);
            }

            @Override
            public Optional<String> warning(TagInfo tag, SqlType type) {
                return TypeChoice.warning(tag.name(), tag.kind(), type);
            }

            @Override
            public Optional<String> misfit(String text, SqlType type) {
                try {
                    Conversion.convert(text, type, ZoneOffset.UTC);
                    return Optional.empty();
                } catch (Conversion.DoesNotFit problem) {
                    return Optional.of(problem.getMessage());
                }
            }

            @Override
            public String equipment() {
                return equipment;
            }

            @Override
            public boolean has(String whose, String property) {
                return properties.property(whose, property).isPresent();
            }

            @Override
            public Shape shape() {
                return layout.shape();
            }
        };
    }

    private void known(Collection<TagRef> refs, int index) {
        refs.stream()
                .filter(ref -> tags.apply(ref).isEmpty())
                .forEach(
                        ref -> remarks.add(
                                new Remark(
                                        index,
                                        true,
                                        ref.isGap()
                                                ? Follows.gap("Column "
                                                        + layout.columns()
                                                                .get(index)
                                                                .name())
                                                : "The tag " + ref.address()
                                                        + " is not among the tags taken from its source. Take it there or remove this column.")));
    }

    private void whole() {
        boolean anything = !layout.tags().isEmpty()
                || layout.columnsAndFields().stream()
                        .anyMatch(column -> column.from() instanceof ColumnSource.FromProperty);
        if (!anything) {
            remarks.add(new Remark(-1, true, "There is no tag in this row yet. Add one at the end of the row."));
        }
        layout.lines().stream()
                .filter(line -> tags.apply(line.tag()).isEmpty())
                .forEach(
                        line -> remarks.add(
                                new Remark(
                                        -1,
                                        true,
                                        line.tag().isGap()
                                                ? Follows.gap("The row of " + line.name())
                                                : "The tag " + line.name()
                                                        + " is not among the tags taken from its source. Take it there or remove its line.")));
        long numbered = layout.columns().stream().filter(Column::isAutoNumber).count();
        if (numbered > 1) {
            remarks.add(new Remark(
                    -1, true, "A table has one auto-number column at most; this layout has " + numbered + "."));
        }
        layout.key().stream()
                .filter(name -> layout.column(name).isEmpty())
                .forEach(name ->
                        remarks.add(new Remark(-1, true, "The key names a column " + name + " that is not there.")));
    }
}
