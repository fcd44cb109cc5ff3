package dachshund.core.transaction;

import dachshund.core.tag.TagRef;
import java.util.Optional;

/**
 * What a run has under a name: the value of a tag as it was when it fired, or what is computed of its history up to then.
 *
 * @param name as steps call it
 * @param bad  what happens where there is nothing that can be trusted
 * @param over what is computed of its history; empty for its value
 */
public record Gathered(String name, TagRef tag, WhenBad bad, Optional<Over> over) {

    /** What the instant is called at which the time over which one is computed began, behind its own name. */
    public static final String SINCE = "_since";

    public Gathered {
        // Designs of before knew values alone.
        over = over == null ? Optional.empty() : over;
    }

    /** One that no tag gives: whoever asks for the run does. */
    public static Gathered given(String name) {
        return new Gathered(name, TagRef.gapFor(new TagRef("given", name)), WhenBad.FAIL);
    }

    /** Whether whoever asks for the run has to give it. */
    public boolean isGiven() {
        return tag.isGap();
    }

    /** A value. */
    public Gathered(String name, TagRef tag, WhenBad bad) {
        this(name, tag, bad, Optional.empty());
    }

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
