package dachshund.core.destination;

import dachshund.core.row.RowId;
import java.util.List;
import java.util.Optional;

/** Writes rows to a destination. All methods may be called from any thread; none keeps a transaction open. */
public interface RowWriting {

    /**
     * Writes all batches in one transaction, all or nothing. A batch that asks for it also moves its delivery mark in
     * the same transaction.
     *
     * @throws StoreProblem says whether the store is away, or which batch was refused
     */
    void write(List<RowBatch> batches) throws StoreProblem;

    /** How many calls may be under way beside one without waiting for it or for each other; 1 or more. */
    default int atOnceBeside() {
        return 1;
    }

    /** Whether several {@link #write}s into different tables are done sooner at once than one after the other. */
    default boolean writesAtOnce() {
        return false;
    }

    /** Whether {@link #write} keeps its word for several batches; where it cannot, each batch is written by itself. */
    default boolean allOrNothing() {
        return true;
    }

    /**
     * Whether {@link RowReading#landed} and {@link #mark} tell of rows however many came after them; a file tells of its last
     * batch only.
     */
    default boolean tellsOfAll() {
        return true;
    }

    /** The last row that the delivery mark of a lane says has landed; empty where there is no mark yet. */
    Optional<RowId> mark(String lane) throws StoreProblem;

    /** Writes a batch of one row inside a transaction, reads it back as the database holds it, and rolls back. */
    TryOutcome tryOut(RowBatch one);
}
