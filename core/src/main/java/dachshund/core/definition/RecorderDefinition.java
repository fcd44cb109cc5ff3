package dachshund.core.definition;

import dachshund.core.destination.Place;
import dachshund.core.destination.PlacePattern;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * A recorder: one or more Whens, one Row, one or more Wheres.
 *
 * @param equipment id of the equipment it is about; empty for none
 * @param gate      must be true for a row to be written; shut while it is unknown
 * @param follows   the line-up it belongs to
 * @param confirms  what the plant is told of the row that it has asked for
 */
public record RecorderDefinition(
        String id,
        String name,
        String description,
        String equipment,
        List<When> whens,
        Optional<Condition> gate,
        Layout layout,
        List<Where> wheres,
        Optional<Follows> follows,
        Optional<Confirmation> confirms)
        implements Driven {

    /**
     * @param destination id of the destination
     * @param table       name of the table or file there; a column's name in braces stands for its value
     * @param upkeep      what the recorder may do to the table
     * @param mark        whether it keeps a delivery mark in the same database
     * @param mode        how rows are written
     * @param standbyFor  id of the destination whose place it takes while that is away; empty where it takes every row
     * @param database    another database of the same server, with braces as in the table's name; empty for the destination's own
     * @param named       name of the destination, with braces as in the table's name; rows that no destination has the name for
     *                    go to {@code destination}, as all do where it is empty
     */
    public record Where(
            String destination,
            String table,
            Upkeep upkeep,
            boolean mark,
            WriteMode mode,
            String standbyFor,
            String database,
            String named) {

        /** Inserts every row. */
        public Where(String destination, String table, Upkeep upkeep, boolean mark) {
            this(destination, table, upkeep, mark, new WriteMode.Insert(), "");
        }

        /** Into the database of this one destination. */
        public Where(String destination, String table, Upkeep upkeep, boolean mark, WriteMode mode, String standbyFor) {
            this(destination, table, upkeep, mark, mode, standbyFor, "", "");
        }

        /** The table or file, whose names may be patterns. */
        public PlacePattern place() {
            return new PlacePattern(new Place(database, table));
        }

        public Where withTable(String other) {
            return new Where(destination, other, upkeep, mark, mode, standbyFor, database, named);
        }

        public Where withMode(WriteMode other) {
            return new Where(destination, table, upkeep, mark, other, standbyFor, database, named);
        }

        /** Under the same name in another destination, by no pattern. */
        public Where into(String other) {
            return new Where(other, table, upkeep, mark, mode, standbyFor, database, "");
        }
    }

    public RecorderDefinition {
        whens = List.copyOf(whens);
        wheres = List.copyOf(wheres);
    }

    /** The plant is told nothing. */
    public RecorderDefinition(
            String id,
            String name,
            String description,
            String equipment,
            List<When> whens,
            Optional<Condition> gate,
            Layout layout,
            List<Where> wheres,
            Optional<Follows> follows) {
        this(id, name, description, equipment, whens, gate, layout, wheres, follows, Optional.empty());
    }

    /** Without equipment or gate, in no line-up. */
    public RecorderDefinition(
            String id, String name, String description, List<When> whens, Layout layout, List<Where> wheres) {
        this(id, name, description, "", whens, Optional.empty(), layout, wheres, Optional.empty());
    }

    @Override
    public List<TagRef> everyTag() {
        return Stream.of(
                        layout.tags().stream(),
                        whens.stream().flatMap(when -> when.tags().stream()),
                        gate.stream().flatMap(each -> each.inputs().values().stream()),
                        writes().stream())
                .flatMap(each -> each)
                .distinct()
                .toList();
    }

    @Override
    public Map<String, TagRef> named() {
        return layout.named();
    }

    @Override
    public String deed() {
        return "a row is written";
    }

    public RecorderDefinition withName(String other) {
        return new RecorderDefinition(
                id, other, description, equipment, whens, gate, layout, wheres, follows, confirms);
    }

    public RecorderDefinition withEquipment(String other) {
        return new RecorderDefinition(id, name, description, other, whens, gate, layout, wheres, follows, confirms);
    }

    @Override
    public RecorderDefinition withWhens(List<When> other) {
        return new RecorderDefinition(id, name, description, equipment, other, gate, layout, wheres, follows, confirms);
    }

    @Override
    public RecorderDefinition withGate(Optional<Condition> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, other, layout, wheres, follows, confirms);
    }

    /** The same where a column has another name: what names it elsewhere in the design goes with it. */
    public RecorderDefinition renamedColumn(String from, String to) {
        return from.equals(to)
                ? this
                : withWheres(wheres.stream()
                        .map(where -> where.mode() instanceof WriteMode.Call call
                                ? where.withMode(call.renamed(from, to))
                                : where)
                        .toList());
    }

    public RecorderDefinition withLayout(Layout other) {
        return new RecorderDefinition(id, name, description, equipment, whens, gate, other, wheres, follows, confirms);
    }

    public RecorderDefinition withWheres(List<Where> other) {
        return new RecorderDefinition(id, name, description, equipment, whens, gate, layout, other, follows, confirms);
    }

    public RecorderDefinition withFollows(Optional<Follows> other) {
        return new RecorderDefinition(id, name, description, equipment, whens, gate, layout, wheres, other, confirms);
    }

    public RecorderDefinition withConfirms(Optional<Confirmation> other) {
        return new RecorderDefinition(id, name, description, equipment, whens, gate, layout, wheres, follows, other);
    }

    /** The request that brings its rows about; empty where the plant does not ask by a number. */
    public Optional<When.OnRequest> request() {
        return whens.stream()
                .filter(When.OnRequest.class::isInstance)
                .map(When.OnRequest.class::cast)
                .findFirst();
    }

    /** Those of its confirmation. */
    @Override
    public Set<TagRef> writes() {
        Set<TagRef> all = new LinkedHashSet<>();
        confirms.ifPresent(each -> {
            each.tags().forEach(all::add);
            request().flatMap(When.OnRequest::answered).ifPresent(all::add);
        });
        return all;
    }
}
