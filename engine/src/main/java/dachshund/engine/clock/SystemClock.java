package dachshund.engine.clock;

import dachshund.core.time.PlantClock;
import java.time.Instant;

/** The machine's clock: the one place where the present is read. */
public final class SystemClock implements PlantClock {

    @Override
    public Instant now() {
        return Instant.now();
    }
}
