package dachshund.core.transaction;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.sql.Dialect;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The statement of a step.
 *
 * @param text   with named parameters
 * @param values the formula of each parameter, by name; of one that is not there, its name is the formula
 */
public record StepSql(QueryText text, Map<String, String> values) {

    /** The formula of a parameter. */
    public String formula(String parameter) {
        return values.getOrDefault(parameter, parameter);
    }

    /** @throws QueryProblem with a sentence, where the step has no statement or lacks something */
    public static StepSql of(Step step, Dialect dialect) throws QueryProblem {
        if (step instanceof Step.LookUp lookUp) {
            return new StepSql(
                    lookUp.in().isEmpty() ? QueryText.lookUp(lookUp.sql()) : QueryText.of(lookUp.sql()), Map.of());
        }
        if (step instanceof Step.Statement statement) {
            return new StepSql(QueryText.change(statement.sql()), Map.of());
        }
        if (step instanceof Step.Put put) {
            return composed(put, dialect);
        }
        throw new QueryProblem("This step has no statement.");
    }

    private static StepSql composed(Step.Put put, Dialect dialect) throws QueryProblem {
        check(put);
        List<Step.Cell> key = put.cells().stream().filter(Step.Cell::key).toList();
        List<Step.Cell> others =
                put.cells().stream().filter(cell -> !cell.key()).toList();
        Map<String, String> values = new LinkedHashMap<>();
        String table = table(put, dialect);
        String where = " WHERE " + equal(key, " AND ", dialect, values);
        String sql =
                switch (put.deed()) {
                    case INSERT -> insert(table, put.cells(), dialect, values);
                    case UPDATE -> "UPDATE " + table + " SET " + equal(others, ", ", dialect, values) + where;
                    case DELETE -> "DELETE FROM " + table + where;
                    case INSERT_OR_UPDATE -> insertOrUpdate(put, table, dialect, values);
                };
        return new StepSql(QueryText.change(sql), values);
    }

    /**
     * The rows that a step has changed, as they stand now.
     *
     * @param by the cells that tell which: one at least
     */
    public static StepSql readingBack(Step.Put put, List<Step.Cell> by, Dialect dialect) throws QueryProblem {
        check(put);
        Map<String, String> values = new LinkedHashMap<>();
        String sql = "SELECT * FROM " + table(put, dialect) + " WHERE " + equal(by, " AND ", dialect, values);
        return new StepSql(QueryText.of(sql), values);
    }

    private static String table(Step.Put put, Dialect dialect) {
        return Stream.of(put.table().split("\\.", 2)).map(dialect::quote).collect(Collectors.joining("."));
    }

    private static void check(Step.Put put) throws QueryProblem {
        if (put.table().isBlank()) {
            throw new QueryProblem("Say which table.");
        }
        if (put.cells().isEmpty()) {
            throw new QueryProblem("Say which columns get what.");
        }
        for (Step.Cell cell : put.cells()) {
            if (cell.column().isBlank()) {
                throw new QueryProblem("A value has no column that it goes to.");
            }
            if (cell.value().isBlank()) {
                throw new QueryProblem("Say what the column " + cell.column() + " gets.");
            }
        }
        boolean keyed = put.cells().stream().anyMatch(Step.Cell::key);
        if (put.deed() != Step.Deed.INSERT && !keyed) {
            throw new QueryProblem("Tick the columns that tell which rows: without them, it would be every row.");
        }
        boolean sets = put.cells().stream().anyMatch(cell -> !cell.key());
        if (put.deed() != Step.Deed.INSERT && put.deed() != Step.Deed.DELETE && !sets) {
            throw new QueryProblem("Every column tells which rows, so there is nothing to update.");
        }
    }

    private static String insert(String table, List<Step.Cell> cells, Dialect dialect, Map<String, String> values) {
        return "INSERT INTO " + table + " ("
                + cells.stream().map(cell -> dialect.quote(cell.column())).collect(Collectors.joining(", "))
                + ") VALUES ("
                + cells.stream().map(cell -> parameter(cell, values)).collect(Collectors.joining(", ")) + ")";
    }

    private static String equal(List<Step.Cell> cells, String between, Dialect dialect, Map<String, String> values) {
        return cells.stream()
                .map(cell -> dialect.quote(cell.column()) + " = " + parameter(cell, values))
                .collect(Collectors.joining(between));
    }

    /** As the engine's dialect writes it for rows. */
    private static String insertOrUpdate(Step.Put put, String table, Dialect dialect, Map<String, String> values)
            throws QueryProblem {
        List<Column> columns = new ArrayList<>();
        put.cells()
                .forEach(cell -> columns.add(Column.of(
                        cell.column(), SqlType.text(1), new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME))));
        Layout layout = new Layout(
                Shape.COLUMN_PER_TAG,
                columns,
                List.of(),
                false,
                put.cells().stream()
                        .filter(Step.Cell::key)
                        .map(Step.Cell::column)
                        .toList(),
                List.of());
        String marked = dialect.insertOrUpdate("?", layout).replace(dialect.quote("?"), table);
        StringBuilder sql = new StringBuilder();
        int next = 0;
        char within = 0;
        for (int i = 0; i < marked.length(); i++) {
            char each = marked.charAt(i);
            if (within != 0) {
                within = each == within ? 0 : within;
            } else if (each == '"' || each == '`') {
                within = each;
            }
            if (each == '?' && within == 0 && next < put.cells().size()) {
                sql.append(parameter(put.cells().get(next++), values));
            } else {
                sql.append(each);
            }
        }
        if (next < put.cells().size()) {
            throw new QueryProblem(dialect.engine() + " knows no insert or update.");
        }
        return sql.toString();
    }

    /** A name stands as it is; what has to be computed is called by its column. */
    private static String parameter(Step.Cell cell, Map<String, String> values) {
        String value = cell.value().strip();
        if (value.matches("[A-Za-z_][A-Za-z0-9_]*") && !value.matches("(?i)true|false|null|pi|e")) {
            return ":" + value;
        }
        String base = cell.column().replaceAll("[^A-Za-z0-9_]", "_").replaceFirst("^([0-9])", "_$1");
        String name = base;
        for (int n = 2; values.containsKey(name) && !values.get(name).equals(value); n++) {
            name = base + "_" + n;
        }
        values.put(name, value);
        return ":" + name;
    }
}
