package dachshund.office.trend;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TimeColumn;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.query.Queries;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Saved queries asked over the window of a trend, and how the times that they give are read. */
@Component
class AskedQueries {

    private final Queries queries;
    private final Definitions definitions;

    AskedQueries(Queries queries, Definitions definitions) {
        this.queries = queries;
        this.definitions = definitions;
    }

    /** @throws Trends.Undrawn where it is not there any more */
    QueryDefinition query(String id, Standing standing) throws Trends.Undrawn {
        return definitions
                .find(standing, QueryDefinition.class, id)
                .orElseThrow(() -> new Trends.Undrawn("The saved query is not there any more."));
    }

    void give(QueryDefinition query, Instant from, Instant to, Standing standing, long most, TableReading.Taker taker)
            throws StoreProblem, QueryProblem, WindowProblem {
        queries.asked(query, Map.of(), from + " to " + to, standing).give(TableReading.PAGE, most, taker);
    }

    /** What a cell of a column of times means. */
    Function<Object, Optional<Instant>> times(QueryDefinition query, TableShape.Column column, Standing standing) {
        return new TimeColumn(column.name(), TimeColumn.usual(column))
                .reading(zone(standing, query.asks().database().orElse("")));
    }

    /** The clock of a database whose times say no zone. */
    ZoneId zone(Standing standing, String database) {
        return definitions
                .find(standing, DatabaseDefinition.class, database)
                .map(DatabaseDefinition::zone)
                .orElse(ZoneOffset.UTC);
    }

    /** @throws IllegalArgumentException with a sentence, where there is none of this name */
    static TableShape.Column column(List<TableShape.Column> columns, String name) {
        return columns.stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("The query gives no column " + name + ". It gives "
                        + String.join(
                                ", ",
                                columns.stream().map(TableShape.Column::name).toList())
                        + "."));
    }
}
