package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * One When at work: logic over the clock and the values alone. The same inputs make it fire at the same instants. One
 * thread at a time.
 */
public interface WhenState {

    /** The tags whose changes it has to hear of. */
    default Collection<TagRef> tags() {
        return List.of();
    }

    /** Takes the values that are there at the start. None of them makes it fire. */
    void begin(Function<TagRef, TagValue> values, Instant now);

    /** The next instant at which {@link #time} has something to do; {@link Instant#MAX} for none. */
    Instant next();

    /** Everything that is due at the instant or before, in order. */
    List<Firing> time(Instant now);

    /**
     * Tags have new values, each tag once; those of them that are not its own are passed over.
     *
     * @return the tags that count as changed where it fires; empty where it does not
     */
    default Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        return Optional.empty();
    }

    /** The clock was set back: the next tick is the next one by the new time. */
    default void clockSetBack(Instant now) {}
}
