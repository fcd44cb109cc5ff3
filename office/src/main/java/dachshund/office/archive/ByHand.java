package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.WrittenTimes;
import dachshund.engine.Engine;
import dachshund.office.archive.ByHandTable.Entered;
import dachshund.office.tag.TagFinder.FoundTag;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * Values of the past that people or programs enter: a laboratory's result that comes late, a reading that was wrong. What was
 * there before stays, with who said otherwise and why.
 */
@Component
public class ByHand {

    private static final int LONGEST = 500;
    /** So long values of the moment take to the archive at the most, where it takes them. */
    private static final Duration ON_THEIR_WAY = Duration.ofMinutes(3);

    private final Engine engine;
    private final Histories histories;
    private final ByHandTable table;

    ByHand(Engine engine, Histories histories, ByHandTable table) {
        this.engine = engine;
        this.histories = histories;
        this.table = table;
    }

    /**
     * An instant as people type it: plant time, or with its offset from UTC.
     *
     * @throws IllegalArgumentException with a sentence, where it is none
     */
    public static Instant instant(String typed, ZoneId zone) {
        return WrittenTimes.like(typed, zone).read(typed);
    }

    /**
     * Puts a value where it belongs.
     *
     * @param value as tags have it; empty says that there was none that can be used
     * @param why   stands beside it for good
     * @return what the archive had at that instant
     * @throws IllegalArgumentException with a sentence, where it cannot be
     * @throws Problem                  where our own database does not take it: nothing is changed then
     */
    public Optional<Object> enter(FoundTag tag, Instant at, Optional<Object> value, String why, String who)
            throws Problem {
        if (why.isBlank()) {
            throw new IllegalArgumentException("Say why: it stands beside the value for good.");
        }
        if (why.length() > LONGEST) {
            throw new IllegalArgumentException("Say why in at most " + LONGEST + " letters.");
        }
        Instant now = engine.clock().now();
        if (at.isAfter(now)) {
            throw new IllegalArgumentException("This instant is still to come.");
        }
        if (at.isAfter(now.minus(ON_THEIR_WAY)) || !engine.archive().trouble().isEmpty()) {
            // What is still in the journal is stored later, and would take this one's place.
            throw new IllegalArgumentException(
                    "Values of that time may be on their way to the archive still. Enter it again in some minutes.");
        }
        KeptFor lasting = engine.archive()
                .ruleOf(tag.ref())
                .map(KeepingRuleDefinition::keptFor)
                .orElse(KeptFor.EVER);
        if (lasting.days() > 0 && at.isBefore(now.minusSeconds(86_400L * lasting.days()))) {
            throw new IllegalArgumentException(
                    "That is longer ago than the tag's rule keeps values (" + lasting.words() + ").");
        }
        long ticks = OpcUaTime.toTicks(at);
        long key = TagKey.of(tag.ref());
        Histories.History history = histories.read(tag.ref(), at, at.plusNanos(100));
        if (history.damaged() > 0) {
            throw new IllegalArgumentException(
                    "A block of the archive about that time was altered on disk, so nobody knows what was there.");
        }
        Series there = history.series();
        int place = there.before(ticks);
        boolean any = place < there.size() && there.time(place) == ticks && !Marks.isGap(there.mark(place));
        Optional<Object> was = any ? there.value(place) : Optional.empty();
        Arrivals one = new Arrivals();
        int mark = Marks.of(value.isPresent() ? Quality.GOOD : Quality.NOT_A_NUMBER, value.isPresent());
        one.add(ticks, Series.kept(value), Marks.byHand(mark));
        table.enter(
                Block.of(key, one.series()),
                new Tag(key, tag.ref(), tag.source().name() + " / " + tag.info().fullName(), lasting),
                new Entered(
                        ticks,
                        was.map(Object::toString),
                        any ? Optional.of(there.mark(place)) : Optional.empty(),
                        value.map(Object::toString),
                        why.strip(),
                        who,
                        now));
        return was;
    }

    /** What was entered of a tag in a half-open time, the newest entry first; of one instant there may be several. */
    public List<Entered> entered(TagRef tag, Instant from, Instant to) throws Problem {
        return table.entered(TagKey.of(tag), OpcUaTime.toTicks(from), OpcUaTime.toTicks(to));
    }
}
