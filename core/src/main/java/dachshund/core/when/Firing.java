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
 */
public record Firing(Instant at, Kind kind, Optional<Set<TagRef>> changed) {

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
        return new Firing(at, Kind.SKIPPED, Optional.empty());
    }
}
