package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;

/** Fires at clock times. Times that passed while nothing ran are written late, skipped or marked. */
final class ClockState implements WhenState {

    /** A time served so late was missed: the application did not run, or the machine slept. */
    static final Duration PUNCTUAL = Duration.ofMinutes(1);
    /** More missed times than this are not gone through; the oldest are passed over. */
    static final int MOST_MISSED = 100;

    private final ClockTimes times;
    private final When.Missed missed;
    private final Optional<Instant> served;
    private Instant next = Instant.MAX;

    ClockState(ClockTimes times, When.Missed missed, Optional<Instant> served) {
        this.times = times;
        this.missed = missed;
        this.served = served;
    }

    @Override
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        next = after(served.filter(before -> before.isBefore(now)).orElse(now));
    }

    private Instant after(Instant instant) {
        return times.next(instant).orElse(Instant.MAX);
    }

    @Override
    public Instant next() {
        return next;
    }

    @Override
    public List<Firing> time(Instant now) {
        List<Instant> passed = new ArrayList<>();
        List<Firing> due = new ArrayList<>(1);
        while (!next.isAfter(now)) {
            if (Duration.between(next, now).compareTo(PUNCTUAL) > 0) {
                passed.add(next);
                if (passed.size() > MOST_MISSED) {
                    passed.remove(0);
                }
            } else {
                due.add(Firing.row(next));
            }
            next = after(next);
        }
        List<Firing> all = new ArrayList<>(missed(passed, now));
        all.addAll(due);
        return all;
    }

    private List<Firing> missed(List<Instant> passed, Instant now) {
        return switch (missed) {
            case SKIP -> passed.stream().map(Firing::skipped).toList();
            case MARK ->
                passed.stream()
                        .map(at -> new Firing(at, Firing.Kind.MARK, Optional.empty()))
                        .toList();
            // One row with the time and the values of now stands for all of them.
            case RUN_LATE -> passed.isEmpty() ? List.of() : List.of(Firing.row(now));
        };
    }

    @Override
    public void clockSetBack(Instant now) {
        next = after(now);
    }
}
