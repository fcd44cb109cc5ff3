package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.DesignedSql;
import dachshund.core.query.JoinedQuery;
import dachshund.core.query.Per;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.own.DachshundSettings;
import dachshund.office.reader.Databases;
import dachshund.office.window.Windows;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;

/** Asks saved queries: with a window and values of their parameters. */
@Component
public class Queries {

    /** More of them are no list to choose from. */
    private static final int MOST_CHOICES = 1000;

    private final Definitions definitions;
    private final Databases databases;
    private final MeantTags meant;
    private final TagRows tags;
    private final JoinedRows joins;
    private final Windows windows;
    private final DachshundSettings settings;

    Queries(
            Definitions definitions,
            Databases databases,
            MeantTags meant,
            TagRows tags,
            JoinedRows joins,
            Windows windows,
            DachshundSettings settings) {
        this.definitions = definitions;
        this.databases = databases;
        this.meant = meant;
        this.tags = tags;
        this.joins = joins;
        this.windows = windows;
        this.settings = settings;
    }

    /** Rows for a limit of time and number. */
    @FunctionalInterface
    interface Giving {
        long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem, QueryProblem;
    }

    private record Ready(Optional<Span> span, Giving giving) implements Asked {
        @Override
        public long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem, QueryProblem {
            return giving.give(limit, most, taker);
        }
    }

    /**
     * The SQL of a designed query, in the words of its database.
     *
     * @throws QueryProblem with a sentence that says what is missing
     */
    public DesignedSql sql(DesignedQuery query) throws QueryProblem {
        return DesignedSql.of(query, databases.dialect(chosen(query.in())));
    }

    private static String chosen(String database) throws QueryProblem {
        if (database.isEmpty()) {
            throw new QueryProblem("Choose the database that is asked.");
        }
        return database;
    }

    /** The SQL in which places of trouble are told; empty where there is none. */
    public String text(QueryBody asks) {
        if (asks instanceof WrittenQuery written) {
            return written.sql();
        }
        if (asks instanceof JoinedQuery joined) {
            return joined.sql();
        }
        try {
            return asks instanceof DesignedQuery designed ? sql(designed).text() : "";
        } catch (QueryProblem lacking) {
            return "";
        }
    }

    /** @throws QueryProblem with a sentence, where something is missing without which nobody can ask it */
    public void check(QueryBody asks) throws QueryProblem {
        if (asks instanceof WrittenQuery written) {
            chosen(written.in());
            QueryText.of(written.sql());
        } else if (asks instanceof DesignedQuery designed) {
            QueryText.of(sql(designed).text());
        } else if (asks instanceof TagHistory history) {
            meant.which(history, Standing.DRAFTED);
        } else if (asks instanceof JoinedQuery joined) {
            if (joined.parts().isEmpty()) {
                throw new QueryProblem(JoinedRows.NO_PARTS);
            }
            QueryText.of(joined.sql());
        }
    }

    /**
     * Asks for one row of it as it is, to see whether it still fits what it asks; where a parameter or the window has nothing to
     * begin with, any value is taken.
     *
     * @return why it cannot be asked, in a sentence; empty where it can
     */
    public Optional<String> trouble(QueryDefinition query, Standing standing) {
        Map<String, String> any = new HashMap<>();
        query.parameters().stream()
                .filter(each -> each.start().isBlank())
                .forEach(each -> any.put(each.name(), each.sort().any()));
        try {
            asked(query, any, query.window().isBlank() ? "last 1 h" : "", standing)
                    .give(TableReading.PAGE, 1, NOBODY);
            return Optional.empty();
        } catch (QueryProblem | WindowProblem | StoreProblem problem) {
            return Optional.of(problem.getMessage());
        }
    }

