package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Values;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.engine.transaction.SavedQueries;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;

/** What transactions look up by saved queries: with values of the run, and the query's own window. */
@Component
final class LookedUp implements SavedQueries {

    private static final Duration LIMIT = Duration.ofSeconds(10);

    private final Definitions definitions;
    private final Queries queries;

    LookedUp(Engine engine, Definitions definitions, Queries queries) {
        this.definitions = definitions;
        this.queries = queries;
        engine.transactions().askSaved(this);
    }

    @Override
    public Session.Found ask(String id, boolean drafted, Execution.Parameters values, int most)
            throws StoreProblem, QueryProblem {
        Standing standing = drafted ? Standing.DRAFTED : Standing.RELEASED;
        QueryDefinition query = definitions
                .find(standing, QueryDefinition.class, id)
                .orElseThrow(() -> new QueryProblem(
                        "The saved query is not there" + (drafted ? " any more." : ", or not released.")));
        Map<String, String> typed = new HashMap<>();
        for (QueryParameter parameter : query.parameters()) {
            Object value = values.of(parameter.name());
            typed.put(parameter.name(), value == null ? "" : Values.words(value));
        }
        List<String> columns = new ArrayList<>();
        List<List<Object>> rows = new ArrayList<>();
        try {
            queries.asked(query, typed, "", standing).give(LIMIT, most, new TableReading.Taker() {
                @Override
                public void columns(List<TableShape.Column> found) {
                    found.forEach(each -> columns.add(each.name()));
                }

                @Override
                public boolean row(List<Object> cells) {
                    rows.add(new ArrayList<>(cells));
                    return true;
                }
            });
        } catch (WindowProblem no) {
            throw new QueryProblem(no.getMessage());
        }
        return new Session.Found(columns, rows);
    }
}
