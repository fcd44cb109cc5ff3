package dachshund.core.transaction;

import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.stream.Stream;

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
            "publish", Publish.class,
            "append", Append.class,
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

    /** The database in which it takes place; empty for the transaction's own, and where it needs none. */
    default String in() {
        return "";
    }

    /** Whether what it gives has columns, which are known as {@code name_column} once it is done. */
    default boolean givesColumns() {
        return false;
    }

    /** Whether it changes rows. */
    default boolean changes() {
        return false;
    }

    /** The formulas that it is made of, beside {@link #only}; parameters of SQL are none. */
    default List<String> formulas() {
        return List.of();
    }

    /** The same of another machine; empty where that does without it. */
    default Optional<Step> swapped(When.Swap swap, OwnWords words) {
        return Optional.of(said(words));
    }

    /** The same, with another machine's name in the place of its own. */
    Step said(OwnWords words);

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
     * @param in    id of a database that can be read; empty for the transaction's own, within its transaction
     * @param query id of a saved query that is asked in the place of SQL; empty for none. Its parameters get values of their names
     */
    record LookUp(String name, String only, String in, String sql, Rows rows, String query) implements Step {
        public LookUp {
            query = query == null ? "" : query; // designs of before knew SQL alone
        }

        /** By SQL. */
        public LookUp(String name, String only, String in, String sql, Rows rows) {
            this(name, only, in, sql, rows, "");
        }

        @Override
        public boolean givesColumns() {
            return true;
        }

        public boolean isSaved() {
            return !query.isEmpty();
        }

        @Override
        public Step said(OwnWords words) {
            return new LookUp(name, words.inFormula(only), in, words.inSql(sql), rows, query);
        }
    }

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
     * @param in    id of the other database; empty for the transaction's own
     */
    record Put(
            String name,
            String only,
            Deed deed,
            String table,
            List<Cell> cells,
            long least,
            long most,
            String each,
            String in)
            implements Step {
        public Put {
            cells = List.copyOf(cells);
            in = in == null ? "" : in; // designs of before knew one database alone
        }

        /** In the transaction's own database. */
        public Put(
                String name,
                String only,
                Deed deed,
                String table,
                List<Cell> cells,
                long least,
                long most,
                String each) {
            this(name, only, deed, table, cells, least, most, each, "");
        }

        @Override
        public boolean changes() {
            return true;
        }

        @Override
        public List<String> formulas() {
            return cells.stream().map(Cell::value).toList();
        }

        @Override
        public Step said(OwnWords words) {
            return new Put(
                    name, words.inFormula(only), deed, words.in(table), words.inCells(cells), least, most, each, in);
        }

        public Optional<Cell> cell(String column) {
            return cells.stream()
                    .filter(each -> each.column().equalsIgnoreCase(column))
                    .findFirst();
        }
    }

    /**
     * The same, or a call of a procedure, as SQL with named parameters. Where it gives rows, done once, the columns of the first
     * are known as {@code name_column}.
     */
    record Statement(String name, String only, String sql, long least, long most, String each, String in)
            implements Step {
        public Statement {
            in = in == null ? "" : in;
        }

        @Override
        public boolean givesColumns() {
            return each.isEmpty();
        }

        /** In the transaction's own database. */
        public Statement(String name, String only, String sql, long least, long most, String each) {
            this(name, only, sql, least, most, each, "");
        }

        @Override
        public boolean changes() {
            return true;
        }

        @Override
        public Step said(OwnWords words) {
            return new Statement(name, words.inFormula(only), words.inSql(sql), least, most, each, in);
        }
    }

    /** Computes {@code name}. */
    record Compute(String name, String only, String value) implements Step {
        private static final Pattern NUMBER = Pattern.compile("-?\\d+(\\.\\d+)?");

        @Override
        public List<String> formulas() {
            return List.of(value);
        }

        /** Whether it is a number or a text as it stands. */
        public boolean isConstant() {
            return NUMBER.matcher(value.strip()).matches() || OwnWords.isText(value.strip());
        }

        /** What a constant is, without quotes. */
        public String constant() {
            return OwnWords.isText(value.strip()) ? OwnWords.unquoted(value.strip()) : value.strip();
        }

        /** Another constant: a number where this is one and the other can be, else a text. */
        public Compute withConstant(String other) {
            boolean number = !OwnWords.isText(value.strip())
                    && NUMBER.matcher(other.strip()).matches();
            return new Compute(name, only, number ? other.strip() : OwnWords.quoted(other));
        }

        @Override
        public Step said(OwnWords words) {
            return new Compute(name, words.inFormula(only), words.inFormula(value));
        }
    }

    /**
     * Writes a tag and reads it back.
     *
     * @param tolerance by how much a number that is read back may differ
     */
    record WriteTag(String name, String only, TagRef tag, String value, double tolerance) implements Step {
        @Override
        public List<String> formulas() {
            return List.of(value);
        }

        /** Written is the machine's own tag, and nothing where it has none. */
        @Override
        public Optional<Step> swapped(When.Swap swap, OwnWords words) {
            return swap.kept(tag).map(own -> new WriteTag(name, only, own, value, tolerance).said(words));
        }

        @Override
        public Step said(OwnWords words) {
            return new WriteTag(name, words.inFormula(only), tag, words.inFormula(value), tolerance);
        }

        @Override
        public boolean afterCommit() {
            return true;
        }
    }

    /**
     * Publishes a message.
     *
     * @param source id of the broker's source
     * @param topic  in which {@code {…}} stands for what a formula gives
     */
    record Publish(String name, String only, String source, String topic, Wording says, boolean retained)
            implements Step {
        @Override
        public List<String> formulas() {
            return Stream.concat(Wording.within(topic).stream(), says.formulas().stream())
                    .toList();
        }

        @Override
        public Step said(OwnWords words) {
            return new Publish(
                    name, words.inFormula(only), source, words.inPattern(topic), says.swapped(words), retained);
        }

        @Override
        public boolean afterCommit() {
            return true;
        }
    }

    /**
     * Writes a line at the end of a file.
     *
     * @param destination id of the folder
     * @param file        in which {@code {…}} stands for what a formula gives
     */
    record Append(String name, String only, String destination, String file, Wording says) implements Step {
        @Override
        public List<String> formulas() {
            return Stream.concat(Wording.within(file).stream(), says.formulas().stream())
                    .toList();
        }

        @Override
        public Step said(OwnWords words) {
            return new Append(name, words.inFormula(only), destination, words.inPattern(file), says.swapped(words));
        }

        @Override
        public boolean afterCommit() {
            return true;
        }
    }

    /** A word in the ledger. */
    record Note(String name, String only, String value) implements Step {
        @Override
        public List<String> formulas() {
            return List.of(value);
        }

        @Override
        public Step said(OwnWords words) {
            return new Note(name, words.inFormula(only), words.inFormula(value));
        }
    }
}
