package dachshund.core.definition;

import dachshund.core.shift.ShiftCalendar;

/** The plant's shift calendar; there is one. */
public record ShiftCalendarDefinition(String id, String name, String description, ShiftCalendar calendar)
        implements Definition {

    /** The id of the one calendar. */
    public static final String ID = "000000ca";

    public static ShiftCalendarDefinition of(ShiftCalendar calendar) {
        return new ShiftCalendarDefinition(ID, "Shift calendar", "", calendar);
    }
}
