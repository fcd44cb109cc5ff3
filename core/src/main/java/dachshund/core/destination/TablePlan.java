package dachshund.core.destination;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.sql.Dialect;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * What has to be done to a table before a layout can be written to it.
 *
 * @param exists     whether the table is there
 * @param statements what upkeep would run, in order; empty where the table fits
 * @param problems   sentences on why it cannot work as it stands; empty where it can
 * @param advice     sentences on what will not always work
 * @param conflicts  names of the columns whose type in the table does not fit
 * @param leftOut    names of the layout's columns that the table does not have and that nobody adds
 */
public record TablePlan(
        boolean exists,
        List<String> statements,
        List<String> problems,
        List<String> advice,
        Set<String> conflicts,
        Set<String> leftOut) {

    /**
     * Compares the layout with the table that is there, if it is.
     *
     * @param mode how rows are written; an insert-or-update wants a unique key, a procedure wants no table at all
     */
    public static TablePlan of(
            Dialect dialect,
            String table,
            Layout layout,
            WriteMode mode,
            Upkeep upkeep,
            Optional<TableDescription> found) {
        return new Comparison(dialect, table, layout, mode, found).plan(upkeep, false);
    }

    /**
     * The same for a table that rows of this design were written to already: a column that its owner has taken away is left
     * out from then on, and not added again.
     */
    public static TablePlan whileRunning(
            Dialect dialect,
            String table,
            Layout layout,
            WriteMode mode,
            Upkeep upkeep,
            Optional<TableDescription> found) {
        return new Comparison(dialect, table, layout, mode, found).plan(upkeep, true);
    }

    private record Comparison(
            Dialect dialect, String table, Layout layout, WriteMode mode, Optional<TableDescription> found) {

        TablePlan plan(Upkeep upkeep, boolean running) {
            List<String> problems = new ArrayList<>();
            if (mode.needsKey() && layout.key().isEmpty()) {
                problems.add("To " + mode.words()
                        + ", the layout needs a key: tick the columns that tell one row from another.");
            } else if (mode.needsKey() && layout.written().stream().allMatch(column -> layout.isKey(column.name()))) {
                problems.add("Every column is part of the key, so there is nothing to update.");
            }
            if (mode instanceof WriteMode.Call) {
                return new TablePlan(true, List.of(), problems, List.of(), Set.of(), Set.of());
            }
            if (found.isEmpty()) {
                if (!upkeep.mayMake()) {
                    problems.add("The table " + table + " does not exist and this recorder may not make it.");
                }
                return new TablePlan(
                        false, dialect.createTable(table, layout, false), problems, List.of(), Set.of(), Set.of());
            }
            List<String> statements = new ArrayList<>();
            List<String> advice = new ArrayList<>();
            Set<String> conflicts = new TreeSet<>();
            Set<String> leftOut = new HashSet<>();
            for (Column column : layout.written()) {
                Optional<TableDescription.TableColumn> there = found.get().column(column.name());
                if (there.isPresent()) {
                    type(column, there.get(), problems, advice, conflicts);
                } else if (running && !layout.isKey(column.name())) {
                    leftOut.add(column.name());
                } else {
                    statements.addAll(dialect.addColumn(table, column));
                    if (!upkeep.mayAddColumns()) {
                        problems.add("The table " + table + " has no column " + column.name()
                                + " and this recorder may not add it.");
                    }
                }
            }
            demanded(problems);
            if (mode instanceof WriteMode.InsertOrUpdate
                    && !layout.key().isEmpty()
                    && !found.get().hasUnique(layout.key())) {
                problems.add("The table " + table + " has no unique key of " + String.join(", ", layout.key())
                        + ", which insert or update needs.");
            }
            return new TablePlan(true, statements, problems, advice, conflicts, leftOut);
        }

        private void type(
                Column column,
                TableDescription.TableColumn there,
                List<String> problems,
                List<String> advice,
                Set<String> conflicts) {
            Optional<SqlType> type = column.isRowId() ? Optional.empty() : dialect.readType(there.typeName());
            if (type.isEmpty()) {
                if (!column.isRowId()) {
                    advice.add("Column " + there.name() + " of " + table + " is " + there.typeName()
                            + ", a type that is not known here; the database may refuse what is written to it.");
                }
                return;
            }
            TypeFit fit = TypeFit.of(column.type(), type.get());
            if (dialect.singlePrecision(there.typeName()) && column.type().family() == SqlType.Family.DOUBLE) {
                conflicts.add(column.name());
                problems.add(
                        "Column " + there.name() + " of " + table + " is " + there.typeName()
                                + ", which keeps about 7 digits of a number and rounds the rest unseen. Make it a double there, or write to another column.");
            }
            if (!fit.fits()) {
                conflicts.add(column.name());
                problems.add(
                        "Column " + there.name() + " of " + table + " is " + there.typeName() + "; this layout writes "
                                + column.type().words() + " there, which would be turned or rounded unseen. Make it "
                                + type.get().words() + " here, or write to another column.");
            }
            fit.advice()
                    .ifPresent(sentence -> advice.add("Column " + there.name() + " of " + table + " is "
                            + there.typeName() + ": " + sentence + "."));
        }

        private void demanded(List<String> problems) {
            if (mode instanceof WriteMode.Update) {
                return;
            }
            for (TableDescription.TableColumn there : found.orElseThrow().columns()) {
                boolean given = layout.written().stream()
                        .anyMatch(column -> column.name().equalsIgnoreCase(there.name()));
                if (there.mustBeGiven() && !given) {
                    problems.add("The table " + table + " demands a value for its column " + there.name() + " ("
                            + there.typeName() + "), which this layout does not have.");
                }
            }
        }
    }
}
