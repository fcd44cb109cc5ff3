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

/** Fires when a condition becomes true, false, or either. */
final class ConditionEdge implements WhenState {

    private final When.OnCondition when;
    private final ConditionState condition;
    private final Settled<Boolean> settled;
    private Instant look = Instant.MAX;

    ConditionEdge(When.OnCondition when) {
        this.when = when;
        this.condition = new ConditionState(when.condition());
        this.settled = new Settled<>(when.debounce(), when.holdOff());
    }

    @Override
    public Collection<TagRef> tags() {
        return condition.tags();
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        condition.tags().forEach(tag -> condition.take(tag, values.apply(tag), now));
        settled.begin(condition.value(now).orElse(null));
        look = condition.timed() ? now.plus(ConditionState.LOOK) : Instant.MAX;
    }

    @Override
    public Instant next() {
        return settled.ripe().isBefore(look) ? settled.ripe() : look;
    }

    @Override
    public List<Firing> time(Instant now) {
        Optional<Instant> at = fires(settled.time(now));
        if (!look.isAfter(now)) {
            look = now.plus(ConditionState.LOOK);
            at = at.or(() -> fires(settled.take(condition.value(now).orElse(null), now)));
        }
        return at.map(Firing::row).map(List::of).orElse(List.of());
    }

    @Override
    public Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        if (!condition.take(changes, now)) {
            return Optional.empty();
        }
        return fires(settled.take(condition.value(now).orElse(null), now)).map(at -> Optional.empty());
    }

    private Optional<Instant> fires(Optional<Settled.Step<Boolean>> step) {
        Optional<Instant> at = step.filter(each -> switch (when.edge()) {
                    case RISING -> each.to();
                    case FALLING -> !each.to();
                    case BOTH -> true;
                })
                .map(Settled.Step::at);
        at.ifPresent(settled::fired);
        return at;
    }

    @Override
    public void clockSetBack(Instant now) {
        look = condition.timed() ? now.plus(ConditionState.LOOK) : Instant.MAX;
    }
}
