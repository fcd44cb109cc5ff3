package dachshund.core.when;

import java.time.Duration;
import java.time.Instant;
import java.util.List;

/**
 * Ticks of a rate that were due while the clock jumped, or the machine slept: a day of them at 20 ms is four million. The last
 * ones are told one by one, all before them together.
 */
final class LongPast {

    private static final int ONE_BY_ONE = 1000;

    private LongPast() {}

    /** Up to when nothing is told one by one any more. */
    static Instant before(Instant now, Duration period) {
        return now.minus(period.multipliedBy(ONE_BY_ONE));
    }

    /** Tells those from one tick up to another together; how many they are follows from the period. */
    static void skip(Instant from, Instant to, Duration period, List<Firing> due) {
        due.add(Firing.skipped(from, Math.max(1, Duration.between(from, to).dividedBy(period))));
    }

    /** The first tick after an instant, a period apart from another one. */
    static Instant next(Instant tick, Instant after, Duration period) {
        return tick.plus(period.multipliedBy(Duration.between(tick, after).dividedBy(period) + 1));
    }
}
