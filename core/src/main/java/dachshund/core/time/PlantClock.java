package dachshund.core.time;

import java.time.Instant;

/**
 * The one way to ask what time it is. Everything that needs the present takes a clock, so that tests can hold it
 * still and Rehearse can run over the past. The system's clock is read in one class of the engine only.
 */
@FunctionalInterface
public interface PlantClock {

    /** The present instant on the UTC time line, at the best resolution the machine gives. */
    Instant now();

    /** Time that passes, in nanoseconds from any point: goes on evenly, whatever happens to {@link #now}. */
    default long nanos() {
        return System.nanoTime();
    }
}
