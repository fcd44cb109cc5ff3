package dachshund.core.definition;

import com.fasterxml.jackson.annotation.JsonInclude;
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
 * @param keys      columns by whose values the ledger finds its rows
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
        Optional<Follows<RecorderDefinition.Made>> follows,
        Optional<Confirmation> confirms,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> keys)
        implements Repeatable<RecorderDefinition, RecorderDefinition.Made> {

    /**
     * All that a line of a line-up has from its original.
     *
     * @param wheres under no table: a line's tables are its own
     */
    public record Made(
            List<When> whens,
            Optional<Condition> gate,
            Layout layout,
            List<Where> wheres,
            Optional<Confirmation> confirms,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> keys) {

        public Made {
            keys = keys == null ? List.of() : List.copyOf(keys);
        }
    }

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
        keys = keys == null ? List.of() : List.copyOf(keys); // designs of before declared none
    }

    /** The ledger finds its rows by none of their values. */
    public RecorderDefinition(
            String id,
            String name,
            String description,
            String equipment,
            List<When> whens,
            Optional<Condition> gate,
            Layout layout,
            List<Where> wheres,
            Optional<Follows<Made>> follows,
            Optional<Confirmation> confirms) {
        this(id, name, description, equipment, whens, gate, layout, wheres, follows, confirms, List.of());
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
            Optional<Follows<Made>> follows) {
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

    @Override
    public Made made() {
        return new Made(
                whens,
                gate,
                layout,
                wheres.stream().map(where -> where.withTable("")).toList(),
                confirms,
                keys);
    }

    @Override
    public RecorderDefinition withName(String other) {
        return new RecorderDefinition(
                id, other, description, equipment, whens, gate, layout, wheres, follows, confirms, keys);
    }

    @Override
    public RecorderDefinition withEquipment(String other) {
        return new RecorderDefinition(
                id, name, description, other, whens, gate, layout, wheres, follows, confirms, keys);
    }

    @Override
    public RecorderDefinition withWhens(List<When> other) {
        return new RecorderDefinition(
                id, name, description, equipment, other, gate, layout, wheres, follows, confirms, keys);
    }

    @Override
    public RecorderDefinition withGate(Optional<Condition> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, other, layout, wheres, follows, confirms, keys);
    }

    /** The same before a column gets another name: what names it elsewhere in the design goes with it. */
    public RecorderDefinition renamedColumn(String from, String to) {
        return from.equals(to)
                ? this
                : withKeys(keys.stream().map(key -> key.equals(from) ? to : key).toList())
                        .withWheres(wheres.stream()
                                .map(where -> where.mode() instanceof WriteMode.Call call
                                        ? where.withMode(call.renamed(from, to))
                                        : where)
                                .toList());
    }

    /** Columns that are gone are no keys any more. */
    public RecorderDefinition withLayout(Layout other) {
        return new RecorderDefinition(
                id,
                name,
                description,
                equipment,
                whens,
                gate,
                other,
                wheres,
                follows,
                confirms,
                keys.stream().filter(key -> other.column(key).isPresent()).toList());
    }

    public RecorderDefinition withWheres(List<Where> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, gate, layout, other, follows, confirms, keys);
    }

    @Override
    public RecorderDefinition withFollows(Optional<Follows<Made>> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, gate, layout, wheres, other, confirms, keys);
    }

    public RecorderDefinition withConfirms(Optional<Confirmation> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, gate, layout, wheres, follows, other, keys);
    }

    public RecorderDefinition withKeys(List<String> other) {
        return new RecorderDefinition(
                id, name, description, equipment, whens, gate, layout, wheres, follows, confirms, other);
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
