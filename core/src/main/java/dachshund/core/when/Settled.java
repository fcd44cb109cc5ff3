package dachshund.core.when;

import java.time.Duration;
import java.time.Instant;
import java.util.Objects;
import java.util.Optional;

/**
 * A value that counts once it has stayed the same for the debounce. After a transition that fired, others within the
 * hold-off are taken note of and do not fire.
 *
 * @param <T> what it is of
 */
final class Settled<T> {

    private final Duration debounce;
    private final Duration holdOff;
    private T settled;
    private T waiting;
    private Instant ripe = Instant.MAX;
    private Instant quietUntil = Instant.MIN;

    Settled(Duration debounce, Duration holdOff) {
        this.debounce = debounce;
        this.holdOff = holdOff;
    }

    /** A transition. */
    record Step<T>(T from, T to, Instant at) {}

    void begin(T value) {
        settled = value;
    }

    T settled() {
        return settled;
    }

    /** When a value that waits will count; {@link Instant#MAX} where none waits. */
    Instant ripe() {
        return ripe;
    }

    /** @param value null where it is not known: what waits is given up, what settled stays */
    Optional<Step<T>> take(T value, Instant now) {
        if (value == null || value.equals(settled)) {
            ripe = Instant.MAX;
            return Optional.empty();
        }
        if (settled == null) {
            settled = value; // the first that is known is where it begins
            return Optional.empty();
        }
        if (debounce.isZero()) {
            return step(value, now);
        }
        if (ripe.equals(Instant.MAX) || !Objects.equals(waiting, value)) {
            waiting = value;
            ripe = now.plus(debounce);
        }
        return Optional.empty();
    }

    Optional<Step<T>> time(Instant now) {
        return ripe.isAfter(now) ? Optional.empty() : step(waiting, ripe);
    }

    private Optional<Step<T>> step(T value, Instant at) {
        Step<T> step = new Step<>(settled, value, at);
        settled = value;
        ripe = Instant.MAX;
        return at.isBefore(quietUntil) ? Optional.empty() : Optional.of(step);
    }

    /** The transition made a row. */
    void fired(Instant at) {
        quietUntil = at.plus(holdOff);
    }
}
