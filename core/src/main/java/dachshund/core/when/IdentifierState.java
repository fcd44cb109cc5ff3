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

/** Fires when an identifier becomes another one. */
final class IdentifierState implements WhenState {

    private final TagRef tag;
    private final Settled<String> settled;

    IdentifierState(When.OnIdentifier when) {
        this.tag = when.tag();
        this.settled = new Settled<>(when.debounce(), when.holdOff());
    }

    @Override
    public Collection<TagRef> tags() {
        return List.of(tag);
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        settled.begin(identifier(values.apply(tag)));
    }

    private static String identifier(TagValue value) {
        return value.quality().isBad()
                ? null
                : value.value().map(Object::toString).orElse("");
    }

    @Override
    public Instant next() {
        return settled.ripe();
    }

    @Override
    public List<Firing> time(Instant now) {
        return fires(settled.time(now)).map(Firing::row).map(List::of).orElse(List.of());
    }

    @Override
    public Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        return changes.stream()
                .filter(change -> change.tag().equals(tag))
                .findFirst()
                .flatMap(change -> fires(settled.take(identifier(change.value()), now)))
                .map(at -> Optional.empty());
    }

    private Optional<Instant> fires(Optional<Settled.Step<String>> step) {
        Optional<Instant> at = step.map(Settled.Step::at);
        at.ifPresent(settled::fired);
        return at;
    }
}
