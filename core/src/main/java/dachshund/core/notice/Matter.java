package dachshund.core.notice;

import java.time.Instant;
import java.util.Set;

/**
 * Something that needs somebody, for as long as it stands.
 *
 * @param key      the same for as long as it is the same matter, also over restarts
 * @param thing    name of the thing it is about; empty where it is about the whole
 * @param folder   the thing lies in; empty for none
 * @param sentence what is the matter
 * @param since    when it began, as far as that is known
 */
public record Matter(
        String key, Sort sort, String thing, String folder, Set<String> labels, String sentence, Instant since) {

    public Matter {
        labels = Set.copyOf(labels);
    }
}
