package dachshund.core.transaction;

import dachshund.core.tag.TagRef;

/**
 * A tag whose value a run has under a name, as it was when it fired.
 *
 * @param name as steps call it
 * @param bad  what happens where its quality is bad
 */
public record Gathered(String name, TagRef tag, WhenBad bad) {

    /** What happens where a value cannot be trusted. */
    public enum WhenBad {
        FAIL("the run fails"),
        NOTHING("it is nothing"),
        LAST_GOOD("the last good value counts");

        private final String words;

        WhenBad(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }
}
