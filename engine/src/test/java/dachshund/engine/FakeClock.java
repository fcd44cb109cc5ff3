package dachshund.engine;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;

/** A clock that stands still until it is moved. */
public final class FakeClock implements PlantClock {

    private volatile Instant now = Instant.parse("2026-11-24T06:00:00Z");

    @Override
    public Instant now() {
        return now;
    }

    public void pass(Duration time) {
        now = now.plus(time);
    }
}
