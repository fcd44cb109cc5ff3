package dachshund.core.destination;

/**
 * Where rows stand within a destination.
 *
 * @param database another database of the destination's server; empty for the destination's own
 * @param table    name of the table, or of the file without its extension
 */
public record Place(String database, String table) {

    /** No name has it. */
    private static final char BETWEEN = '\n';

    /** A place in the destination's own database, or what {@link #text} gave. */
    public static Place read(String text) {
        int at = text.indexOf(BETWEEN);
        return at < 0 ? new Place("", text) : new Place(text.substring(0, at), text.substring(at + 1));
    }

    /** As it travels with a row and is remembered. */
    public String text() {
        return database.isEmpty() ? table : database + BETWEEN + table;
    }

    /** For people. */
    public String words() {
        return database.isEmpty() ? table : table + " of the database " + database;
    }
}
