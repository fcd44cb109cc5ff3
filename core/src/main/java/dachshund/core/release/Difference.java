package dachshund.core.release;

import dachshund.core.definition.Definition;
import java.util.List;

/**
 * How one thing differs between what is live and what is drafted, in plain sentences.
 *
 * @param thing the definition as drafted; as live where it is removed
 */
public record Difference(Change change, Definition thing, List<String> sentences) {

    /** What happens to the thing. */
    public enum Change {
        NEW("New"),
        CHANGED("Changed"),
        REMOVED("Removed");

        private final String words;

        Change(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }
}
