package dachshund.core.when;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;

/**
 * The instants of {@link When.Every}. Each plant day begins its ticks anew at its first instant.
 * <ul>
 * <li>Up to one hour, ticks lie a period of elapsed time apart: a day of 23 or 25 hours has every one of them, and
 * none twice.</li>
 * <li>Above one hour, ticks keep to the plant's clock on the wall (every 8 h is 00:00, 08:00, 16:00 also on the day of
 * a changeover). A clock time that does not exist that day comes as much later as the clock jumps; of one that
 * comes twice the first is taken.</li>
 * </ul>
 * A period that does not divide the day leaves a shorter step before midnight.
 */
public final class RateSchedule {

    private static final long HOUR_NANOS = Duration.ofHours(1).toNanos();

    private final long periodNanos;
    private final ZoneId zone;

    public RateSchedule(Duration period, ZoneId zone) {
        this.periodNanos = period.toNanos();
        this.zone = zone;
    }

    /** The first tick strictly after the instant. */
    public Instant next(Instant after) {
        LocalDate day = after.atZone(zone).toLocalDate();
        Instant dayStart = day.atStartOfDay(zone).toInstant();
        Instant nextDay = day.plusDays(1).atStartOfDay(zone).toInstant();
        Instant tick = periodNanos <= HOUR_NANOS ? byElapsed(after, dayStart) : byWallClock(after, day, nextDay);
        return tick.isBefore(nextDay) ? tick : nextDay;
    }

    private Instant byElapsed(Instant after, Instant dayStart) {
        long elapsed = Duration.between(dayStart, after).toNanos();
        return dayStart.plusNanos((elapsed / periodNanos + 1) * periodNanos);
    }

    private Instant byWallClock(Instant after, LocalDate day, Instant nextDay) {
        long dayNanos = Duration.ofDays(1).toNanos();
        for (long wall = 0; wall < dayNanos; wall += periodNanos) {
            Instant tick = wall == 0
                    ? day.atStartOfDay(zone).toInstant()
                    : day.atTime(LocalTime.ofNanoOfDay(wall)).atZone(zone).toInstant();
            if (tick.isAfter(after)) {
                return tick;
            }
        }
        return nextDay;
    }
}
