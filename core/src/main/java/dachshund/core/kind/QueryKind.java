package dachshund.core.kind;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Saved queries, as the general parts know them. */
public final class QueryKind extends DefinitionKind<QueryDefinition> {

    public QueryKind() {
        super(80, "QUERY", "Saved query", "query", QueryDefinition.class);
    }

    @Override
    protected Set<String> things(QueryDefinition query) {
        return Stream.concat(
                        query.asks().things().stream(),
                        query.parameters().stream().map(QueryParameter::list).filter(id -> !id.isEmpty()))
                .collect(Collectors.toSet());
    }

    @Override
    protected Set<TagRef> tags(QueryDefinition query) {
        return query.asks().tags();
    }

    @Override
    protected Map<Class<?>, Map<String, Class<?>>> choices() {
        return Map.of(
                QueryBody.class, QueryBody.DOCUMENTS, TagHistory.Calculation.class, TagHistory.Calculation.DOCUMENTS);
    }

    /** Before there was anything else, a query was SQL of a database. */
    @Override
    protected void upToDate(ObjectNode document, int schemaVersion) {
        if (document.has("sql")) {
            ObjectNode asks = document.putObject("asks");
            asks.put("is", "written");
            asks.set("in", document.remove("database"));
            asks.set("sql", document.remove("sql"));
        }
    }

    @Override
    protected List<String> introduced(QueryDefinition query, Named named) {
        return List.of("Everybody who signs in may ask it"
                + query.asks().database().map(of -> " of " + named.name(of)).orElse("") + ".");
    }

    @Override
    protected List<String> removed(QueryDefinition was, Named named) {
        return List.of("Nobody can ask it any more.");
    }

    @Override
    protected void changed(QueryDefinition was, QueryDefinition is, Named named, Sentences sentences) {
        sentences.compare("Asks", was.asks().words(named), is.asks().words(named));
        sentences.compare("Window", was.window(), is.window());
        sentences.compare("Parameters", words(was, named), words(is, named));
    }

    private static String words(QueryDefinition query, Named named) {
        return query.parameters().stream().map(each -> words(each, named)).collect(Collectors.joining(", "));
    }

    private static String words(QueryParameter parameter, Named named) {
        return parameter.name() + " (" + parameter.sort().words()
                + (parameter.start().isEmpty() ? "" : ", " + parameter.start())
                + (parameter.list().isEmpty() ? "" : ", one of " + named.name(parameter.list())) + ")";
    }

    @Override
    public Optional<QueryDefinition> duplicate(QueryDefinition of, String id, String name) {
        return Optional.of(new QueryDefinition(id, name, of.description(), of.asks(), of.window(), of.parameters()));
    }
}
