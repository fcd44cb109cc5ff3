package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** A destination that holds tables. All methods may be called from any thread; none keeps a transaction open. */
public interface RowStore extends AutoCloseable {

    Dialect dialect();

    /** Connects once and says what answered or what failed. */
    LinkTest test(Duration limit);

    List<String> tables() throws StoreProblem;

    Optional<TableDescription> describe(String table) throws StoreProblem;

    /** Runs statements of upkeep, one after the other. */
    void apply(List<String> statements) throws StoreProblem;

    /**
     * Writes all batches in one transaction, all or nothing. A batch that asks for it also moves its delivery mark in
     * the same transaction.
     *
     * @throws StoreProblem says whether the store is away, or which batch was refused
     */
    void write(List<RowBatch> batches) throws StoreProblem;

    /** Which rows of the batch are in their table already, found by row identity. */
    Set<RowId> landed(RowBatch batch) throws StoreProblem;

    /** The last row that the delivery mark of a lane says has landed; empty where there is no mark yet. */
    Optional<RowId> mark(String lane) throws StoreProblem;

    /** Writes one row inside a transaction, reads it back as the database holds it, and rolls back. */
    TryOutcome tryOut(String table, Layout layout, Row row);

    /** The newest rows of a table, newest first, in the columns of the layout (NULL as null). */
    TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem;

    /** Hands every row of a table in the columns of the layout, oldest first, to the taker, without holding them all. */
    void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem;

    /** Takes rows one at a time. */
    @FunctionalInterface
    interface TakeRow {
        void row(List<Object> cells);
    }

    /**
     * @param columns the columns that were read: those of the layout that the table has
     * @param rows    cells as Boolean, Number, String or Instant, null for NULL
     */
    record TablePage(List<String> columns, List<List<Object>> rows) {
    }

    @Override
    void close();
}
