package dachshund.core.time;

import java.time.Instant;

/**
 * OPC UA DateTime: 100 ns ticks since 1601-01-01T00:00:00Z (OPC 10000-6, 5.2.2.5). The Unix epoch is tick
 * 116444736000000000.
 */
public final class OpcUaTime {

    /** Ticks between 1601-01-01 and 1970-01-01. */
    public static final long UNIX_EPOCH_TICKS = 116_444_736_000_000_000L;

    private static final long TICKS_PER_SECOND = 10_000_000L;

    private OpcUaTime() {}

    /** The instant of a tick count, exact to 100 ns. */
    public static Instant toInstant(long ticks) {
        long sinceUnix = Math.subtractExact(ticks, UNIX_EPOCH_TICKS);
        return Instant.ofEpochSecond(
                Math.floorDiv(sinceUnix, TICKS_PER_SECOND), Math.floorMod(sinceUnix, TICKS_PER_SECOND) * 100);
    }

    /** The tick that contains the instant; what is finer than 100 ns is cut. */
    public static long toTicks(Instant instant) {
        return Math.addExact(
                UNIX_EPOCH_TICKS,
                Math.addExact(Math.multiplyExact(instant.getEpochSecond(), TICKS_PER_SECOND), instant.getNano() / 100));
    }
}
