package dachshund.core.layout;

import dachshund.core.formula.Bound;
import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Where a column's value comes from. Each says itself what the rest has to know of it, from its name in documents to its form;
 * only how it is computed stands elsewhere, in {@link Cases}.
 */
public sealed interface ColumnSource {

    /** Their names in documents. */
    Map<String, Class<? extends ColumnSource>> DOCUMENTS = Map.of(
            "tag", FromTag.class,
            "tags", FromTags.class,
            "property", FromProperty.class,
            "constant", Constant.class,
            "run", FromRun.class,
            "formula", FromFormula.class,
            "line", FromLine.class,
            "document", Document.class,
            "autoNumber", AutoNumber.class);

    /** Something to be done with each of them, none forgotten. */
    interface Cases<T> {
        T of(FromTag tag);

        T of(FromTags tags);

        T of(FromProperty property);

        T of(Constant constant);

        T of(FromRun run);

        T of(FromFormula formula);

        T of(FromLine line);

        T of(Document document);

        T of(AutoNumber number);
    }

    <T> T with(Cases<T> cases);

    /** The tags that it names itself. */
    default List<TagRef> tags() {
        return feeds();
    }

    /** Of these, the ones that a person ticks one by one in its form. */
    default List<TagRef> feeds() {
        return List.of();
    }

    /** What it is when these feed it; itself where it cannot be fed, or by none of them. */
    default ColumnSource fed(List<TagRef> tags) {
        return this;
    }

    /** Whether tags can feed it: some do, or its place can be given to them. */
    default boolean feedable() {
        return !feeds().isEmpty();
    }

    /** Columns that stand within it. */
    default List<Column> within() {
        return List.of();
    }

    /** How things are called. */
    interface Names {
        String tag(TagRef tag);

        /**
         * Whose a property is, such as " of Dryer 2"; may be empty for the recorder's own.
         *
         * @param equipment id; empty for the recorder's own
         */
        String whose(String equipment);
    }

    /** In a row: what a column shows. */
    String shown(Names names);

    /** In a sentence: what a column is fed from. */
    default String sentence(Names names) {
        return "the " + shown(names);
    }

    /** What a line of a line-up puts in the place of what the original names. */
    interface Swap {
        /** Of the line's machine; a gap where nobody has said which. */
        TagRef tag(TagRef original);

        boolean leavesOut(TagRef original);

        /** @param original id */
        String equipment(String original);
    }

    /** Whether nothing is left of it without the tags that a line leaves out. */
    default boolean goesWith(Swap swap) {
        return tags().stream().anyMatch(swap::leavesOut);
    }

    default ColumnSource swapped(Swap swap) {
        return this;
    }

    /** What the check of a layout knows. */
    interface Around {
        Optional<TagInfo> tag(TagRef tag);

        /** Advice on a tag in a column of a type. */
        Optional<String> warning(TagInfo tag, SqlType type);

        /** Why a text is no value of a type, as the end of a sentence. */
        Optional<String> misfit(String text, SqlType type);

        /** Id of the recorder's own; empty for none. */
        String equipment();

        /** @param equipment id */
        boolean has(String equipment, String property);

        Shape shape();
    }

    /**
     * Something to say of a column.
     *
     * @param blocking whether it must be mended before release; else it is advice
     */
    record Remark(boolean blocking, String sentence) {
        private static List<Remark> must(String sentence) {
            return List.of(new Remark(true, sentence));
        }
    }

    /** What is to be said of a column of it; that its tags are there is looked at for every one. */
    default List<Remark> remarks(Column column, Around around) {
        return List.of();
    }

    /** Whether it has a quality, and a value that can be scaled, clamped, rounded or put into words. */
    default boolean measured() {
        return !tags().isEmpty();
    }

    /** Whether a layout that gets another shape keeps it. */
    default boolean ofAnyShape() {
        return false;
    }

    /** Whether the type of its column is no choice of a person. */
    default boolean fixedType() {
        return false;
    }

    /** The type of a column that holds it; empty where that is the tag's. */
    default Optional<SqlType> type() {
        return Optional.empty();
    }

