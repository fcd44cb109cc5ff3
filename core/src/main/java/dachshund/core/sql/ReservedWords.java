package dachshund.core.sql;

import java.util.Locale;
import java.util.Set;

/** The words that an engine refuses as a column name that is not quoted. */
final class ReservedWords {

    private final Set<String> words;

    ReservedWords(String text) {
        this.words = Set.of(text.strip().split("\\s+"));
    }

    boolean contains(String identifier) {
        return words.contains(identifier.toUpperCase(Locale.ROOT));
    }
}
