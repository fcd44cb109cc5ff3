package dachshund.core.query;

import dachshund.core.definition.Definition;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * A saved query: SQL with parameters, asked of one database.
 *
 * @param database   id of a read-only database or of a destination that is one
 * @param sql        as {@link QueryText} reads it
 * @param window     in the words of {@link dachshund.core.window.Window}, where nobody says another
 * @param parameters those of the text, but for the window's
 */
public record QueryDefinition(
        String id,
        String name,
        String description,
        String database,
        String sql,
        String window,
        List<QueryParameter> parameters)
        implements Definition {

    /** Names that mean the beginning and the end of the window: as times, in seconds and in milliseconds since 1970. */
    public static final Set<String> OF_THE_WINDOW = Set.of("from", "to", "from_s", "to_s", "from_ms", "to_ms");

    public QueryDefinition {
        parameters = List.copyOf(parameters);
    }

    /** Whether it is asked for a window. */
    public boolean hasWindow() {
        return names().stream().anyMatch(OF_THE_WINDOW::contains);
    }

    private Set<String> names() {
        try {
            return new LinkedHashSet<>(QueryText.of(sql).names());
        } catch (QueryProblem notYet) {
            return Set.of();
        }
    }

    public Optional<QueryParameter> parameter(String called) {
        return parameters.stream().filter(each -> each.name().equals(called)).findFirst();
    }

    /** With the parameters that its text has now: those it had stay as they were, new ones are texts. */
    public QueryDefinition fitted() {
        List<QueryParameter> fitting = names().stream()
                .filter(each -> !OF_THE_WINDOW.contains(each))
                .map(each -> parameter(each).orElse(new QueryParameter(each, QueryParameter.Sort.TEXT, "")))
                .toList();
        return new QueryDefinition(id, name, description, database, sql, window, fitting);
    }
}
