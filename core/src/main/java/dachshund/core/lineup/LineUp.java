package dachshund.core.lineup;

import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;

/** One recorder's design rolled out over machines: what a recorder that follows it looks like. */
public final class LineUp {

    private LineUp() {}

    /**
     * The follower as its original makes it now. Its id, name, description, equipment and tables stay its own.
     *
     * @param follower a recorder with {@link RecorderDefinition#follows}
     */
    public static RecorderDefinition derived(RecorderDefinition original, RecorderDefinition follower) {
        Follows follows = follower.follows().orElseThrow();
        Map<TagRef, TagRef> swaps = new HashMap<>();
        follows.tags().forEach(swap -> swaps.put(swap.from(), swap.to()));
        UnaryOperator<TagRef> swap = tag -> swaps.getOrDefault(tag, tag);
        List<When> whens =
                original.whens().stream().map(when -> when(when, follows, swap)).toList();
        Optional<Condition> gate = original.gate().map(condition -> condition(condition, swap));
        return new RecorderDefinition(
                follower.id(),
                follower.name(),
                follower.description(),
                follower.equipment(),
                whens,
                gate,
                layout(original.layout(), follows, swap),
                wheres(original, follower),
                follower.follows());
    }

    /** Whether the follower is what its original makes it, or was edited by itself. */
    public static boolean follows(RecorderDefinition original, RecorderDefinition follower) {
        return derived(original, follower).equals(follower);
    }

    private static When when(When when, Follows follows, UnaryOperator<TagRef> swap) {
        if (when instanceof When.Every every) {
            return follows.rate()
                    .<When>map(rate -> new When.Every(rate, every.fromStart()))
                    .orElse(every);
        }
        if (when instanceof When.OnChange change) {
            return new When.OnChange(
                    change.deadband(),
                    change.tags().stream().map(swap).toList(),
                    change.notMoreOften(),
                    change.atLeast());
        }
        if (when instanceof When.OnCondition each) {
            return new When.OnCondition(
                    condition(each.condition(), swap), each.edge(), each.debounce(), each.holdOff());
        }
        if (when instanceof When.OnIdentifier each) {
            return new When.OnIdentifier(swap.apply(each.tag()), each.debounce(), each.holdOff());
        }
        return when instanceof When.WhileTrue each
                ? new When.WhileTrue(condition(each.condition(), swap), each.period())
                : when;
    }

    private static Condition condition(Condition condition, UnaryOperator<TagRef> swap) {
        return new Condition(condition.text(), swapped(condition.inputs(), swap));
    }

    private static Map<String, TagRef> swapped(Map<String, TagRef> inputs, UnaryOperator<TagRef> swap) {
        Map<String, TagRef> result = new LinkedHashMap<>();
        inputs.forEach((name, tag) -> result.put(name, swap.apply(tag)));
        return result;
    }

    private static Layout layout(Layout layout, Follows follows, UnaryOperator<TagRef> swap) {
        List<Column> columns = layout.columns().stream()
                .map(column -> column(column, follows, swap))
                .toList();
        List<Line> lines = layout.lines().stream()
                .map(line -> new Line(swap.apply(line.tag()), line.name(), line.equipment(), line.unit()))
                .toList();
        return new Layout(layout.shape(), columns, lines, layout.changedLinesOnly(), layout.key(), layout.indexes());
    }

    private static Column column(Column column, Follows follows, UnaryOperator<TagRef> swap) {
        ColumnSource from = column.from();
        if (from instanceof ColumnSource.FromTag tag) {
            return column.from(new ColumnSource.FromTag(swap.apply(tag.tag()), tag.aspect()));
        }
        if (from instanceof ColumnSource.FromTags tags) {
            return column.from(
                    new ColumnSource.FromTags(tags.tags().stream().map(swap).toList(), tags.extraRows()));
        }
        if (from instanceof ColumnSource.FromFormula formula) {
            return column.from(new ColumnSource.FromFormula(formula.text(), swapped(formula.inputs(), swap)));
        }
        if (from instanceof ColumnSource.Constant && follows.constants().containsKey(column.name())) {
            return column.from(new ColumnSource.Constant(follows.constants().get(column.name())));
        }
        if (from instanceof ColumnSource.Document document) {
            return column.from(new ColumnSource.Document(document.fields().stream()
                    .map(field -> column(field, follows, swap))
                    .toList()));
        }
        return column;
    }

    /** The original's destinations with the follower's own tables; a destination that is new to it has the original's table. */
    private static List<Where> wheres(RecorderDefinition original, RecorderDefinition follower) {
        Map<String, String> own =
                follower.wheres().stream().collect(Collectors.toMap(Where::destination, Where::table, (a, b) -> a));
        return original.wheres().stream()
                .map(where -> where.withTable(own.getOrDefault(where.destination(), where.table())))
                .toList();
    }

    /** Constant columns of a design, by name: what lines may set otherwise. */
    public static Map<String, String> constants(Layout layout) {
        Map<String, String> constants = new LinkedHashMap<>();
        layout.columnsAndFields().forEach(column -> {
            if (column.from() instanceof ColumnSource.Constant constant) {
                constants.put(column.name(), constant.text());
            }
        });
        return constants;
    }

    /** Every tag that a design names anywhere: row, Whens and gate. */
    public static List<TagRef> tags(RecorderDefinition design) {
        List<TagRef> tags = new ArrayList<>(design.layout().tags());
        for (When when : design.whens()) {
            if (when instanceof When.OnChange each) {
                tags.addAll(each.tags());
            } else if (when instanceof When.OnCondition each) {
                tags.addAll(each.condition().inputs().values());
            } else if (when instanceof When.OnIdentifier each) {
                tags.add(each.tag());
            } else if (when instanceof When.WhileTrue each) {
                tags.addAll(each.condition().inputs().values());
            }
        }
        design.gate().ifPresent(gate -> tags.addAll(gate.inputs().values()));
        return tags.stream().distinct().toList();
    }
}
