package dachshund.core.transaction;

import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.Optional;

/**
 * What is computed of a tag's values over a time that ends with the trigger, from what the archive keeps.
 *
 * @param longest how far back it goes at most, 1 s to 400 days; where it is {@link Since#LENGTH}, how far it goes
 * @param marker  the tag whose value says when the time began; empty where another thing says it
 */
public record Over(Since since, Duration longest, Optional<TagRef> marker, Calculation what) {

    public static final Duration SHORTEST = Duration.ofSeconds(1);
    public static final Duration LONGEST = Duration.ofDays(400);

    /** Where such a time begins. */
    public enum Since {
        LENGTH("over the last"),
        LAST_RUN("since its last run that is done"),
        SHIFT("since the shift began"),
        SAME("since this tag has its value"),
        BEFORE("while this tag had the value before");

        private final String words;

        Since(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** Whether a tag says it. */
        public boolean marked() {
            return this == SAME || this == BEFORE;
        }
    }

    public Over {
        if (longest.compareTo(SHORTEST) < 0 || longest.compareTo(LONGEST) > 0) {
            throw new IllegalArgumentException("A time over which values are taken lies between 1 s and 400 days.");
        }
        marker = since.marked() ? marker : Optional.empty();
    }

    public Over withMarker(Optional<TagRef> other) {
        return new Over(since, longest, other, what);
    }

    /** In words. */
    public String sentence() {
        return what.words() + " " + since.words()
                + (since == Since.LENGTH
                        ? " " + PeriodText.write(longest)
                        : ", " + PeriodText.write(longest) + " at most");
    }
}
