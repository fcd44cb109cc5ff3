package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * Fires at a rate while a condition is true, first when it becomes true. One that is true already when it is first known does
 * not fire at once. While it is unknown it does not fire.
 */
final class WhileState implements WhenState {

    private final ConditionState condition;
    private final Duration period;
    private boolean on;
    /** What it was when it was known last; empty before. */
    private Optional<Boolean> known = Optional.empty();

    private Instant tick = Instant.MAX;
    private Instant look = Instant.MAX;

    WhileState(When.WhileTrue when) {
        this.condition = new ConditionState(when.condition());
        this.period = when.period();
    }

    @Override
    public Collection<TagRef> tags() {
        return condition.tags();
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        condition.tags().forEach(tag -> condition.take(tag, values.apply(tag), now));
        known = condition.value(now);
        on = known.orElse(false);
        tick = on ? now.plus(period) : Instant.MAX;
        look = condition.timed() ? now.plus(ConditionState.LOOK) : Instant.MAX;
    }

    @Override
    public Instant next() {
        return tick.isBefore(look) ? tick : look;
    }

    @Override
    public List<Firing> time(Instant now) {
        List<Firing> due = new ArrayList<>(1);
        if (!look.isAfter(now)) {
            look = now.plus(ConditionState.LOOK);
            if (turned(now)) {
                due.add(Firing.row(now));
            }
        }
        Instant longPast = LongPast.before(now, period);
        if (tick.isBefore(longPast)) {
            Instant on = LongPast.next(tick, longPast, period);
            LongPast.skip(tick, on, period, due);
            tick = on;
        }
        while (!tick.isAfter(now)) {
            due.add(Duration.between(tick, now).compareTo(period) > 0 ? Firing.skipped(tick) : Firing.row(tick));
            tick = tick.plus(period);
        }
        return due;
    }

    @Override
    public Optional<Optional<Set<TagRef>>> changed(List<TaggedValue> changes, Instant now) {
        return condition.take(changes, now) && turned(now) ? Optional.of(Optional.empty()) : Optional.empty();
    }

    /** Whether the condition has become true. */
    private boolean turned(Instant now) {
        boolean was = on;
        Optional<Boolean> value = condition.value(now);
        boolean rose = value.orElse(false) && !known.orElse(true);
        known = value.or(() -> known);
        on = value.orElse(false);
        if (on != was) {
            tick = on ? now.plus(period) : Instant.MAX;
        }
        return rose;
    }

    @Override
    public void clockSetBack(Instant now) {
        tick = on ? now.plus(period) : Instant.MAX;
        look = condition.timed() ? now.plus(ConditionState.LOOK) : Instant.MAX;
    }
}
