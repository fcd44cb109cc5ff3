package dachshund.web.when;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.time.PeriodText;
import dachshund.core.when.RateSchedule;
import dachshund.core.when.When;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;

/**
 * The When ribbon: a stretch of time around now drawn to scale, with a tick for each row that the Whens would have written
 * or will write, and the gate's open spans. Positions are in pixels of a drawing {@value #WIDTH} wide.
 *
 * @param ticks    where rows fall
 * @param open     where the gate is open
 * @param labels   times along the ribbon
 * @param sentence what the ribbon shows, in words
 */
public record Ribbon(List<Tick> ticks, List<Band> open, List<Label> labels, double now, String sentence) {

    public static final int WIDTH = 1200;
    private static final int LABEL_ROOM = 28;
    private static final int MOST_TICKS = 600;
    private static final Duration BY_VALUES = Duration.ofMinutes(20);
    private static final Duration[] SPANS = {
        Duration.ofSeconds(20),
        Duration.ofMinutes(2),
        Duration.ofMinutes(20),
        Duration.ofHours(3),
        Duration.ofHours(24),
        Duration.ofDays(6)
    };

    /** A row that would be written. */
    public record Tick(double x, boolean past) {}

    /** A stretch of the ribbon. */
    public record Band(double x, double width) {}

    /** A time at a place. */
    public record Label(double x, Instant at) {}

    /** The stretch of time that suits a recorder: a dozen ticks of its fastest rate, twenty minutes for what depends on values. */
    public static Duration span(RecorderDefinition recorder) {
        Duration span = SPANS[SPANS.length - 1];
        for (When when : recorder.whens()) {
            Duration own =
                    switch (when.pace()) {
                        case RATE -> spanOf(when.rate().orElseThrow());
                        case CLOCK -> Duration.ofHours(24);
                        case VALUES, ELSEWHERE -> BY_VALUES;
                    };
            span = own.compareTo(span) < 0 ? own : span;
        }
        return recorder.whens().isEmpty() ? BY_VALUES : span;
    }

    public static Ribbon of(RecorderDefinition recorder, Rehearsal.Rehearsed rehearsed, Instant now, ZoneId zone) {
        Duration span = span(recorder);
        Instant from = now.minus(span.dividedBy(2));
        Instant to = from.plus(span);
        List<Tick> ticks = Stream.concat(rehearsed.past().stream(), rehearsed.next().stream())
                .filter(at -> !at.isBefore(from) && at.isBefore(to))
                .limit(MOST_TICKS)
                .map(at -> new Tick(x(from, span, at), !at.isAfter(now)))
                .toList();
        List<Band> open = rehearsed.open().stream()
                .filter(each -> each.to().isAfter(from))
                .map(each -> {
                    double start = Math.max(0, x(from, span, each.from()));
                    return new Band(start, Math.max(1, Math.min(WIDTH, x(from, span, each.to())) - start));
                })
                .toList();
        List<Label> labels = new ArrayList<>();
        RateSchedule marks = new RateSchedule(markEvery(span), zone);
        for (Instant mark = marks.next(from); mark.isBefore(to); mark = marks.next(mark)) {
            double x = x(from, span, mark);
            if (x > LABEL_ROOM && x < WIDTH - LABEL_ROOM) {
                labels.add(new Label(x, mark));
            }
        }
        return new Ribbon(ticks, open, labels, x(from, span, now), "the ribbon shows " + PeriodText.write(span));
    }

    private static Duration spanOf(Duration fastest) {
        for (Duration span : SPANS) {
            if (fastest.multipliedBy(12).compareTo(span) <= 0) {
                return span;
            }
        }
        return SPANS[SPANS.length - 1];
    }

    private static Duration markEvery(Duration span) {
        long seconds = span.toSeconds();
        for (long step : new long[] {5, 30, 300, 1800, 14_400, 86_400}) {
            if (seconds / step <= 8) {
                return Duration.ofSeconds(step);
            }
        }
        return Duration.ofDays(1);
    }

    private static double x(Instant from, Duration span, Instant at) {
        return Math.round(Duration.between(from, at).toMillis() * 10.0 * WIDTH / span.toMillis()) / 10.0;
    }
}
