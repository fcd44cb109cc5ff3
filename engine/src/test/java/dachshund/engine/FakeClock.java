package dachshund.engine;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;

/** A clock that stands still until it is moved. */
public final class FakeClock implements PlantClock {

    private volatile Instant now = Instant.parse("2026-11-24T06:00:00Z");
    private volatile long nanos = 1;

    @Override
    public Instant now() {
        return now;
    }

    @Override
    public long nanos() {
        return nanos;
    }

    /** Time passes, and the clock shows it. */
    public void pass(Duration time) {
        now = now.plus(time);
        nanos = nanos + Math.max(0, time.toNanos());
    }

    /** Somebody sets the clock; no time passes. */
    public void set(Duration by) {
        now = now.plus(by);
    }
}
