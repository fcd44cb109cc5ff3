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
     * The follower as its original makes it now. Its id, name, description, equipment and tables stay its own. Where it has no
     * tag for one of the original's, it has a gap: nothing is read or written that is the original's own unless somebody said so.
     *
     * @param follower a recorder with {@link RecorderDefinition#follows}
     */
    public static RecorderDefinition derived(RecorderDefinition original, RecorderDefinition follower) {
        Follows follows = follower.follows().orElseThrow();
        Map<TagRef, TagRef> swaps = new HashMap<>();
        follows.shared().forEach(tag -> swaps.put(tag, tag));
        follows.tags().forEach(swap -> swaps.put(swap.from(), swap.to()));
        UnaryOperator<TagRef> swap = tag -> swaps.getOrDefault(tag, TagRef.gapFor(tag));
        When.Swap whenSwap = new When.Swap(swap, follows.leftOut(), follows.rate());
        List<When> whens =
                original.whens().stream().map(when -> when.swapped(whenSwap)).toList();
        Optional<Condition> gate = original.gate().map(whenSwap::condition);
        return new RecorderDefinition(
                follower.id(),
                follower.name(),
                follower.description(),
                follower.equipment(),
                whens,
                gate,
                layout(original, follower, swap),
                wheres(original, follower),
                follower.follows(),
                original.confirms().map(each -> each.swapped(whenSwap)));
    }

    /** A new line as its original makes it, which is kept with it: what is edited by hand afterwards shows beside it. */
    public static RecorderDefinition made(RecorderDefinition original, RecorderDefinition follower) {
        RecorderDefinition made = derived(original, follower);
        return made.withFollows(made.follows().map(follows -> follows.withMade(Optional.of(Follows.Made.of(made)))));
    }

    /** Tags of the original for which the line has none, and of which nobody has said what becomes of them. */
    public static List<TagRef> gaps(RecorderDefinition original, Follows follows) {
        List<TagRef> has = new ArrayList<>(follows.shared());
        has.addAll(follows.leftOut());
        follows.tags().forEach(swap -> has.add(swap.from()));
        return original.everyTag().stream().filter(tag -> !has.contains(tag)).toList();
    }

    private static Layout layout(RecorderDefinition original, RecorderDefinition follower, UnaryOperator<TagRef> swap) {
        Follows follows = follower.follows().orElseThrow();
        Layout layout = original.layout();
        List<Column> columns = columns(layout.columns(), follower, new ColumnSource.Swap() {
            @Override
            public TagRef tag(TagRef of) {
                return swap.apply(of);
            }

            @Override
            public boolean leavesOut(TagRef of) {
                return follows.leftOut().contains(of);
            }

            @Override
            public String equipment(String of) {
                return of.equals(original.equipment()) ? follower.equipment() : of;
            }
        });
        List<Line> lines = layout.lines().stream()
                .filter(line -> !follows.leftOut().contains(line.tag()))
                .map(line -> new Line(
                        swap.apply(line.tag()),
                        own(line.name(), follows, line.name()),
                        own(line.equipment(), follows, ""),
                        line.unit()))
                .toList();
        return new Layout(layout.shape(), columns, lines, layout.changedLinesOnly(), layout.key(), layout.indexes());
    }

    /** A text that may name the original's machine, as this line says it. */
    private static String own(String text, Follows follows, String otherwise) {
        for (Map.Entry<String, String> name : follows.names().entrySet()) {
            if (!name.getKey().isEmpty() && text.contains(name.getKey())) {
                return text.replace(name.getKey(), name.getValue());
            }
        }
        return otherwise;
    }

    private static List<Column> columns(List<Column> columns, RecorderDefinition follower, ColumnSource.Swap swap) {
        Map<String, String> constants = follower.follows().orElseThrow().constants();
        List<Column> result = new ArrayList<>();
        for (Column column : columns) {
            ColumnSource from = column.from();
            if (from.goesWith(swap)) {
                continue;
            }
            if (from instanceof ColumnSource.Document document) {
                result.add(column.from(new ColumnSource.Document(columns(document.fields(), follower, swap))));
            } else if (from instanceof ColumnSource.Constant && constants.containsKey(column.name())) {
                result.add(column.from(new ColumnSource.Constant(constants.get(column.name()))));
            } else {
                result.add(column.from(from.swapped(swap)));
            }
        }
        return result;
    }

    /** The original's destinations with the follower's own tables; in a destination that is new to it, a table of its own. */
    private static List<Where> wheres(RecorderDefinition original, RecorderDefinition follower) {
        Map<String, String> own =
                follower.wheres().stream().collect(Collectors.toMap(Where::destination, Where::table, (a, b) -> a));
        Map<String, String> names = follower.follows().orElseThrow().names();
        return original.wheres().stream()
                .map(where -> where.withTable(
                        own.containsKey(where.destination())
                                ? own.get(where.destination())
                                : OwnNames.table(where.table(), names, follower.name())))
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
}
