package dachshund.core.query;

import dachshund.core.definition.Definition;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * A saved query: a question with parameters and a window.
 *
 * @param window     in the words of {@link dachshund.core.window.Window}, where nobody says another
 * @param parameters those of the question, but for the window's
 */
public record QueryDefinition(
        String id, String name, String description, QueryBody asks, String window, List<QueryParameter> parameters)
        implements Definition {

    /**
     * Names that mean the window: its beginning and end as times, in seconds and in milliseconds since 1970; and the tables of
     * the periods of it, such as {@code :shifts}, see {@link Per}.
     */
    public static final Set<String> OF_THE_WINDOW = Stream.concat(
                    Stream.of("from", "to", "from_s", "to_s", "from_ms", "to_ms"),
                    Arrays.stream(Per.values()).flatMap(per -> per.tables().stream()))
            .collect(Collectors.toUnmodifiableSet());

    public QueryDefinition {
        parameters = List.copyOf(parameters);
    }

    /** Whether it is asked for a window. */
    public boolean hasWindow() {
        return asks.hasWindow();
    }

    public Optional<QueryParameter> parameter(String called) {
        return parameters.stream().filter(each -> each.name().equals(called)).findFirst();
    }

    /** With the parameters that it has now: those it had stay as they were, new ones are texts. */
    public QueryDefinition fitted() {
        List<QueryParameter> fitting = asks.names().stream()
                .distinct()
                .filter(each -> !OF_THE_WINDOW.contains(each))
                .map(each -> parameter(each).orElse(new QueryParameter(each, QueryParameter.Sort.TEXT, "")))
                .toList();
        return new QueryDefinition(id, name, description, asks, window, fitting);
    }

    /** The same, asking something else. */
    public QueryDefinition asking(QueryBody other) {
        return new QueryDefinition(id, name, description, other, window, parameters).fitted();
    }
}