    /**
     * A field of its form.
     *
     * @param value   what it holds now
     * @param hint    an example where it is empty
     * @param options what is chosen from; empty where a text is typed
     */
    record Field(String name, String label, String value, String hint, List<Option> options) {
        public Field {
            options = List.copyOf(options);
        }
    }

    record Option(String value, String words) {}

    default List<Field> form() {
        return List.of();
    }

    /**
     * As its form says.
     *
     * @param row the layout that it stands in
     * @throws IllegalArgumentException where a choice is none of those on offer
     */
    default ColumnSource filled(Map<String, String> form, Layout row) {
        return this;
    }

    /**
     * A column that can be added without a tag.
     *
     * @param key   names it among the offers
     * @param words as it stands in the list
     * @param name  the column's, where that is free
     * @param field whether it becomes a field of the document, in a layout with one
     */
    record Offer(String key, String words, String name, SqlType type, ColumnSource source, boolean field) {}

    /** @param properties of the recorder's own equipment */
    static List<Offer> offers(Shape shape, Collection<String> properties) {
        List<Offer> offers = new ArrayList<>();
        for (Variable each : Variable.values()) {
            offers.add(new Offer(each.name(), each.words(), each.name(), each.type(), new FromRun(each), false));
        }
        offers.add(new Offer("number", "auto-number", "id", SqlType.BIGINT, new AutoNumber(), false));
        offers.add(new Offer("constant", "a constant", "constant", SqlType.text(80), new Constant(""), true));
        offers.add(new Offer("formula", "a formula", "computed", SqlType.DOUBLE, new FromFormula("", Map.of()), true));
        properties.forEach(each -> offers.add(new Offer(
                "property:" + each,
                "property " + each,
                each,
                SqlType.DOUBLE,
                new FromProperty("", each, Aspect.VALUE),
                true)));
        if (shape == Shape.ROW_PER_TAG) {
            for (LineFact each : LineFact.values()) {
                offers.add(new Offer(
                        "fact:" + each.name(),
                        "the row's " + each.words(),
                        each.name(),
                        each.type(),
                        new FromLine(each),
                        false));
            }
        }
        return offers;
    }

    /** What of a tag goes into the column. */
    enum Aspect {
        VALUE("value"),
        /** The source's own code in a number column, the class with its explanation in a text column. */
        QUALITY("quality"),
        /** Good, Uncertain or Bad. */
        QUALITY_CLASS("quality class"),
        SOURCE_TIME("source time"),
        /**
         * What a time stamp column of the source time cuts off, in units of 100 ns: with {@code timestamp(6)} 0 to 9. The
         * digits are those of the layout's source time column of the same tag, else 6.
         */
        SOURCE_TIME_REST("rest of the source time to 100 ns");

        private final String words;

        Aspect(String words) {
            this.words = words;
        }

        /** The type of a column that holds it; empty where that is the tag's. */
        Optional<SqlType> type() {
            return switch (this) {
                case VALUE -> Optional.empty();
                case QUALITY -> Optional.of(SqlType.text(120));
                case QUALITY_CLASS -> Optional.of(SqlType.text(10));
                case SOURCE_TIME -> Optional.of(SqlType.timestamp(6));
                case SOURCE_TIME_REST -> Optional.of(SqlType.INTEGER);
            };
        }

        String of(String name) {
            return this == VALUE ? name : words + " of " + name;
        }

        public String words() {
            return words;
        }
    }

    /** Something that every run knows. */
    enum Variable {
        /** The scheduled instant of the row, UTC. */
        RECORD_TIME("record time"),
        /** The record time as milliseconds since 1970-01-01 00:00 UTC. */
        EPOCH_TIME("epoch time (ms since 1970)"),
        /** Counts the rows of a recorder since the application started. */
        SEQUENCE("sequence"),
        /** The row's identity; makes exactly once possible. See {@link dachshund.core.row.RowId}. */
        ROW_ID("row id"),
        /** The recorder's name when the row was made. */
        RECORDER("recorder"),
        /** The site's name. */
        SITE("site"),
        /** Name of the recorder's equipment; none where it has none. */
        EQUIPMENT("equipment"),
        /** Name of the shift that the row belongs to: the one that runs, or at a shift's end the one that ends; none between shifts. */
        SHIFT("shift"),
        /** The day to which that shift belongs. */
        SHIFT_DATE("shift date"),
        /** Name of the shift that runs from the record time on; none between shifts. */
        RUNNING_SHIFT("running shift"),
        /** The day to which that shift belongs. */
        RUNNING_SHIFT_DATE("running shift date");

