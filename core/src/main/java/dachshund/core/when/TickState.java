package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import java.util.function.UnaryOperator;

/** Fires at a steady rate. A tick that is more than a period late is skipped: no row gets a past time and present values. */
final class TickState implements WhenState {

    private final Duration period;
    private final boolean fromStart;
    private final UnaryOperator<Instant> schedule;
    private Instant next = Instant.MAX;

    /** @param schedule the first tick after an instant, where the rate is aligned to the clock */
    TickState(When.Every every, UnaryOperator<Instant> schedule) {
        this.period = every.period();
        this.fromStart = every.fromStart();
        this.schedule = fromStart ? tick -> tick.plus(every.period()) : schedule;
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        next = schedule.apply(now);
    }

    @Override
    public Instant next() {
        return next;
    }

    @Override
    public List<Firing> time(Instant now) {
        List<Firing> due = new ArrayList<>(1);
        Instant longPast = LongPast.before(now, period);
        if (next.isBefore(longPast)) {
            Instant on = fromStart ? LongPast.next(next, longPast, period) : schedule.apply(longPast);
            LongPast.skip(next, on, period, due);
            next = on;
        }
        while (!next.isAfter(now)) {
            boolean late = Duration.between(next, now).compareTo(period) > 0;
            due.add(late ? Firing.skipped(next) : Firing.row(next));
            next = schedule.apply(next);
        }
        return due;
    }

    @Override
    public void clockSetBack(Instant now) {
        next = schedule.apply(now);
    }
}
