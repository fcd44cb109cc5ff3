package dachshund.core.sql;

import java.util.Locale;
import java.util.Set;

/** The words that an engine refuses as a column name that is not quoted. */
public final class ReservedWords {

    private final Set<String> words;

    public ReservedWords(String text) {
        this.words = Set.of(text.strip().split("\\s+"));
    }

    public boolean contains(String identifier) {
        return words.contains(identifier.toUpperCase(Locale.ROOT));
    }
}
