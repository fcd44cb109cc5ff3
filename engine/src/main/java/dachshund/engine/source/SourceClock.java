package dachshund.engine.source;

import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.time.Instant;
import java.util.List;

/**
 * Compares a source's clock with ours. A value cannot arrive before it came to be, so the smallest delay between source
 * time and arrival over some minutes is the difference of the clocks, plus the shortest way through the network.
 */
final class SourceClock {

    private static final Duration WINDOW = Duration.ofMinutes(2);
    private static final long AHEAD_MILLIS = 2_000;
    private static final long BEHIND_MILLIS = 60_000;
    private static final int LOOK_AT = 8;

    private Instant windowBegan = Instant.EPOCH;
    private long least = Long.MAX_VALUE;
    private long leastBefore = Long.MAX_VALUE;

    /** Takes note of some values of a batch. */
    synchronized void note(List<TagChange> batch, Instant now) {
        if (Duration.between(windowBegan, now).compareTo(WINDOW) > 0) {
            leastBefore = least;
            least = Long.MAX_VALUE;
            windowBegan = now;
        }
        int step = Math.max(1, batch.size() / LOOK_AT);
        for (int i = 0; i < batch.size(); i += step) {
            TagValue value = batch.get(i).value();
            if (!value.quality().isBad()) {
                least = Math.min(
                        least,
                        value.receiveTime().toEpochMilli() - value.sourceTime().toEpochMilli());
            }
        }
    }

    /** Forgets what it saw; for a new connection. */
    synchronized void begin() {
        least = Long.MAX_VALUE;
        leastBefore = Long.MAX_VALUE;
        windowBegan = Instant.EPOCH;
    }

    /** A sentence where the source's clock seems wrong; else empty. */
    synchronized String sentence() {
        long delay = Math.min(least, leastBefore);
        if (delay < -AHEAD_MILLIS) {
            return "The clock of this source is ahead of ours by at least "
                    + PeriodText.roughly(Duration.ofMillis(-delay)) + ". Compare both clocks (NTP).";
        }
        // Before a whole window has passed, a source whose values simply rest looks late.
        return leastBefore != Long.MAX_VALUE && delay > BEHIND_MILLIS
                ? "No value of the last minutes is younger than " + PeriodText.roughly(Duration.ofMillis(delay))
                        + ": the clock of this source is behind ours, or its values rest."
                : "";
    }
}
