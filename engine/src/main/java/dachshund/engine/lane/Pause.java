package dachshund.engine.lane;

import java.time.Duration;

/** How long to wait before something that failed is tried again: half a second, then twice as long each time, 10 s at most. */
final class Pause {

    private static final Duration FIRST = Duration.ofMillis(500);
    private static final Duration LONGEST = Duration.ofSeconds(10);

    private Pause() {}

    /** @param failures how often in a row it has failed before */
    static long nanosAfter(int failures) {
        Duration pause = FIRST.multipliedBy(1L << Math.min(failures, 10));
        return (pause.compareTo(LONGEST) < 0 ? pause : LONGEST).toNanos();
    }
}
