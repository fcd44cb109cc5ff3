package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.List;
import java.util.function.Function;

/** Of a When that something else brings about: neither the clock nor a value makes it fire. */
final class NeverState implements WhenState {

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        // No value matters.
    }

    @Override
    public Instant next() {
        return Instant.MAX;
    }

    @Override
    public List<Firing> time(Instant now) {
        return List.of();
    }
}