        private final String words;

        Variable(String words) {
            this.words = words;
        }

        private SqlType type() {
            return switch (this) {
                case RECORD_TIME -> SqlType.timestamp(3);
                case SEQUENCE, EPOCH_TIME -> SqlType.BIGINT;
                case ROW_ID -> SqlType.text(40);
                case SHIFT_DATE, RUNNING_SHIFT_DATE -> SqlType.DATE;
                case RECORDER, SITE, EQUIPMENT, SHIFT, RUNNING_SHIFT -> SqlType.text(120);
            };
        }

        public String words() {
            return words;
        }
    }

    /** What a row of a layout with a row per tag says of its tag. */
    enum LineFact {
        NAME("tag name"),
        EQUIPMENT("equipment"),
        UNIT("unit"),
        /** As the column's type takes it. */
        VALUE("value"),
        /** The value where it is a number or yes/no, else nothing. */
        NUMBER("value, if it is a number"),
        /** The value where it is a text or a time, else nothing. */
        TEXT("value, if it is a text"),
        QUALITY("quality"),
        QUALITY_CLASS("quality class"),
        SOURCE_TIME("source time");

        private final String words;

        LineFact(String words) {
            this.words = words;
        }

        private SqlType type() {
            return switch (this) {
                case NUMBER, VALUE -> SqlType.DOUBLE;
                case SOURCE_TIME -> SqlType.timestamp(6);
                case NAME, EQUIPMENT, UNIT, TEXT, QUALITY, QUALITY_CLASS -> SqlType.text(120);
            };
        }

        public String words() {
            return words;
        }
    }

    record FromTag(TagRef tag, Aspect aspect) implements ColumnSource {
        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public List<TagRef> feeds() {
            return List.of(tag);
        }

        @Override
        public ColumnSource fed(List<TagRef> tags) {
            return tags.isEmpty()
                    ? this
                    : tags.size() == 1 ? new FromTag(tags.get(0), aspect) : new FromTags(tags, false);
        }

        @Override
        public String shown(Names names) {
            return aspect.of(names.tag(tag));
        }

        @Override
        public String sentence(Names names) {
            return aspect == Aspect.VALUE ? names.tag(tag) : "the " + shown(names);
        }

        @Override
        public ColumnSource swapped(Swap swap) {
            return new FromTag(swap.tag(tag), aspect);
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            return aspect == Aspect.VALUE && column.treatment().none()
                    ? around.tag(tag).flatMap(info -> around.warning(info, column.type())).stream()
                            .map(warning -> new Remark(false, warning))
                            .toList()
                    : List.of();
        }

        @Override
        public Optional<SqlType> type() {
            return aspect.type();
        }

        @Override
        public List<Field> form() {
            return List.of(aspects(aspect));
        }

        private static Field aspects(Aspect chosen) {
            return choice(
                    "aspect",
                    "What of it",
                    chosen.name(),
                    Stream.of(Aspect.values()).map(each -> new Option(each.name(), "its " + each.words())));
        }

        private static Aspect aspect(Map<String, String> form, Aspect before) {
            return Aspect.valueOf(form.getOrDefault("aspect", before.name()));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            return new FromTag(tag, aspect(form, aspect));
        }
    }

    private static Field choice(String name, String label, String value, Stream<Option> options) {
        return new Field(name, label, value, "", options.toList());
    }

    /**
     * Several tags for one column.
     *
     * @param extraRows whether each tag makes a row of its own; else the first of them that is good is taken
     */
    record FromTags(List<TagRef> tags, boolean extraRows) implements ColumnSource {
        public FromTags {
            tags = List.copyOf(tags);
        }

        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public List<TagRef> feeds() {
            return tags;
        }

