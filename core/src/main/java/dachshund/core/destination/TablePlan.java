package dachshund.core.destination;

import dachshund.core.layout.Column;
import dachshund.core.layout.Upkeep;
import dachshund.core.layout.Layout;
import dachshund.core.sql.Dialect;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * What has to be done to a table before a layout can be written to it.
 *
 * @param exists     whether the table is there
 * @param statements what upkeep would run, in order; empty where the table fits
 * @param problems   sentences on why it cannot work as it stands; empty where it can
 */
public record TablePlan(boolean exists, List<String> statements, List<String> problems) {

    /** Compares the layout with the table that is there, if it is. */
    public static TablePlan of(Dialect dialect, String table, Layout layout, Upkeep upkeep, Optional<TableDescription> found) {
        if (found.isEmpty()) {
            List<String> problems = upkeep.mayMake() ? List.of()
                    : List.of("The table " + table + " does not exist and this recorder may not make it.");
            return new TablePlan(false, dialect.createTable(table, layout, false), problems);
        }
        List<String> statements = new ArrayList<>();
        List<String> problems = new ArrayList<>();
        for (Column column : layout.columns()) {
            if (found.get().column(column.name()).isPresent()) {
                continue;
            }
            if (column.isAutoNumber()) {
                continue;
            }
            statements.add(dialect.addColumn(table, column));
            if (!upkeep.mayAddColumns()) {
                problems.add("The table " + table + " has no column " + column.name() + " and this recorder may not add it.");
            }
        }
        for (TableDescription.TableColumn there : found.get().columns()) {
            boolean given = layout.written().stream().anyMatch(column -> column.name().equalsIgnoreCase(there.name()));
            if (there.mustBeGiven() && !given) {
                problems.add("The table " + table + " demands a value for its column " + there.name()
                        + " (" + there.typeName() + "), which this layout does not have.");
            }
        }
        return new TablePlan(true, statements, problems);
    }
}
