package dachshund.core.when;

import dachshund.core.tag.TagRef;
import java.time.Instant;
import java.util.Optional;
import java.util.Set;

/**
 * A When says that a row is due.
 *
 * @param at      the record time: the scheduled instant, or that of the change
 * @param kind    what is to be done about it
 * @param changed the tags whose change it was; empty where it was something else
 * @param times   for how many ticks it stands, of which this is the first; more than 1 for skipped ones only
 */
public record Firing(Instant at, Kind kind, Optional<Set<TagRef>> changed, long times) {

    /** For one tick. */
    public Firing(Instant at, Kind kind, Optional<Set<TagRef>> changed) {
        this(at, kind, changed, 1);
    }

    /** What is to be done. */
    public enum Kind {
        /** Write a row of the values of now. */
        ROW,
        /** It is too late for that: count it. */
        SKIPPED,
        /** Write a row without values: nobody knows what they were. */
        MARK
    }

    static Firing row(Instant at) {
        return new Firing(at, Kind.ROW, Optional.empty());
    }

    static Firing skipped(Instant at) {
        return skipped(at, 1);
    }

    static Firing skipped(Instant first, long times) {
        return new Firing(first, Kind.SKIPPED, Optional.empty(), times);
    }
}
