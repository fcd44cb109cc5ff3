package dachshund.core.destination;

import java.util.List;
import java.util.Optional;

/**
 * A table as its database describes it.
 *
 * @param uniqueKeys    names of the columns of each unique key, the primary key included
 * @param transactional whether what is written can be rolled back
 */
public record TableDescription(
        String name, List<TableColumn> columns, List<List<String>> uniqueKeys, boolean transactional) {

    /**
     * @param typeName    the engine's own words
     * @param mustBeGiven an insert without it is refused: not nullable, no default, not numbered by the database
     * @param numbered    the database numbers it
     */
    public record TableColumn(String name, String typeName, boolean mustBeGiven, boolean numbered) {}

    public Optional<TableColumn> column(String name) {
        return columns.stream()
                .filter(column -> column.name().equalsIgnoreCase(name))
                .findFirst();
    }

    /** Whether a unique key has exactly these columns. */
    public boolean hasUnique(List<String> names) {
        return uniqueKeys.stream()
                .anyMatch(key -> key.size() == names.size()
                        && names.stream().allMatch(name -> key.stream().anyMatch(name::equalsIgnoreCase)));
    }
}
