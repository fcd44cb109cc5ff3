package dachshund.web.pulse;

import java.time.Instant;

/**
 * The figures of the pulse line.
 *
 * @param liveTags   tags whose value is not bad
 * @param allTags    tags taken from all sources
 * @param perMinute  rows landed in the last sixty seconds
 * @param held       rows on disk that their destinations should have taken by now
 * @param setAside   rows set aside, all recorders together
 * @param sourcesDown sources that are not connected
 * @param diskLeft   bytes left where the journal is; 0 where nobody knows
 */
public record Pulse(
        long liveTags,
        long allTags,
        long perMinute,
        long held,
        long setAside,
        long sourcesDown,
        long sources,
        long diskLeft,
        Instant at) {

    /** Disk left as a person reads it. */
    public String disk() {
        if (diskLeft == 0) {
            return "unknown";
        }
        double gigabytes = diskLeft / 1e9;
        return gigabytes >= 10
                ? Math.round(gigabytes) + " GB"
                : gigabytes >= 1
                        ? String.format(java.util.Locale.ROOT, "%.1f GB", gigabytes)
                        : diskLeft / 1_000_000 + " MB";
    }
}
