package dachshund.core.layout;

import dachshund.core.tag.TagRef;

/** Where a column's value comes from. */
public sealed interface ColumnSource {

    /** What of a tag goes into the column. */
    enum Aspect { VALUE, QUALITY, SOURCE_TIME }

    /** Something that every run knows. */
    enum Variable {
        /** The scheduled instant of the row, UTC. */
        RECORD_TIME("record time"),
        /** Counts the rows of a recorder since the application started. */
        SEQUENCE("sequence"),
        /** The row's identity; makes exactly once possible. See {@link dachshund.core.row.RowId}. */
        ROW_ID("row id"),
        /** The recorder's name when the row was made. */
        RECORDER("recorder");

        private final String words;

        Variable(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    record FromTag(TagRef tag, Aspect aspect) implements ColumnSource {
    }

    record Constant(String text) implements ColumnSource {
    }

    record FromRun(Variable variable) implements ColumnSource {
    }

    /** Numbered by the database; never part of the insert. */
    record AutoNumber() implements ColumnSource {
    }
}