        @Override
        public ColumnSource fed(List<TagRef> other) {
            return other.isEmpty()
                    ? this
                    : other.size() == 1 ? new FromTag(other.get(0), Aspect.VALUE) : new FromTags(other, extraRows);
        }

        private String names(Names names) {
            return tags.stream().map(names::tag).collect(Collectors.joining(", "));
        }

        @Override
        public String shown(Names names) {
            return (extraRows ? "a row each of " : "first good of ") + names(names);
        }

        @Override
        public String sentence(Names names) {
            return (extraRows ? "each of " : "the first good one of ") + names(names);
        }

        @Override
        public boolean goesWith(Swap swap) {
            return tags.stream().allMatch(swap::leavesOut);
        }

        @Override
        public ColumnSource swapped(Swap swap) {
            return new FromTags(
                    tags.stream()
                            .filter(tag -> !swap.leavesOut(tag))
                            .map(swap::tag)
                            .toList(),
                    extraRows);
        }

        @Override
        public List<Field> form() {
            return List.of(choice(
                    "extraRows",
                    "How several tags feed it",
                    Boolean.toString(extraRows),
                    Stream.of(
                            new Option("false", "the first good one wins"),
                            new Option("true", "each makes a row of its own"))));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            return new FromTags(tags, form.getOrDefault("extraRows", "").equals("true"));
        }
    }

    /**
     * A property of equipment.
     *
     * @param equipment id; empty for the recorder's own equipment
     */
    record FromProperty(String equipment, String property, Aspect aspect) implements ColumnSource {
        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public String shown(Names names) {
            return aspect.of(property) + names.whose(equipment);
        }

        /** Of the original's own machine where it is named: the line's. */
        @Override
        public ColumnSource swapped(Swap swap) {
            return equipment.isEmpty() ? this : new FromProperty(swap.equipment(equipment), property, aspect);
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            String whose = equipment.isEmpty() ? around.equipment() : equipment;
            if (whose.isEmpty()) {
                return Remark.must(
                        "It is about the recorder's equipment, and the recorder has none. Choose one beside its name.");
            }
            return around.has(whose, property)
                    ? List.of()
                    : Remark.must("The equipment has no value for its property " + property
                            + ". Map it there, or remove this column.");
        }

        @Override
        public boolean measured() {
            return true;
        }

        @Override
        public Optional<SqlType> type() {
            return aspect.type();
        }

        @Override
        public List<Field> form() {
            return List.of(FromTag.aspects(aspect), new Field("property", "Property", property, "", List.of()));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            return new FromProperty(equipment, form.getOrDefault("property", property), FromTag.aspect(form, aspect));
        }
    }

    /** The same in each row. Nothing written is an empty text in a text column and no value in any other. */
    record Constant(String text) implements ColumnSource {

        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        /** Whether it gives a column of this type no value. */
        public boolean nothing(SqlType type) {
            return text.isEmpty() && type.family() != SqlType.Family.TEXT;
        }

        @Override
        public ColumnSource fed(List<TagRef> tags) {
            return tags.isEmpty() ? this : new FromTag(tags.get(0), Aspect.VALUE).fed(tags);
        }

        @Override
        public boolean feedable() {
            return true;
        }

        @Override
        public String shown(Names names) {
            return "constant \"" + text + "\"";
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            if (nothing(column.type())) {
                return List.of(new Remark(
                        column.required(),
                        "Column " + column.name()
                                + " has no value yet. Write a constant, feed it by a tag, or remove it."));
            }
            return around.misfit(text, column.type())
                    .map(why -> Remark.must("The constant " + text + " of column " + column.name() + " " + why + "."))
                    .orElse(List.of());
        }

        @Override
        public boolean ofAnyShape() {
            return true;
        }

        @Override
        public List<Field> form() {
            return List.of(new Field("constant", "Constant", text, "", List.of()));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            return new Constant(form.getOrDefault("constant", ""));
        }
    }

