package dachshund.core.keep;

import dachshund.core.tag.Range;
import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.Optional;

/**
 * How many of the values of a tag are kept: the first one of each period, or those that changed by more than a deadband. A
 * value whose quality is another one is always kept, and of values that are passed over the last one before a change.
 *
 * @param every    the first value of each such period, as its source timed it; empty for each change
 * @param deadband numbers that differ by so much or less are the same, in the tag's unit or percent of its range; 0 where
 *                 only equal ones are
 * @param percent  whether the deadband is in percent of the tag's range; a tag without a range has none then
 */
public record Density(Optional<Duration> every, double deadband, boolean percent) {

    private static final Duration SHORTEST = Duration.ofMillis(1);
    private static final Duration LONGEST = Duration.ofDays(1);

    public static final Density CHANGES = new Density(Optional.empty(), 0, false);

    public Density {
        if (!(deadband >= 0) || Double.isInfinite(deadband) || percent && deadband > 100) {
            throw new IllegalArgumentException(
                    percent ? "A deadband is from 0 to 100 % of the range." : "A deadband is 0 or more.");
        }
        if (every.isPresent()
                && (every.get().compareTo(SHORTEST) < 0 || every.get().compareTo(LONGEST) > 0)) {
            throw new IllegalArgumentException("A rate is from 1 ms to one day.");
        }
        if (every.isPresent() && deadband > 0) {
            throw new IllegalArgumentException("Values are kept at a rate or by a deadband, not by both.");
        }
    }

    public static Density every(Duration period) {
        return new Density(Optional.of(period), 0, false);
    }

    /** The deadband in the tag's unit. */
    public double deadbandOf(Optional<Range> range) {
        return percent
                ? range.map(each -> (each.high() - each.low()) * deadband / 100).orElse(0.0)
                : deadband;
    }

    /** "the first value of each 10 s", "each change", "each change by more than 0.5". */
    public String words() {
        return every.map(period -> "the first value of each " + PeriodText.write(period))
                .orElse("each change"
                        + (deadband > 0
                                ? " by more than " + plain(deadband) + (percent ? " % of the range" : "")
                                : ""));
    }

    private static String plain(double number) {
        return java.math.BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }
}
