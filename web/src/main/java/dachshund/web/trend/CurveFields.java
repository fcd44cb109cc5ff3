package dachshund.web.trend;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.FoundTable;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.row.Conversion;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.query.Queries;
import dachshund.office.reader.Databases;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** What there is to choose from where a curve or band is made of a table or a saved query. */
@Component
class CurveFields {

    private static final int FIRST_ROWS = 20_000;
    private static final int MOST_NAMES = 1000;
    private static final Duration SOON = Duration.ofSeconds(3);

    private final Definitions definitions;
    private final Databases databases;
    private final Queries queries;

    CurveFields(Definitions definitions, Databases databases, Queries queries) {
        this.definitions = definitions;
        this.databases = databases;
        this.queries = queries;
    }

    /** Tables of a database, and the columns of one of them. */
    void tables(String database, String chosen, Model model) {
        model.addAttribute("chosenDatabase", database);
        model.addAttribute("chosenTable", chosen);
        if (database.isEmpty()) {
            return;
        }
        try {
            TableReading reading = databases.tables(database);
            List<FoundTable> tables = reading.tables();
            model.addAttribute("tables", tables);
            tables.stream()
                    .map(FoundTable::name)
                    .filter(name -> key(name).equals(chosen))
                    .findFirst()
                    .ifPresent(name -> {
                        try {
                            reading.describe(name).ifPresent(shape -> columns(shape.columns(), keys(shape), model));
                        } catch (StoreProblem problem) {
                            model.addAttribute("trouble", problem.getMessage());
                        }
                    });
        } catch (StoreProblem problem) {
            model.addAttribute("trouble", problem.getMessage());
        }
    }

    static String key(TableName name) {
        return name.schema() + "\n" + name.name();
    }

    static TableName table(String key) {
        int at = key.replace("\r", "").indexOf('\n');
        if (at < 0) {
            throw new IllegalArgumentException("Choose a table.");
        }
        return new TableName(
                key.replace("\r", "").substring(0, at), key.replace("\r", "").substring(at + 1));
    }

    private static Set<String> keys(TableShape shape) {
        return shape.keys().stream().flatMap(key -> key.columns().stream()).collect(Collectors.toSet());
    }

    /** @param keys columns that tell rows apart: of these nobody wants a curve at first */
    private static void columns(List<TableShape.Column> columns, Set<String> keys, Model model) {
        model.addAttribute("columns", columns);
        model.addAttribute(
                "times",
                columns.stream()
                        .filter(column -> column.sort() != Sort.TRUTH && column.sort() != Sort.CLOCK)
                        .sorted((a, b) -> Boolean.compare(b.sort() == Sort.STAMP, a.sort() == Sort.STAMP))
                        .toList());
        model.addAttribute(
                "numbers",
                columns.stream()
                        .filter(column -> column.sort() == Sort.NUMBER || column.sort() == Sort.TRUTH)
                        .sorted(Comparator.comparing(column -> keys.contains(column.name())))
                        .toList());
        // Most name things by texts; others by a number of each, or by what their database calls a name.
        model.addAttribute(
                "names",
                Stream.of(Sort.TEXT, Sort.NUMBER, Sort.OTHER)
                        .flatMap(sort -> columns.stream().filter(column -> column.sort() == sort))
                        .toList());
        model.addAttribute("forms", TimeColumn.Form.values());
    }

    /** What stands in a column of a table, as far as its first rows have it: a help, without which there may be a name as well. */
    List<String> names(String database, TableName table, String column) {
        Set<String> names = new TreeSet<>();
        try {
            databases
                    .tables(database)
                    .read(Question.all(table).of(List.of(column)).part(0, FIRST_ROWS), SOON, new TableReading.Taker() {
                        @Override
                        public void columns(List<TableShape.Column> columns) {
                            // It was asked for by name.
                        }

                        @Override
                        public boolean row(List<Object> cells) {
                            if (cells.get(0) != null) {
                                names.add(Conversion.plain(cells.get(0)));
                            }
                            return names.size() < MOST_NAMES;
                        }
                    });
        } catch (StoreProblem none) {
            // Whoever knows the name types it.
        }
        return List.copyOf(names);
    }

    /** The columns that a saved query gives, asked for one row. */
    void query(String id, Model model) {
        model.addAttribute("chosenQuery", id);
        if (id.isEmpty()) {
            return;
        }
        try {
            columns(columns(query(id)), Set.of(), model);
        } catch (StoreProblem | QueryProblem | WindowProblem | IllegalArgumentException problem) {
            model.addAttribute("trouble", problem.getMessage());
        }
    }

    /** @throws IllegalArgumentException with a sentence, where it is gone */
    QueryDefinition query(String id) {
        return definitions
                .find(QueryDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This query is not there any more."));
    }

    /** What it gives, asked for one row. */
    List<TableShape.Column> columns(QueryDefinition query) throws StoreProblem, QueryProblem, WindowProblem {
        List<TableShape.Column> found = new ArrayList<>();
        queries.asked(query, Map.of(), "", Standing.DRAFTED).give(TableReading.PAGE, 1, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                found.addAll(columns);
            }

            @Override
            public boolean row(List<Object> cells) {
                return false;
            }
        });
        return found;
    }
}
