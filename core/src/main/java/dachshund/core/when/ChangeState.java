package dachshund.core.when;

import dachshund.core.tag.Range;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/** Fires when a value has changed by more than its deadband. */
final class ChangeState implements WhenState {

    private final When.OnChange when;
    private final Collection<TagRef> tags;
    private final Map<TagRef, Counted> counted = new HashMap<>();
    private final Set<TagRef> pending = new LinkedHashSet<>();
    private Instant last = Instant.MIN;
    private Instant atLeast = Instant.MAX;

    /** A tag's deadband, and what last counted as a change of it; nothing before it has arrived. */
    private static final class Counted {
        private final double band;
        private TagValue value;

        private Counted(double band) {
            this.band = band;
        }
    }

    ChangeState(When.OnChange when, WhenFacts facts) {
        this.when = when;
        this.tags = when.tags().isEmpty() ? facts.rowTags() : when.tags();
        tags.forEach(tag -> counted.put(tag, new Counted(band(facts.ranges().apply(tag)))));
    }

    private double band(Optional<Range> range) {
        return switch (when.deadband().kind()) {
            case NONE -> 0;
            case ABSOLUTE -> when.deadband().amount();
            // A tag without a range has no span to take a part of: every change of it counts.
            case PERCENT ->
                range.map(span -> span.span() * when.deadband().amount() / 100).orElse(0.0);
        };
    }

    @Override
    public Collection<TagRef> tags() {
        return tags;
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        for (TagRef tag : tags) {
            TagValue value = values.apply(tag);
            if (value.arrived()) {
                counted.get(tag).value = value;
            }
        }
        atLeast = when.atLeast().isZero() ? Instant.MAX : now.plus(when.atLeast());
    }

    @Override
    public Instant next() {
        Instant over = pending.isEmpty() ? Instant.MAX : last.plus(when.notMoreOften());
        return over.isBefore(atLeast) ? over : atLeast;
    }

    @Override
    public List<Firing> time(Instant now) {
        Instant due = next();
        if (due.isAfter(now)) {
            return List.of();
        }
        Optional<Set<TagRef>> changed = pending.isEmpty() ? Optional.empty() : Optional.of(taken());
        // However late it is served, the values are those of now: so is the time.
        fired(now);
        return List.of(new Firing(now, Firing.Kind.ROW, changed));
    }

    /** Mostly one, for which a set is cheap. */
    private Set<TagRef> taken() {
        return pending.size() == 1 ? Set.of(pending.iterator().next()) : Set.copyOf(pending);
    }

    private void fired(Instant at) {
        last = at;
        pending.clear();
        atLeast = when.atLeast().isZero() ? Instant.MAX : at.plus(when.atLeast());
    }

    @Override
    public Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        if (changes.size() == 1 && when.notMoreOften().isZero()) {
            return changed(changes.get(0), now);
        }
        boolean any = false;
        for (TaggedValue change : changes) {
            if (counts(change.tag(), change.value())) {
                any = true;
                pending.add(change.tag());
            }
        }
        if (!any || !when.notMoreOften().isZero() && now.isBefore(last.plus(when.notMoreOften()))) {
            return Optional.empty();
        }
        Set<TagRef> changed = taken();
        fired(now);
        return Optional.of(Optional.of(changed));
    }

    /** Mostly it is one tag, of which every change counts: nothing waits then. */
    private Optional<Optional<Set<TagRef>>> changed(TaggedValue change, Instant now) {
        if (!counts(change.tag(), change.value())) {
            return Optional.empty();
        }
        fired(now);
        return Optional.of(Optional.of(Set.of(change.tag())));
    }

    /** Whether the value is a change of the tag; the first one that arrives is none. */
    private boolean counts(TagRef tag, TagValue value) {
        Counted of = counted.get(tag);
        if (of == null || of.value != null && !differs(of.value, value, of.band)) {
            return false;
        }
        TagValue before = of.value;
        of.value = value;
        return before != null;
    }

    private static boolean differs(TagValue before, TagValue now, double band) {
        if (before.quality().isBad() != now.quality().isBad()) {
            return true;
        }
        if (now.quality().isBad()) {
            return false;
        }
        if (band > 0
                && before.value().orElse(null) instanceof Number a
                && now.value().orElse(null) instanceof Number b) {
            return Math.abs(a.doubleValue() - b.doubleValue()) > band;
        }
        return !before.value().equals(now.value());
    }

    @Override
    public void clockSetBack(Instant now) {
        last = Instant.MIN;
        atLeast = when.atLeast().isZero() ? Instant.MAX : now.plus(when.atLeast());
    }
}
