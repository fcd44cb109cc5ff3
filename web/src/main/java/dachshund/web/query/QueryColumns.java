package dachshund.web.query;

import dachshund.core.definition.Definition;
import dachshund.core.query.JoinedQuery;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory;
import dachshund.office.definition.Definitions;
import dachshund.web.design.OwnColumns;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Saved queries in their list. */
@Component
class QueryColumns implements OwnColumns {

    private final Definitions definitions;

    QueryColumns(Definitions definitions) {
        this.definitions = definitions;
    }

    @Override
    public String kind() {
        return "QUERY";
    }

    @Override
    public String page() {
        return "/review/queries";
    }

    @Override
    public List<Head> heads() {
        return List.of(new Head("Asks", false), new Head("For", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((QueryDefinition) thing);
    }

    private String name(String id) {
        return definitions.find(id).map(Definition::name).orElse("nothing that is there");
    }

    private String names(JoinedQuery joined) {
        return joined.parts().stream().map(part -> name(part.query())).collect(Collectors.joining(", "));
    }

    private List<Cell> cells(QueryDefinition query) {
        String asks = query.asks() instanceof TagHistory
                ? "the archive"
                : query.asks() instanceof JoinedQuery joined
                        ? names(joined)
                        : name(query.asks().database().orElse(""));
        String parameters =
                query.parameters().stream().map(QueryParameter::name).collect(Collectors.joining(", "));
        String window = query.hasWindow() ? (query.window().isEmpty() ? "a window" : query.window()) : "";
        String all = window + (window.isEmpty() || parameters.isEmpty() ? "" : ", ") + parameters;
        return List.of(Cell.of(asks), Cell.quiet(all));
    }
}
