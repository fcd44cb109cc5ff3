package dachshund.core.shift;

import java.time.DayOfWeek;
import java.time.LocalTime;
import java.util.Set;

/**
 * A named shift.
 *
 * @param start in plant time
 * @param end   in plant time; not after {@code start} means on the next day
 * @param days  the days on which it begins
 */
public record Shift(String name, LocalTime start, LocalTime end, Set<DayOfWeek> days) {

    public Shift {
        days = Set.copyOf(days);
    }

    public boolean overMidnight() {
        return !end.isAfter(start);
    }
}
