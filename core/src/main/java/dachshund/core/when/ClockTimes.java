package dachshund.core.when;

import dachshund.core.shift.ShiftCalendar;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Optional;

/** Instants by a clock on the wall. */
@FunctionalInterface
public interface ClockTimes {

    /** The first instant strictly after the given one; empty where none comes. */
    Optional<Instant> next(Instant after);

    /**
     * Times of day on days of the week. A time that does not exist on the day of a changeover comes as much later as the
     * clock jumps; of one that comes twice the first is taken; two times that fall on one instant are one.
     */
    static ClockTimes of(When.AtTimes at, ZoneId plant) {
        ZoneId zone = at.utc() ? ZoneOffset.UTC : plant;
        return after -> {
            LocalDate day = after.atZone(zone).toLocalDate();
            for (int ahead = 0; ahead <= 8; ahead++) {
                LocalDate each = day.plusDays(ahead);
                if (!at.days().contains(each.getDayOfWeek())) {
                    continue;
                }
                Instant first = Instant.MAX;
                for (LocalTime time : at.times()) {
                    Instant instant = each.atTime(time).atZone(zone).toInstant();
                    first = instant.isAfter(after) && instant.isBefore(first) ? instant : first;
                }
                if (!first.equals(Instant.MAX)) {
                    return Optional.of(first);
                }
            }
            return Optional.empty();
        };
    }

    static ClockTimes ofShiftEnds(ShiftCalendar shifts, ZoneId plant) {
        return after -> shifts.nextEnd(after, plant);
    }

    static ClockTimes of(When.ByCron cron, ZoneId plant) {
        return new CronSchedule(cron.line(), cron.utc() ? ZoneOffset.UTC : plant);
    }
}
