package dachshund.core.lineup;

import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * What was edited by hand in a line of a line-up, told from what its original made it; and the line as its original makes it
 * now, with the edits that are to stay.
 */
public final class LineEdits {

    private final RecorderDefinition original;
    private final RecorderDefinition line;
    private final RecorderDefinition fresh;
    private final Follows.Made base;

    /**
     * A part of a line that differs from what its original had made it.
     *
     * @param part  tells it from the line's others
     * @param words the part, for a person
     */
    public record Edit(String part, String words) {}

    /** @param line a recorder that follows the original */
    public LineEdits(RecorderDefinition original, RecorderDefinition line) {
        this.original = original;
        this.line = line;
        this.fresh = LineUp.derived(original, line);
        // Where it is not known what it was made once, all that differs may be somebody's work.
        this.base = line.follows().orElseThrow().made().orElseGet(() -> Follows.Made.of(fresh));
    }

    /** Whether its original would make another line of it today. */
    public boolean behind() {
        return !Follows.Made.of(fresh).equals(base);
    }

    /** What was edited by hand, in the order of the design. */
    public List<Edit> edits() {
        List<Edit> edits = new ArrayList<>();
        if (!line.whens().equals(base.whens())) {
            edits.add(new Edit("when", "its Whens"));
        }
        if (!line.gate().equals(base.gate())) {
            edits.add(new Edit("gate", "its gate"));
        }
        if (!line.confirms().equals(base.confirms())) {
            edits.add(new Edit("confirms", "what the plant is told"));
        }
        Map<String, Column> was = named(base.layout());
        Map<String, Column> is = named(line.layout());
        is.forEach((name, column) -> {
            if (!was.containsKey(name)) {
                edits.add(new Edit("column " + name, "column " + name + " added"));
            } else if (!was.get(name).equals(column)) {
                edits.add(new Edit("column " + name, "column " + name));
            }
        });
        was.keySet().stream()
                .filter(name -> !is.containsKey(name))
                .forEach(name -> edits.add(new Edit("column " + name, "column " + name + " removed")));
        if (!rest(line.layout()).equals(rest(base.layout()))) {
            edits.add(new Edit("rows", "its key, indexes or tags of rows"));
        }
        Map<String, Where> wasWhere = byDestination(base.wheres());
        Map<String, Where> isWhere = byDestination(line.wheres());
        Set<String> destinations = new java.util.LinkedHashSet<>(wasWhere.keySet());
        destinations.addAll(isWhere.keySet());
        destinations.stream()
                .filter(each -> !Optional.ofNullable(wasWhere.get(each)).equals(Optional.ofNullable(isWhere.get(each))))
                .forEach(each -> edits.add(new Edit(
                        "where " + each,
                        !isWhere.containsKey(each)
                                ? "a destination removed"
                                : !wasWhere.containsKey(each)
                                        ? "a destination added"
                                        : "how it writes to a destination")));
        return edits;
    }

    /** Everything of a layout but its columns. */
    private static Layout rest(Layout layout) {
        return new Layout(
                layout.shape(), List.of(), layout.lines(), layout.changedLinesOnly(), layout.key(), layout.indexes());
    }

    private static Map<String, Column> named(Layout layout) {
        return layout.columns().stream()
                .collect(Collectors.toMap(Column::name, Function.identity(), (a, b) -> a, LinkedHashMap::new));
    }

    private static Map<String, Where> byDestination(List<Where> wheres) {
        return wheres.stream()
                .collect(Collectors.toMap(
                        Where::destination, where -> where.withTable(""), (a, b) -> a, LinkedHashMap::new));
    }

    /**
     * The line as its original makes it now.
     *
     * @param dropped parts whose edits are given up; all others stay
     */
    public RecorderDefinition brought(Set<String> dropped) {
        Set<String> kept = edits().stream()
                .map(Edit::part)
                .filter(part -> !dropped.contains(part))
                .collect(Collectors.toSet());
        RecorderDefinition made = fresh.withFollows(
                Optional.of(line.follows().orElseThrow().withMade(Optional.of(Follows.Made.of(fresh)))));
        return made.withWhens(kept.contains("when") ? line.whens() : fresh.whens())
                .withGate(kept.contains("gate") ? line.gate() : fresh.gate())
                .withConfirms(kept.contains("confirms") ? line.confirms() : fresh.confirms())
                .withLayout(layout(kept))
                .withWheres(wheres(kept));
    }

    private Layout layout(Set<String> kept) {
        Map<String, Column> columns = named(fresh.layout());
        Map<String, Column> own = named(line.layout());
        kept.stream()
                .filter(part -> part.startsWith("column "))
                .map(part -> part.substring("column ".length()))
                .filter(name -> !own.containsKey(name))
                .forEach(columns::remove);
        own.forEach((name, column) -> {
            if (kept.contains("column " + name)) {
                columns.put(name, column);
            }
        });
        Layout rows = kept.contains("rows") ? line.layout() : fresh.layout();
        return new Layout(
                rows.shape(),
                List.copyOf(columns.values()),
                rows.lines(),
                rows.changedLinesOnly(),
                rows.key(),
                rows.indexes());
    }

    private List<Where> wheres(Set<String> kept) {
        Map<String, Where> wheres = fresh.wheres().stream()
                .collect(Collectors.toMap(Where::destination, Function.identity(), (a, b) -> a, LinkedHashMap::new));
        Map<String, Where> own = line.wheres().stream()
                .collect(Collectors.toMap(Where::destination, Function.identity(), (a, b) -> a, LinkedHashMap::new));
        kept.stream()
                .filter(part -> part.startsWith("where "))
                .map(part -> part.substring("where ".length()))
                .forEach(destination -> {
                    if (own.containsKey(destination)) {
                        wheres.put(destination, own.get(destination));
                    } else {
                        wheres.remove(destination);
                    }
                });
        return List.copyOf(wheres.values());
    }

    /** Tags of the original in whose place the line has none, and nobody has said what becomes of them. */
    public List<dachshund.core.tag.TagRef> gaps() {
        return LineUp.gaps(original, line.follows().orElseThrow());
    }
}
