package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/** What is kept of tags, as a run asks for it: up to the instant at which it asks. From any thread. */
public interface PastValues {

    /** A time in which a tag had one value; half-open. */
    record Held(Instant from, Instant to) {}

    /**
     * What is computed of a tag's values.
     *
     * @param from inclusive
     * @param to   exclusive
     * @return a number, of a text its first or last value; null where nothing good is known
     * @throws StoreProblem with a sentence, where it cannot be said now
     */
    Object computed(TagRef tag, Calculation what, Instant from, Instant to) throws StoreProblem;

    /**
     * The time in which a tag has had the value that it has at an instant; bad values between are passed over.
     *
     * @param before whether the time of the value before that one is wanted
     * @param most   how far back it is looked for; what began earlier begins there
     * @return empty where there is no such value
     */
    Optional<Held> held(TagRef tag, Instant at, boolean before, Duration most) throws StoreProblem;
}
