package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Saved queries, as the general parts know them. */
public final class QueryKind extends DefinitionKind<QueryDefinition> {

    public QueryKind() {
        super(80, "QUERY", "Saved query", "query", QueryDefinition.class);
    }

    @Override
    protected Set<String> things(QueryDefinition query) {
        return query.database().isEmpty() ? Set.of() : Set.of(query.database());
    }

    @Override
    protected List<String> introduced(QueryDefinition query, Named named) {
        return List.of("Everybody who signs in may ask it of " + named.name(query.database()) + ".");
    }

    @Override
    protected List<String> removed(QueryDefinition was, Named named) {
        return List.of("Nobody can ask it any more.");
    }

    @Override
    protected void changed(QueryDefinition was, QueryDefinition is, Named named, Sentences sentences) {
        sentences.compare("Database", named.name(was.database()), named.name(is.database()));
        sentences.compare("Query", was.sql(), is.sql());
        sentences.compare("Window", was.window(), is.window());
        sentences.compare("Parameters", words(was), words(is));
    }

    private static String words(QueryDefinition query) {
        return query.parameters().stream().map(QueryKind::words).collect(Collectors.joining(", "));
    }

    private static String words(QueryParameter parameter) {
        return parameter.name() + " (" + parameter.sort().words()
                + (parameter.start().isEmpty() ? "" : ", " + parameter.start()) + ")";
    }

    @Override
    public Optional<QueryDefinition> duplicate(QueryDefinition of, String id, String name) {
        return Optional.of(
                new QueryDefinition(id, name, of.description(), of.database(), of.sql(), of.window(), of.parameters()));
    }
}
