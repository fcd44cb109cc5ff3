package dachshund.links.network;

import java.time.Duration;

/** Pauses between attempts to connect: 1 s, 2 s, 4 s and so on, 30 s at most. Safe for use by many threads. */
public final class GrowingPause {

    private static final long FIRST_MILLIS = 1000;
    private static final long LONGEST_MILLIS = 30_000;

    private int attempts;

    /** The pause before the next attempt. */
    public synchronized Duration next() {
        return Duration.ofMillis(Math.min(LONGEST_MILLIS, FIRST_MILLIS << Math.min(attempts++, 10)));
    }

    /** It worked: begin with the short pause again. */
    public synchronized void worked() {
        attempts = 0;
    }

    /** Whether nothing failed since it last worked. */
    public synchronized boolean first() {
        return attempts == 0;
    }
}
