package dachshund.core.lineup;

import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.OwnWords;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;

/** A recorder's design rolled out over machines. */
public final class RecorderLines extends LineUp<RecorderDefinition, RecorderDefinition.Made> {

    public RecorderLines() {
        super(RecorderDefinition.class);
    }

    @Override
    public RecorderDefinition derived(RecorderDefinition original, RecorderDefinition line) {
        When.Swap swap = swap(line.follows().orElseThrow(), none -> "", UnaryOperator.identity());
        return new RecorderDefinition(
                line.id(),
                line.name(),
                line.description(),
                line.equipment(),
                original.whens().stream().map(when -> when.swapped(swap)).toList(),
                original.gate().map(swap::condition),
                layout(original, line, swap.tag()),
                wheres(original, line),
                line.follows(),
                original.confirms().map(each -> each.swapped(swap)),
                original.keys());
    }

    @Override
    RecorderDefinition begun(
            RecorderDefinition original, String id, String name, String equipment, Map<String, String> tables) {
        return new RecorderDefinition(
                id,
                name,
                original.description(),
                equipment,
                original.whens(),
                original.gate(),
                original.layout(),
                original.wheres().stream()
                        .filter(where -> tables.containsKey(where.destination()))
                        .map(where -> where.withTable(tables.get(where.destination())))
                        .toList(),
                Optional.empty());
    }

    @Override
    public Map<String, String> constants(RecorderDefinition design) {
        Map<String, String> constants = new LinkedHashMap<>();
        design.layout().columnsAndFields().forEach(column -> {
            if (column.from() instanceof ColumnSource.Constant constant) {
                constants.put(column.name(), constant.text());
            }
        });
        return constants;
    }

    @Override
    public Map<String, String> tables(RecorderDefinition design) {
        Map<String, String> tables = new LinkedHashMap<>();
        design.wheres().forEach(where -> tables.putIfAbsent(where.destination(), where.table()));
        return tables;
    }

    @Override
    public RecorderDefinition withTable(RecorderDefinition design, String table) {
        return design.withWheres(
                design.wheres().stream().map(where -> where.withTable(table)).toList());
    }

    @Override
    public boolean ownTables() {
        return true;
    }

    @Override
    Set<String> properties(RecorderDefinition design) {
        Set<String> asked = new TreeSet<>();
        design.layout().columnsAndFields().forEach(column -> {
            if (column.from() instanceof ColumnSource.FromProperty from
                    && from.equipment().isEmpty()) {
                asked.add(from.property());
            }
        });
        return asked;
    }

    @Override
    public Collection<String> machines(RecorderDefinition design) {
        return design.layout().lines().stream()
                .map(Line::equipment)
                .filter(each -> !each.isEmpty())
                .distinct()
                .toList();
    }

    private static Layout layout(RecorderDefinition original, RecorderDefinition line, UnaryOperator<TagRef> swap) {
        Follows<RecorderDefinition.Made> follows = line.follows().orElseThrow();
        Layout layout = original.layout();
        List<Column> columns = columns(layout.columns(), line, new ColumnSource.Swap() {
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
                return of.equals(original.equipment()) ? line.equipment() : of;
            }
        });
        List<Line> lines = layout.lines().stream()
                .filter(row -> !follows.leftOut().contains(row.tag()))
                .map(row -> new Line(
                        swap.apply(row.tag()),
                        own(row.name(), follows, row.name()),
                        own(row.equipment(), follows, ""),
                        row.unit()))
                .toList();
        return new Layout(layout.shape(), columns, lines, layout.changedLinesOnly(), layout.key(), layout.indexes());
    }

    /** A text that may name the original's machine, as this line says it. */
    private static String own(String text, Follows<RecorderDefinition.Made> follows, String otherwise) {
        String own = new OwnWords(follows.names()).in(text);
        return own.equals(text) ? otherwise : own;
    }

    private static List<Column> columns(List<Column> columns, RecorderDefinition line, ColumnSource.Swap swap) {
        Map<String, String> constants = line.follows().orElseThrow().constants();
        List<Column> result = new ArrayList<>();
        for (Column column : columns) {
            ColumnSource from = column.from();
            if (from.goesWith(swap)) {
                continue;
            }
            if (from instanceof ColumnSource.Document document) {
                result.add(column.from(new ColumnSource.Document(columns(document.fields(), line, swap))));
            } else if (from instanceof ColumnSource.Constant && constants.containsKey(column.name())) {
                result.add(column.from(new ColumnSource.Constant(constants.get(column.name()))));
            } else {
                result.add(column.from(from.swapped(swap)));
            }
        }
        return result;
    }

    /** The original's destinations with the line's own tables; in a destination that is new to it, a table of its own. */
    private static List<Where> wheres(RecorderDefinition original, RecorderDefinition line) {
        Map<String, String> own =
                line.wheres().stream().collect(Collectors.toMap(Where::destination, Where::table, (a, b) -> a));
        Map<String, String> names = line.follows().orElseThrow().names();
        return original.wheres().stream()
                .map(where -> where.withTable(
                        own.containsKey(where.destination())
                                ? own.get(where.destination())
                                : OwnNames.table(where.table(), names, line.name())))
                .toList();
    }

    @Override
    List<Edit> edits(RecorderDefinition.Made made, RecorderDefinition line) {
        List<Edit> edits = new ArrayList<>();
        if (!line.whens().equals(made.whens())) {
            edits.add(new Edit("when", "its Whens"));
        }
        if (!line.gate().equals(made.gate())) {
            edits.add(new Edit("gate", "its gate"));
        }
        if (!line.confirms().equals(made.confirms())) {
            edits.add(new Edit("confirms", "what the plant is told"));
        }
        Map<String, Column> was = named(made.layout());
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
        if (!rest(line.layout()).equals(rest(made.layout()))) {
            edits.add(new Edit("rows", "its key, indexes or tags of rows"));
        }
        if (!line.keys().equals(made.keys())) {
            edits.add(new Edit("keys", "the keys of the ledger"));
        }
        Map<String, Where> wasWhere = byDestination(made.wheres());
        Map<String, Where> isWhere = byDestination(line.wheres());
        Set<String> destinations = new LinkedHashSet<>(wasWhere.keySet());
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

    @Override
    RecorderDefinition brought(RecorderDefinition fresh, RecorderDefinition line, Set<String> kept) {
        return fresh.withWhens(kept.contains("when") ? line.whens() : fresh.whens())
                .withGate(kept.contains("gate") ? line.gate() : fresh.gate())
                .withConfirms(kept.contains("confirms") ? line.confirms() : fresh.confirms())
                .withKeys(kept.contains("keys") ? line.keys() : fresh.keys())
                .withLayout(layout(fresh, line, kept))
                .withWheres(wheres(fresh, line, kept));
    }

    private static Layout layout(RecorderDefinition fresh, RecorderDefinition line, Set<String> kept) {
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

    private static List<Where> wheres(RecorderDefinition fresh, RecorderDefinition line, Set<String> kept) {
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
}
