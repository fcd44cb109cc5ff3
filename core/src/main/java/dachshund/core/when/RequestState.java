package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * Fires for each request once. Without an epoch, the number that is answered tells which were done; with one, whoever carries a
 * request out has to know by itself, since a number that is answered may be one of the counting before.
 */
final class RequestState implements WhenState {

    private static final String NONE = "";

    private final When.OnRequest when;
    private final List<TagRef> tags;
    private final Duration settle;
    private final Map<TagRef, TagValue> values = new HashMap<>();
    /** The last request that was fired, or found answered; null before the first look. */
    private String decided;

    private Instant waits = Instant.MAX;

    /** @param settle from the number to the firing, for a plant that writes its number before its data */
    RequestState(When.OnRequest when, Duration settle) {
        this.when = when;
        this.tags = when.epoch().map(epoch -> List.of(when.number(), epoch)).orElseGet(() -> List.copyOf(when.tags()));
        this.settle = settle;
    }

    @Override
    public Collection<TagRef> tags() {
        return tags;
    }

    @Override
    public void begin(Function<TagRef, TagValue> first, Instant now) {
        tags.forEach(tag -> values.put(tag, first.apply(tag)));
        if (when.epoch().isEmpty() && when.answered().isEmpty()) {
            // Nobody could tell whether the one that stands there was answered.
            decided = asked().orElse(null);
        }
        waits = asked().isPresent() ? now : Instant.MAX;
    }

    @Override
    public Instant next() {
        return waits;
    }

    @Override
    public List<Firing> time(Instant now) {
        if (now.isBefore(waits)) {
            return List.of();
        }
        waits = Instant.MAX;
        return decide() ? List.of(Firing.row(now)) : List.of();
    }

    @Override
    public Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        boolean own = false;
        for (TaggedValue change : changes) {
            if (tags.contains(change.tag())) {
                values.put(change.tag(), change.value());
                own = true;
            }
        }
        if (own && !settle.isZero()) {
            waits = waits.equals(Instant.MAX) && undecided() ? now.plus(settle) : waits;
            return Optional.empty();
        }
        return own && decide() ? Optional.of(Optional.empty()) : Optional.empty();
    }

    private boolean undecided() {
        return asked().filter(request -> !request.equals(decided)).isPresent();
    }

    /** Whether there is a request that was not fired yet; it counts as fired from then on. */
    private boolean decide() {
        if (!undecided()) {
            return false;
        }
        decided = asked().orElseThrow();
        waits = Instant.MAX;
        return !decided.equals(NONE) && !answered();
    }

    /** The present request, {@link #NONE} where there is none; empty while it is not known. */
    private Optional<String> asked() {
        Optional<String> number = text(when.number());
        Optional<String> epoch =
                when.epoch().isEmpty() ? Optional.of("") : when.epoch().flatMap(this::text);
        boolean known = when.epoch().isPresent()
                || when.answered().map(tag -> text(tag).isPresent()).orElse(true);
        if (number.isEmpty() || epoch.isEmpty() || !known) {
            return Optional.empty();
        }
        return Optional.of(When.OnRequest.asks(number.get()) ? epoch.get() + "/" + number.get() : NONE);
    }

    private boolean answered() {
        return when.epoch().isEmpty() && when.answered().flatMap(this::text).equals(text(when.number()));
    }

    private Optional<String> text(TagRef tag) {
        TagValue value = values.getOrDefault(tag, TagValue.NONE);
        return value.quality().isBad()
                ? Optional.empty()
                : Optional.of(value.value().map(When.OnRequest::plain).orElse(""));
    }
}