    /** What a parameter may be, by its list: the first column of that query, each once. */
    public List<String> choices(QueryParameter parameter, Standing standing)
            throws QueryProblem, WindowProblem, StoreProblem {
        QueryDefinition list = definitions
                .find(standing, QueryDefinition.class, parameter.list())
                .orElseThrow(() -> new QueryProblem("the saved query of it is not there, or not released."));
        Set<String> found = new LinkedHashSet<>();
        asked(list, Map.of(), "", standing).give(TableReading.PAGE, MOST_CHOICES, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                // The first is meant, whatever it is called.
            }

            @Override
            public boolean row(List<Object> cells) {
                if (cells.get(0) != null) {
                    found.add(
                            cells.get(0) instanceof BigDecimal exact
                                    ? exact.toPlainString()
                                    : cells.get(0).toString());
                }
                return true;
            }
        });
        return List.copyOf(found);
    }

    private static final TableReading.Taker NOBODY = new TableReading.Taker() {
        @Override
        public void columns(List<TableShape.Column> columns) {
            // Whether it can be asked is all that is wanted.
        }

        @Override
        public boolean row(List<Object> cells) {
            return false;
        }
    };

    /**
     * @param typed  values by the name of the parameter; what is not there is as it starts
     * @param window empty for the query's own
     * @param standing which design of what it asks is meant
     * @throws QueryProblem  where it is no query, or a value is not of its kind
     * @throws WindowProblem where the window cannot be read
     */
    public Asked asked(QueryDefinition query, Map<String, String> typed, String window, Standing standing)
            throws QueryProblem, WindowProblem {
        if (query.asks() instanceof WrittenQuery written) {
            chosen(written.in());
            QueryText text = QueryText.of(written.sql());
            Optional<Span> span = span(query, window);
            return database(written.in(), text, values(query, text, typed, span), span, standing);
        }
        if (query.asks() instanceof DesignedQuery designed) {
            DesignedSql sql = sql(designed);
            QueryText text = QueryText.of(sql.text());
            Optional<Span> span = span(query, window);
            return database(
                    designed.in(), text, values(sql.written(query, designed.in()), text, typed, span), span, standing);
        }
        Optional<Span> span = span(query, window);
        if (query.asks() instanceof TagHistory history) {
            List<MeantTags.Tag> which = meant.which(history, standing);
            return new Ready(span, (limit, most, taker) -> tags.give(history, which, span, limit, most, taker));
        }
        JoinedQuery joined = (JoinedQuery) query.asks();
        QueryText text = QueryText.of(joined.sql());
        List<Object> values = values(query, text, typed, span);
        Map<String, Asked> parts = new LinkedHashMap<>();
        for (JoinedQuery.Part part : joined.parts()) {
            parts.put(part.name(), part(part, query, typed, window, standing));
        }
        return new Ready(span, (limit, most, taker) -> joins.give(text, parts, values, limit, most, taker));
    }

    private Asked part(
            JoinedQuery.Part part, QueryDefinition whole, Map<String, String> typed, String window, Standing standing)
            throws QueryProblem, WindowProblem {
        QueryDefinition query = definitions
                .find(standing, QueryDefinition.class, part.query())
                .orElseThrow(() -> new QueryProblem(
                        part.query().isEmpty()
                                ? "Choose the saved query that " + part.name() + " is."
                                : "The saved query of the part " + part.name() + " is not there"
                                        + (standing == Standing.RELEASED ? ", or not released." : " any more.")));
        if (query.asks() instanceof JoinedQuery) {
            throw new QueryProblem(
                    "The part " + part.name() + " is joined of parts itself. A part asks one database or the archive.");
        }
        Map<String, String> given = new HashMap<>();
        whole.parameters().forEach(each -> given.put(each.name(), each.start()));
        given.putAll(typed);
        given.values().removeIf(String::isEmpty);
        try {
            return asked(query, given, window.isBlank() ? whole.window() : window, standing);
        } catch (QueryProblem problem) {
            throw new QueryProblem("In the part " + part.name() + ": " + problem.getMessage());
        }
    }

    private Asked database(
            String database, QueryText text, List<Object> values, Optional<Span> span, Standing standing) {
        return new Ready(
                span,
                (limit, most, taker) -> databases.tables(standing, database).ask(text, values, limit, most, taker));
    }

    private Optional<Span> span(QueryDefinition query, String window) throws QueryProblem, WindowProblem {
        if (!query.hasWindow()) {
            return Optional.empty();
        }
        String words = window.isBlank() ? query.window() : window;
        if (words.isBlank()) {
            throw new QueryProblem("Say the window that it is asked for, such as this week.");
        }
        return Optional.of(windows.span(words));
    }

    private List<Object> values(QueryDefinition query, QueryText text, Map<String, String> typed, Optional<Span> span)
            throws QueryProblem {
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
        return values;
    }

    private Object ofTheWindow(String name, Span span) throws QueryProblem {
        if (!name.startsWith("from") && !name.startsWith("to")) {
            return Per.table(name, span, windows.here());
        }
        Instant at = name.startsWith("from") ? span.from() : span.to();
        if (name.endsWith("_s")) {
            return BigDecimal.valueOf(at.getEpochSecond());
        }
        return name.endsWith("_ms") ? BigDecimal.valueOf(at.toEpochMilli()) : at;
    }
}
