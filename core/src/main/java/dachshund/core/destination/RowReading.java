package dachshund.core.destination;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.function.BiConsumer;

/**
 * Reads rows of a destination. Pages, downloads and whatever else asks for rows use no other way: it holds up nobody who writes,
 * cannot write itself, and gives up with a sentence where an answer takes too long. All methods may be called from any thread.
 */
public interface RowReading extends AutoCloseable {

    /** Another database of the same server, there or not, or this one where the name is empty. Closed with this one. */
    default RowReading in(String database) {
        if (!database.isEmpty()) {
            throw new IllegalArgumentException("There are no databases here.");
        }
        return this;
    }

    /** Whether the server has a database of that name, for {@link #in}. */
    default boolean hasDatabase(String name) throws StoreProblem {
        return false;
    }

    /** The newest rows of a table, newest first, in the columns of the layout (NULL as null). */
    TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem;

    /** Hands every row of a table in the columns of the layout, oldest first, to the taker, without holding them all. */
    void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem;

    /** Whether {@link #between} can be asked. */
    default boolean readsBetween() {
        return false;
    }

    /**
     * Hands the rows of a table whose time lies in a half-open window to the taker, the oldest first, in the columns of the
     * layout that the table has; none where there is no such table.
     *
     * @param time  one of the layout's columns, of a time stamp
     * @param most  of the oldest; {@link Integer#MAX_VALUE} for all
     * @param taker is given the names of the columns with each row
     */
    default void between(
            String table,
            Layout layout,
            Column time,
            Instant from,
            Instant to,
            int most,
            BiConsumer<List<String>, List<Object>> taker)
            throws StoreProblem {
        throw new UnsupportedOperationException();
    }

    /** Whether {@link #landed} can tell rows of the batch that are there. */
    default boolean canFind(RowBatch batch) {
        return batch.layout().rowIdColumn().isPresent() && !(batch.mode() instanceof WriteMode.Call);
    }

    /** Which rows of the batch are in their table already, found by row identity. */
    Set<RowId> landed(RowBatch batch) throws StoreProblem;

    /** Takes rows one at a time. */
    @FunctionalInterface
    interface TakeRow {
        void row(List<Object> cells);
    }

    /**
     * @param columns the columns that were read: those of the layout that the table has
     * @param rows    cells as Boolean, Number, String, LocalDate, LocalTime or Instant, null for NULL
     */
    record TablePage(List<String> columns, List<List<Object>> rows) {}

    @Override
    void close();
}
