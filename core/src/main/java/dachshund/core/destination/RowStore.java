package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.time.Duration;
import java.time.Instant;
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

    /** Stored procedures with the names of their arguments; none where the engine has none. */
    default List<Procedure> procedures() throws StoreProblem {
        return List.of();
    }

    /** Databases of the server that this user sees; none where there is no server. */
    default List<String> databases() throws StoreProblem {
        return List.of();
    }

    /** Whether the server has a database of that name, for {@link #in}. */
    default boolean hasDatabase(String name) throws StoreProblem {
        return databases().contains(name);
    }

    /** Makes the database of the settings on its server. */
    default void createDatabase() throws StoreProblem {
        throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "There is no database to make here.", null);
    }

    /** Another database of the same server, there or not, or this one where the name is empty. Closed with this store. */
    default RowStore in(String database) {
        if (!database.isEmpty()) {
            throw new IllegalArgumentException("There are no databases here.");
        }
        return this;
    }

    /** @param arguments names in their order */
    record Procedure(String name, List<String> arguments) {}

    /** Runs statements of upkeep, one after the other. */
    void apply(List<String> statements) throws StoreProblem;

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

    /** Whether {@link #landed} can tell rows of the batch that are there. */
    default boolean canFind(RowBatch batch) {
        return batch.layout().rowIdColumn().isPresent() && !(batch.mode() instanceof WriteMode.Call);
    }

    /** Which rows of the batch are in their table already, found by row identity. */
    Set<RowId> landed(RowBatch batch) throws StoreProblem;

    /** Whether {@link #landed} and {@link #mark} tell of rows however many came after them; a file tells of its last batch only. */
    default boolean tellsOfAll() {
        return true;
    }

    /** The last row that the delivery mark of a lane says has landed; empty where there is no mark yet. */
    Optional<RowId> mark(String lane) throws StoreProblem;

    /** Writes a batch of one row inside a transaction, reads it back as the database holds it, and rolls back. */
    TryOutcome tryOut(RowBatch one);

    /** The newest rows of a table, newest first, in the columns of the layout (NULL as null). */
    TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem;

    /** Hands every row of a table in the columns of the layout, oldest first, to the taker, without holding them all. */
    void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem;

    /**
     * Clears away what is older than the destination keeps, once a day.
     *
     * @param places names of the tables or files that recorders have made
     */
    default void tidy(Instant now, Set<String> places) {
        // tables are kept
    }

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
