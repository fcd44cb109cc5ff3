package dachshund.core.layout;

import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Map;

/** Where a column's value comes from. */
public sealed interface ColumnSource {

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

        public String words() {
            return words;
        }
    }

    record FromTag(TagRef tag, Aspect aspect) implements ColumnSource {}

    /**
     * Several tags for one column.
     *
     * @param extraRows whether each tag makes a row of its own; else the first of them that is good is taken
     */
    record FromTags(List<TagRef> tags, boolean extraRows) implements ColumnSource {
        public FromTags {
            tags = List.copyOf(tags);
        }
    }

    /**
     * A property of equipment.
     *
     * @param equipment id; empty for the recorder's own equipment
     */
    record FromProperty(String equipment, String property, Aspect aspect) implements ColumnSource {}

    /** The same in each row. Nothing written is an empty text in a text column and no value in any other. */
    record Constant(String text) implements ColumnSource {

        /** Whether it gives a column of this type no value. */
        public boolean nothing(SqlType type) {
            return text.isEmpty() && type.family() != SqlType.Family.TEXT;
        }
    }

    record FromRun(Variable variable) implements ColumnSource {}

    /** Computed from the latest values of its inputs. */
    record FromFormula(String text, Map<String, TagRef> inputs) implements ColumnSource {
        public FromFormula {
            inputs = Map.copyOf(inputs);
        }
    }

    /** A fact of the tag that the row is about; for layouts with a row per tag. */
    record FromLine(LineFact fact) implements ColumnSource {}

    /**
     * A JSON object (RFC 8259) with a member per field, in their order. A dot in a field's name makes an object within. A
     * field without a value is left out.
     */
    record Document(List<Column> fields) implements ColumnSource {
        public Document {
            fields = List.copyOf(fields);
        }
    }

    /** Numbered by the database; never part of the insert. */
    record AutoNumber() implements ColumnSource {}
}
