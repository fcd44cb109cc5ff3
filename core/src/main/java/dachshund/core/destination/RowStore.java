package dachshund.core.destination;

/** A destination that holds tables, with all that can be done there: rows written, tables kept, rows read. */
public interface RowStore extends RowWriting, TableKeeping, RowReading {

    /** Another database of the same server, there or not, or this one where the name is empty. Closed with this store. */
    @Override
    default RowStore in(String database) {
        if (!database.isEmpty()) {
            throw new IllegalArgumentException("There are no databases here.");
        }
        return this;
    }

    @Override
    default boolean hasDatabase(String name) throws StoreProblem {
        return databases().contains(name);
    }
}
