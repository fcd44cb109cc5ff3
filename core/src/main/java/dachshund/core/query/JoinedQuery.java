package dachshund.core.query;

import dachshund.core.definition.Named;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * One SQL over what several saved queries give, each asked of its own database or of the archive. All of them are asked for the
 * window of this one, and with its values for parameters of the same name.
 *
 * @param sql of DuckDB, over the parts by their names
 */
public record JoinedQuery(List<Part> parts, String sql) implements QueryBody {

    /** So many rows a part has at most. */
    public static final int MOST_ROWS = 1_000_000;

    /**
     * One of its tables.
     *
     * @param name  letters, digits and _, by which the SQL calls it
     * @param query id of a saved query
     */
    public record Part(String name, String query) {}

    public JoinedQuery {
        parts = List.copyOf(parts);
    }

    @Override
    public Set<String> things() {
        return parts.stream().map(Part::query).filter(id -> !id.isEmpty()).collect(Collectors.toSet());
    }

    /** The window always, since its parts may have one. */
    @Override
    public List<String> names() {
        try {
            return Stream.concat(QueryText.of(sql).names().stream(), Stream.of("from", "to"))
                    .distinct()
                    .toList();
        } catch (QueryProblem notYet) {
            return List.of("from", "to");
        }
    }

    @Override
    public String words(Named named) {
        return parts.stream()
                        .map(part -> part.name() + " is " + named.name(part.query()))
                        .collect(Collectors.joining(", "))
                + ": " + sql;
    }
}
