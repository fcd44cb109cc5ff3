package dachshund.core.query;

import dachshund.core.definition.Named;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** What a saved query asks, and of what. */
public sealed interface QueryBody permits WrittenQuery, DesignedQuery, TagHistory, JoinedQuery {

    /** By their names in documents. */
    Map<String, Class<?>> DOCUMENTS = Map.of(
            "written", WrittenQuery.class,
            "designed", DesignedQuery.class,
            "tags", TagHistory.class,
            "joined", JoinedQuery.class);

    /** The database whose tables it asks; empty where it asks none, or several. */
    default Optional<String> database() {
        return Optional.empty();
    }

    /** The ids of the things that it names. */
    Set<String> things();

    default Set<TagRef> tags() {
        return Set.of();
    }

    /** What stands behind a colon in it, the window's names with them. */
    List<String> names();

    /** Whether it is asked for a window. */
    default boolean hasWindow() {
        return names().stream().anyMatch(QueryDefinition.OF_THE_WINDOW::contains);
    }

    /** All of it, as reviewers read it. */
    String words(Named named);
}
