package dachshund.core.row;

import dachshund.core.equipment.PropertyLookup;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.shift.ShiftOfRow;
import dachshund.core.shift.Worked;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;

/**
 * What a row says beside its tags.
 *
 * @param equipmentId   the recorder's equipment; empty for none
 * @param equipmentName its name; empty for none
 * @param zone          plant time
 */
public record RowFacts(
        String recorder,
        String site,
        String equipmentId,
        String equipmentName,
        ShiftCalendar shifts,
        ShiftOfRow belongs,
        ZoneId zone,
        PropertyLookup properties) {

    /** The shift that a row belongs to. */
    public Optional<Worked> shift(Instant recordTime) {
        return belongs.of(shifts, recordTime, zone);
    }

    /** Of a recorder without equipment, shifts or properties. */
    public static RowFacts of(String recorder, ZoneId zone) {
        return new RowFacts(recorder, "", "", "", ShiftCalendar.NONE, ShiftOfRow.RUNNING, zone, PropertyLookup.NONE);
    }
}
