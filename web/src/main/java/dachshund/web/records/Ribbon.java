package dachshund.web.records;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.time.PeriodText;
import dachshund.core.when.RateSchedule;
import dachshund.core.when.When;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * The When ribbon: a stretch of time around now drawn to scale, with a tick for each row that the Whens would write.
 * Positions are in pixels of a drawing {@value #WIDTH} wide.
 *
 * @param ticks    where rows fall
 * @param labels   times along the ribbon
 * @param sentence what the ribbon shows, in words and numbers
 */
record Ribbon(List<Tick> ticks, List<Label> labels, double now, String sentence) {

    static final int WIDTH = 1200;
    private static final int LABEL_ROOM = 28;
    private static final int MOST_TICKS = 400;
    private static final Duration[] SPANS = {Duration.ofSeconds(20), Duration.ofMinutes(2), Duration.ofMinutes(20), Duration.ofHours(3),
            Duration.ofHours(24), Duration.ofDays(6)};

    /** A row that would be written. */
    public record Tick(double x, boolean past) {
    }

    /** A time at a place. */
    public record Label(double x, Instant at) {
    }

    static Ribbon of(RecorderDefinition recorder, Instant now, ZoneId zone) {
        Duration fastest = recorder.whens().stream().map(when -> ((When.Every) when).period()).min(Duration::compareTo).orElse(Duration.ofSeconds(1));
        Duration span = span(fastest);
        Instant from = now.minus(span.dividedBy(2));
        Instant to = from.plus(span);
        List<Tick> ticks = new ArrayList<>();
        int all = 0;
        for (When when : recorder.whens()) {
            RateSchedule schedule = new RateSchedule(((When.Every) when).period(), zone);
            for (Instant tick = schedule.next(from.minusNanos(1)); tick.isBefore(to) && all < MOST_TICKS; tick = schedule.next(tick)) {
                ticks.add(new Tick(x(from, span, tick), !tick.isAfter(now)));
                all++;
            }
        }
        List<Label> labels = new ArrayList<>();
        RateSchedule marks = new RateSchedule(markEvery(span), zone);
        for (Instant mark = marks.next(from); mark.isBefore(to); mark = marks.next(mark)) {
            double x = x(from, span, mark);
            if (x > LABEL_ROOM && x < WIDTH - LABEL_ROOM) {
                labels.add(new Label(x, mark));
            }
        }
        long perHour = recorder.whens().stream().mapToLong(when -> Math.round(3_600_000.0 / ((When.Every) when).period().toMillis())).sum();
        long perDay = recorder.whens().stream().mapToLong(when -> Math.round(86_400_000.0 / ((When.Every) when).period().toMillis())).sum();
        String rows = perHour >= 1 ? String.format(Locale.UK, "%,d rows an hour, %,d a day", perHour, perDay) : String.format(Locale.UK, "%,d rows a day", perDay);
        return new Ribbon(ticks, labels, x(from, span, now), rows + " · the ribbon shows " + PeriodText.write(span));
    }

    private static Duration span(Duration fastest) {
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
