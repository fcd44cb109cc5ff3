package dachshund.core.window;

import java.time.Duration;
import java.time.Instant;

/**
 * What a window comes to: all instants from the first on, before the last. Half-open, so that windows that follow each other
 * share no instant and leave none out.
 *
 * @param endsNow whether its end moves on with the clock
 */
public record Span(Instant from, Instant to, boolean endsNow) {

    public Duration length() {
        return Duration.between(from, to);
    }

    public boolean contains(Instant at) {
        return !at.isBefore(from) && at.isBefore(to);
    }
}
