package dachshund.core.query;

import dachshund.core.definition.Named;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * SQL that somebody wrote.
 *
 * @param in  id of a read-only database or of a destination that is one; empty where none is chosen yet
 * @param sql as {@link QueryText} reads it
 */
public record WrittenQuery(String in, String sql) implements QueryBody {

    @Override
    public Optional<String> database() {
        return in.isEmpty() ? Optional.empty() : Optional.of(in);
    }

    @Override
    public Set<String> things() {
        return in.isEmpty() ? Set.of() : Set.of(in);
    }

    @Override
    public List<String> names() {
        try {
            return QueryText.of(sql).names().stream().distinct().toList();
        } catch (QueryProblem notYet) {
            return List.of();
        }
    }

    @Override
    public String words(Named named) {
        return "of " + named.name(in) + ": " + sql;
    }
}
