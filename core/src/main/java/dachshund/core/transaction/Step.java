package dachshund.core.transaction;

import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * One step of a transaction. Steps on the database are all committed or none is; tags are written after the commit, in order.
 * A value is a formula over names: those of gathered tags, of what the run knows itself ({@link Known}), and {@code step_column} of
 * the steps before.
 */
public sealed interface Step {

    /** How documents name each kind; never changes. */
    Map<String, Class<?>> DOCUMENTS = Map.of(
            "lookUp", LookUp.class,
            "put", Put.class,
            "statement", Statement.class,
            "compute", Compute.class,
            "writeTag", WriteTag.class,
            "note", Note.class);

    /** Begins with a letter; letters, digits and _. What the step gives is called by it. */
    String name();

    /** A formula that is true or false; the step is passed over where it is false. Empty for always. */
    String only();

    /** Whether it takes place after the commit. */
    default boolean afterCommit() {
        return false;
    }

    /** The look-up whose every row it is done for; empty for once. */
    default String each() {
        return "";
    }

    /** How many rows a look-up may give. */
    enum Rows {
        ONE("one row, else the run fails"),
        ONE_OR_NONE("the first row, or nothing"),
        MANY("every row, for a step that follows");

        private final String words;

        Rows(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /**
     * Asks a database. Columns of the row are known as {@code name_column} from then on, and {@code name_rows} how many there were.
     *
     * @param in id of a database that can be read; empty for the transaction's own, within its transaction
     */
    record LookUp(String name, String only, String in, String sql, Rows rows) implements Step {}

    /** What is done to rows of a table. */
    enum Deed {
        INSERT("Insert into"),
        UPDATE("Update"),
        INSERT_OR_UPDATE("Insert or update"),
        DELETE("Delete from");

        private final String words;

        Deed(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** A column with what it gets, or, of the key, what it has to be. */
    record Cell(String column, String value, boolean key) {}

    /**
     * Changes rows of a table. What it touched is known as {@code name_rows}.
     *
     * @param least fewer rows than these are a failure
     * @param most  and more than these
     */
    record Put(String name, String only, Deed deed, String table, List<Cell> cells, long least, long most, String each)
            implements Step {
        public Put {
            cells = List.copyOf(cells);
        }

        public Optional<Cell> cell(String column) {
            return cells.stream()
                    .filter(each -> each.column().equalsIgnoreCase(column))
                    .findFirst();
        }
    }

    /** The same, or a call of a procedure, as SQL with named parameters. */
    record Statement(String name, String only, String sql, long least, long most, String each) implements Step {}

    /** Computes {@code name}. */
    record Compute(String name, String only, String value) implements Step {}

    /**
     * Writes a tag and reads it back.
     *
     * @param tolerance by how much a number that is read back may differ
     */
    record WriteTag(String name, String only, TagRef tag, String value, double tolerance) implements Step {
        @Override
        public boolean afterCommit() {
            return true;
        }
    }

    /** A word in the ledger. */
    record Note(String name, String only, String value) implements Step {}
}
