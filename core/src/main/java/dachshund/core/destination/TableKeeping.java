package dachshund.core.destination;

import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Looks at the tables of a destination, makes and changes them. All methods may be called from any thread. */
public interface TableKeeping {

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

    /** Makes the database of the settings on its server. */
    default void createDatabase() throws StoreProblem {
        throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "There is no database to make here.", null);
    }

    /** @param arguments names in their order */
    record Procedure(String name, List<String> arguments) {}

    /** Runs statements of upkeep, one after the other. */
    void apply(List<String> statements) throws StoreProblem;

    /**
     * Removes rows of a table by their ids, all or none of them.
     *
     * @param rowId name of the column that holds the ids
     * @param ids   some hundreds at most: rows that somebody else waits for are locked meanwhile
     * @return how many were there
     */
    default int remove(String table, String rowId, List<RowId> ids) throws StoreProblem {
        throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "Rows cannot be removed here by their ids.", null);
    }

    /**
     * Clears away what is older than the destination keeps, once a day.
     *
     * @param places names of the tables or files that recorders have made
     */
    default void tidy(Instant now, Set<String> places) {
        // tables are kept
    }
}
