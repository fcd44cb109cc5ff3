package dachshund.web.query;

import dachshund.core.definition.Definition;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.JoinedQuery;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableName;
import dachshund.office.definition.Definitions;
import dachshund.office.query.Queries;
import dachshund.office.reader.Databases;
import java.util.List;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** The four ways to ask, each as a form, and back. */
@Component
class QueryForms {

    private final Definitions definitions;
    private final Databases databases;
    private final Queries queries;
    private final DesignedLines lines;
    private final TagLines tags;
    private final JoinedLines joins;

    QueryForms(
            Definitions definitions,
            Databases databases,
            Queries queries,
            DesignedLines lines,
            TagLines tags,
            JoinedLines joins) {
        this.definitions = definitions;
        this.databases = databases;
        this.queries = queries;
        this.lines = lines;
        this.tags = tags;
        this.joins = joins;
    }

    /** What a new one begins with. */
    QueryDefinition begun(QueryForm.Way way, String database, String sql) {
        List<Definition> all = databases.all();
        String first = all.size() == 1 ? all.get(0).id() : database;
        QueryBody asks =
                switch (way) {
                    case LINES -> DesignedQuery.of(first, new TableName("", ""));
                    case SQL -> new WrittenQuery(first, sql);
                    case TAGS -> TagLines.begun();
                    case JOINED -> new JoinedQuery(List.of(), sql);
                };
        return new QueryDefinition("", "", "", asks, way == QueryForm.Way.TAGS ? "today" : "", List.of()).fitted();
    }

    /**
     * What the form has now.
     *
     * @throws IllegalArgumentException with a sentence, where something of it is none of what it should be
     */
    QueryDefinition query(QueryForm form) {
        return form.query(
                switch (form.way()) {
                    case LINES -> lines.query(form);
                    case SQL -> new WrittenQuery(form.text("database"), form.sql());
                    case TAGS -> tags.query(form);
                    case JOINED -> joins.query(form);
                });
    }

    /** The same without asking any database, while somebody types. */
    QueryDefinition quick(QueryForm form) {
        return form.way() == QueryForm.Way.LINES ? form.query(lines.quick(form)) : query(form);
    }

    /** The same, after something was added or chosen that changes what its lines offer. */
    QueryDefinition edited(QueryForm form) {
        return form.way() == QueryForm.Way.LINES ? form.query(lines.edited(form)) : query(form);
    }

    /** What the lines of a query need to be shown. */
    void show(QueryDefinition query, Model model) {
        model.addAttribute("query", query);
        model.addAttribute("way", QueryForm.Way.of(query.asks()).name());
        model.addAttribute("sorts", QueryParameter.Sort.values());
        model.addAttribute("databases", databases.all());
        if (query.asks() instanceof DesignedQuery designed) {
            lines.show(designed, model);
        } else if (query.asks() instanceof TagHistory history) {
            tags.show(history, model);
        } else if (query.asks() instanceof JoinedQuery joined) {
            joins.show(joined, model);
        }
        beside(query, model);
    }

    /** What stands beside the lines: the SQL that they are, or what they lack; and parameters. */
    void beside(QueryDefinition query, Model model) {
        model.addAttribute(
                "lists",
                definitions.all(QueryDefinition.class).stream()
                        .filter(each -> !each.id().equals(query.id()))
                        .toList());
        model.addAttribute("query", query);
        model.addAttribute("way", QueryForm.Way.of(query.asks()).name());
        model.addAttribute("sorts", QueryParameter.Sort.values());
        if (query.asks() instanceof DesignedQuery designed) {
            try {
                var sql = queries.sql(designed);
                model.addAttribute("sqlText", sql.text());
                model.addAttribute("bound", sql.fixed().values());
            } catch (QueryProblem lacking) {
                model.addAttribute("lacking", lacking.getMessage());
            }
        }
    }
}
