package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.QueryProblem;
import dachshund.core.query.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Standing;
import dachshund.office.own.DachshundSettings;
import dachshund.office.reader.Databases;
import dachshund.office.window.Windows;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** Asks saved queries: of their database, with a window and values of their parameters. */
@Component
public class Queries {

    private final Databases databases;
    private final Windows windows;
    private final DachshundSettings settings;

    Queries(Databases databases, Windows windows, DachshundSettings settings) {
        this.databases = databases;
        this.windows = windows;
        this.settings = settings;
    }

    /** A query with all that it needs to be asked, as often as somebody wants. */
    public final class Asked {

        private final QueryDefinition query;
        private final QueryText text;
        private final List<Object> values;
        private final Optional<Span> span;
        private final Standing standing;

        private Asked(
                QueryDefinition query, QueryText text, List<Object> values, Optional<Span> span, Standing standing) {
            this.query = query;
            this.text = text;
            this.values = values;
            this.span = span;
            this.standing = standing;
        }

        /** The window that it was asked for, where it has one. */
        public Optional<Span> span() {
            return span;
        }

        /**
         * @param limit how long it may take, at the pace of the taker
         * @param most  no more rows than these
         * @return how many rows the taker was given
         */
        public long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem, QueryProblem {
            return databases.tables(standing, query.database()).ask(text, values, limit, most, taker);
        }
    }

    /**
     * @param typed  values by the name of the parameter; what is not there is as it starts
     * @param window empty for the query's own
     * @param standing which design of its database is meant
     * @throws QueryProblem  where the text is no query, or a value is not of its kind
     * @throws WindowProblem where the window cannot be read
     */
    public Asked asked(QueryDefinition query, Map<String, String> typed, String window, Standing standing)
            throws QueryProblem, WindowProblem {
        if (query.database().isEmpty()) {
            throw new QueryProblem("Choose the database that is asked.");
        }
        QueryText text = QueryText.of(query.sql());
        Optional<Span> span = Optional.empty();
        if (query.hasWindow()) {
            String words = window.isBlank() ? query.window() : window;
            if (words.isBlank()) {
                throw new QueryProblem("Say the window that it is asked for, such as this week.");
            }
            span = Optional.of(windows.span(words));
        }
        List<Object> values = new ArrayList<>();
        for (String name : text.names()) {
            if (QueryDefinition.OF_THE_WINDOW.contains(name)) {
                values.add(ofTheWindow(name, span.orElseThrow()));
            } else {
                QueryParameter parameter =
                        query.parameter(name).orElse(new QueryParameter(name, QueryParameter.Sort.TEXT, ""));
                values.add(parameter.value(typed.getOrDefault(name, parameter.start()), settings.zone()));
            }
        }
        return new Asked(query, text, values, span, standing);
    }

    private static Object ofTheWindow(String name, Span span) {
        Instant at = name.startsWith("from") ? span.from() : span.to();
        if (name.endsWith("_s")) {
            return BigDecimal.valueOf(at.getEpochSecond());
        }
        return name.endsWith("_ms") ? BigDecimal.valueOf(at.toEpochMilli()) : at;
    }
}
