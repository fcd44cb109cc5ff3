package dachshund.core.when;

import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagRef;
import java.time.Duration;
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
 * @param settle  how long after the number of a request its values are looked at
 */
public record WhenFacts(
        ZoneId zone,
        ShiftCalendar shifts,
        Collection<TagRef> rowTags,
        Function<TagRef, Optional<Range>> ranges,
        Optional<Instant> served,
        Duration settle) {

    public WhenFacts {
        rowTags = List.copyOf(rowTags);
    }

    /** Where a request's values are there with its number. */
    public WhenFacts(
            ZoneId zone,
            ShiftCalendar shifts,
            Collection<TagRef> rowTags,
            Function<TagRef, Optional<Range>> ranges,
            Optional<Instant> served) {
        this(zone, shifts, rowTags, ranges, served, Duration.ZERO);
    }

    public static WhenFacts of(ZoneId zone) {
        return new WhenFacts(zone, ShiftCalendar.NONE, List.of(), tag -> Optional.empty(), Optional.empty());
    }
}
