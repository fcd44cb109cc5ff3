package dachshund.core.window;

import dachshund.core.shift.ShiftCalendar;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;

/**
 * What the words of a window are meant in.
 *
 * @param now      the present
 * @param zone     plant time: days, weeks, months and years are those of its wall clock
 * @param calendar which shift runs when
 */
public record Context(Instant now, ZoneId zone, ShiftCalendar calendar) {

    LocalDate today() {
        return now.atZone(zone).toLocalDate();
    }

    /** A clock time that does not exist comes as much later as the clock jumps; of one that comes twice the first is meant. */
    Instant at(LocalDateTime local) {
        return local.atZone(zone).toInstant();
    }

    Instant startOf(LocalDate day) {
        return day.atStartOfDay(zone).toInstant();
    }
}
