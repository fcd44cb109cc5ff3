package dachshund.core.reader;

import java.util.List;
import java.util.Optional;

/** The columns and keys of a table or view, in the words of its database. */
public record TableShape(TableName name, List<Column> columns, List<Key> keys) {

    /** What the cells of a column are. */
    public enum Sort {
        NUMBER("number"),
        TRUTH("yes or no"),
        TEXT("text"),
        /** A date with a time of day. */
        STAMP("time"),
        DATE("date"),
        /** A time of day. */
        CLOCK("time of day"),
        /** Bytes, shapes, arrays and whatever else there is; read as text. */
        OTHER("other");

        private final String words;

        Sort(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** @param typeName the engine's own words */
    public record Column(String name, String typeName, Sort sort, boolean nullable) {}

    /**
     * @param primary whether it is the primary key
     * @param leadsTo the table whose rows it names; empty for a key of the table's own
     */
    public record Key(List<String> columns, boolean primary, Optional<TableName> leadsTo) {}

    /** A name for one more column: two columns of a query may have the same or none, and those of a file may not. */
    public static String free(List<Column> others, String label) {
        String wanted = label.isEmpty() ? "column_" + (others.size() + 1) : label;
        String name = wanted;
        for (int i = 2; isTaken(others, name); i++) {
            name = wanted + "_" + i;
        }
        return name;
    }

    private static boolean isTaken(List<Column> columns, String name) {
        return columns.stream().anyMatch(each -> each.name().equalsIgnoreCase(name));
    }

    public Optional<Column> column(String called) {
        return columns.stream().filter(each -> each.name().equals(called)).findFirst();
    }

    /** The column by which rows are ordered in time, where one says so by itself: the first time stamp. */
    public Optional<Column> time() {
        return columns.stream().filter(each -> each.sort() == Sort.STAMP).findFirst();
    }
}
