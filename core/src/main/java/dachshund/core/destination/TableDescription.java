package dachshund.core.destination;

import java.util.List;
import java.util.Optional;

/**
 * A table as its database describes it.
 *
 * @param transactional whether what is written can be rolled back
 */
public record TableDescription(String name, List<TableColumn> columns, boolean transactional) {

    /**
     * @param typeName     the engine's own words
     * @param mustBeGiven  an insert without it is refused: not nullable, no default, not numbered by the database
     * @param identity     a unique key holds this column alone
     */
    public record TableColumn(String name, String typeName, boolean mustBeGiven, boolean identity) {
    }

    public Optional<TableColumn> column(String name) {
        return columns.stream().filter(column -> column.name().equalsIgnoreCase(name)).findFirst();
    }
}
