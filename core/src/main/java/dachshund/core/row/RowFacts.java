package dachshund.core.row;

import dachshund.core.equipment.PropertyLookup;
import dachshund.core.shift.ShiftCalendar;
import java.time.ZoneId;

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
        ZoneId zone,
        PropertyLookup properties) {

    /** Of a recorder without equipment, shifts or properties. */
    public static RowFacts of(String recorder, ZoneId zone) {
        return new RowFacts(recorder, "", "", "", ShiftCalendar.NONE, zone, PropertyLookup.NONE);
    }
}
