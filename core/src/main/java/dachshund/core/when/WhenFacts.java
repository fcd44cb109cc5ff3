package dachshund.core.when;

import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagRef;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/**
 * What Whens need to know beside the values.
 *
 * @param rowTags the tags of the row, which an on-change When without tags of its own looks at
 * @param ranges  the range of a tag, for a deadband in percent; a tag without one has none
 * @param served  until when clock times were served before; empty where the recorder is new
 */
public record WhenFacts(
        ZoneId zone,
        ShiftCalendar shifts,
        Collection<TagRef> rowTags,
        Function<TagRef, Optional<Range>> ranges,
        Optional<Instant> served) {

    public WhenFacts {
        rowTags = List.copyOf(rowTags);
    }

    public static WhenFacts of(ZoneId zone) {
        return new WhenFacts(zone, ShiftCalendar.NONE, List.of(), tag -> Optional.empty(), Optional.empty());
    }
}