    record FromRun(Variable variable) implements ColumnSource {
        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public String shown(Names names) {
            return variable.words();
        }

        @Override
        public boolean ofAnyShape() {
            return true;
        }

        @Override
        public boolean fixedType() {
            return variable == Variable.ROW_ID;
        }
    }

    /** Computed from the latest values of its inputs. */
    record FromFormula(String text, Map<String, TagRef> inputs) implements ColumnSource {
        public FromFormula {
            inputs = Map.copyOf(inputs);
        }

        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public List<TagRef> tags() {
            return List.copyOf(inputs.values());
        }

        @Override
        public String shown(Names names) {
            return "= " + text;
        }

        @Override
        public String sentence(Names names) {
            return "the formula " + text;
        }

        @Override
        public ColumnSource swapped(Swap swap) {
            Map<String, TagRef> result = new LinkedHashMap<>();
            inputs.forEach((name, tag) -> result.put(name, swap.tag(tag)));
            return new FromFormula(text, result);
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            try {
                return Formula.read(text, inputs.keySet()).timed()
                        ? Remark.must(
                                "A column's formula sees the values of its instant only. Make a formula tag for one that looks back in time.")
                        : List.of();
            } catch (FormulaProblem problem) {
                return Remark.must("The formula cannot be read. " + problem.getMessage());
            }
        }

        @Override
        public boolean measured() {
            return true;
        }

        @Override
        public List<Field> form() {
            return List.of(new Field(
                    "formula",
                    "Formula over columns of the row",
                    text,
                    "outlet_temperature - inlet_temperature",
                    List.of()));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            String typed = form.getOrDefault("formula", "").strip();
            return new FromFormula(typed, Bound.inputs(typed, inputs, row.named()));
        }
    }

    /** A fact of the tag that the row is about; for layouts with a row per tag. */
    record FromLine(LineFact fact) implements ColumnSource {
        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public String shown(Names names) {
            return fact.words();
        }

        @Override
        public String sentence(Names names) {
            return "the " + fact.words() + " of the row's tag";
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            return around.shape() == Shape.ROW_PER_TAG
                    ? List.of()
                    : Remark.must("Column " + column.name()
                            + " is about the tag of a row, which only a layout with a row per tag has.");
        }

        @Override
        public boolean measured() {
            return true;
        }

        @Override
        public List<Field> form() {
            return List.of(choice(
                    "fact",
                    "What of the row's tag",
                    fact.name(),
                    Stream.of(LineFact.values()).map(each -> new Option(each.name(), each.words()))));
        }

        @Override
        public ColumnSource filled(Map<String, String> form, Layout row) {
            return new FromLine(LineFact.valueOf(form.getOrDefault("fact", fact.name())));
        }
    }

    /**
     * A JSON object (RFC 8259) with a member per field, in their order. A dot in a field's name makes an object within. A
     * field without a value is left out.
     */
    record Document(List<Column> fields) implements ColumnSource {
        public Document {
            fields = List.copyOf(fields);
        }

        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public List<Column> within() {
            return fields;
        }

        @Override
        public String shown(Names names) {
            return "document of " + fields.size() + (fields.size() == 1 ? " field" : " fields");
        }

        @Override
        public String sentence(Names names) {
            return "the fields " + fields.stream().map(Column::name).collect(Collectors.joining(", "));
        }

        @Override
        public List<Remark> remarks(Column column, Around around) {
            return fields.isEmpty()
                    ? Remark.must("The document has no fields yet. Add tags to it at the end of the row.")
                    : List.of();
        }

        @Override
        public boolean fixedType() {
            return true;
        }
    }

    /** Numbered by the database; never part of the insert. */
    record AutoNumber() implements ColumnSource {
        @Override
        public <T> T with(Cases<T> cases) {
            return cases.of(this);
        }

        @Override
        public String shown(Names names) {
            return "numbered by the database";
        }

        @Override
        public String sentence(Names names) {
            return "the database's numbering";
        }

        @Override
        public boolean fixedType() {
            return true;
        }
    }
}
