package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.shift.ShiftCalendar;
import java.time.DayOfWeek;
import java.time.format.TextStyle;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;

/** The shift calendar, as the general parts know it. There is one. */
public final class ShiftCalendarKind extends DefinitionKind<ShiftCalendarDefinition> {

    public ShiftCalendarKind() {
        super(40, "SHIFT_CALENDAR", "Shift calendar", "shiftCalendar", ShiftCalendarDefinition.class);
    }

    @Override
    protected List<String> introduced(ShiftCalendarDefinition calendar, Named named) {
        return List.of("Shifts: " + shifts(calendar.calendar()) + ".");
    }

    @Override
    protected List<String> removed(ShiftCalendarDefinition calendar, Named named) {
        return List.of("There are no shifts any more.");
    }

    @Override
    protected void changed(ShiftCalendarDefinition a, ShiftCalendarDefinition b, Named named, Sentences sentences) {
        ShiftCalendar was = a.calendar();
        ShiftCalendar is = b.calendar();
        sentences.compare("Shifts", shifts(was), shifts(is));
        sentences.compare("Holidays", holidays(was), holidays(is));
        if (was.byBeginning() != is.byBeginning()) {
            sentences.add(
                    "A shift over midnight now belongs to the day it " + (is.byBeginning() ? "begins" : "ends") + ".");
        }
    }

    @Override
    public Optional<ShiftCalendarDefinition> duplicate(ShiftCalendarDefinition of, String id, String name) {
        return Optional.empty();
    }

    private static String shifts(ShiftCalendar calendar) {
        return calendar.shifts().stream()
                .map(shift -> shift.name() + " " + shift.start() + " to " + shift.end()
                        + (shift.days().size() == 7 ? "" : " on " + days(shift.days())))
                .collect(Collectors.joining(", "));
    }

    private static String days(Set<DayOfWeek> days) {
        return new TreeSet<>(days)
                .stream()
                        .map(day -> day.getDisplayName(TextStyle.SHORT, Locale.UK))
                        .collect(Collectors.joining(" "));
    }

    private static String holidays(ShiftCalendar calendar) {
        return calendar.holidays().stream()
                .map(holiday -> (holiday.date() + " " + holiday.name()).strip())
                .collect(Collectors.joining(", "));
    }
}
