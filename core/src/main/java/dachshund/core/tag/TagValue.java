package dachshund.core.tag;

import java.time.Instant;
import java.util.Optional;

/**
 * One value of a tag with its quality and times. The value is a Boolean, Long, Double, java.math.BigDecimal, String or
 * Instant, or absent. A Double that is not finite is turned into a bad value at construction: it is never a number.
 *
 * @param value       absent where the source gave none
 * @param quality     how far to trust it
 * @param sourceTime  when the source says the value came to be; UTC, to 100 ns where the source gives that
 * @param receiveTime when it arrived here; UTC
 * @param serverTime  when a server between source and here had it, where the protocol says so; UTC, to 100 ns
 */
public record TagValue(
        Optional<Object> value,
        Quality quality,
        Instant sourceTime,
        Instant receiveTime,
        Optional<Instant> serverTime) {

    /** Before anything arrived. */
    public static final TagValue NONE = new TagValue(Optional.empty(), Quality.WAITING, Instant.EPOCH, Instant.EPOCH);

    public TagValue {
        if (value.isPresent() && value.get() instanceof Double d && !Double.isFinite(d)) {
            value = Optional.empty();
            quality = Quality.NOT_A_NUMBER;
        }
    }

    /** A value over a protocol that knows no server time. */
    public TagValue(Optional<Object> value, Quality quality, Instant sourceTime, Instant receiveTime) {
        this(value, quality, sourceTime, receiveTime, Optional.empty());
    }

    public static TagValue good(Object value, Instant at) {
        return new TagValue(Optional.of(value), Quality.GOOD, at, at);
    }

    /** Whether anything has ever arrived. */
    public boolean arrived() {
        return !receiveTime.equals(Instant.EPOCH);
    }

    /** The same last value, now with another quality from the given instant on. */
    public TagValue withQuality(Quality other, Instant at) {
        return new TagValue(value, other, sourceTime, at, serverTime);
    }
}
