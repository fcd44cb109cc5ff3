package dachshund.core.window;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Period;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.time.temporal.TemporalAdjusters;
import java.time.temporal.TemporalUnit;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/**
 * Units that time is asked for in. Seconds, minutes and hours are of fixed length; the others are those of the plant's wall
 * clock, so that a day of a changeover has 23 or 25 hours. Weeks begin on Monday (ISO 8601).
 */
enum Unit {
    SECOND(ChronoUnit.SECONDS),
    MINUTE(ChronoUnit.MINUTES),
    HOUR(ChronoUnit.HOURS),
    DAY(ChronoUnit.DAYS),
    WEEK(ChronoUnit.WEEKS),
    MONTH(ChronoUnit.MONTHS),
    QUARTER(IsoFields.QUARTER_YEARS),
    YEAR(ChronoUnit.YEARS);

    private static final Map<String, Unit> SHORT =
            Map.of("s", SECOND, "sec", SECOND, "min", MINUTE, "m", MINUTE, "h", HOUR, "d", DAY);

    private final TemporalUnit step;

    Unit(TemporalUnit step) {
        this.step = step;
    }

    /** As people write it, in one or many. */
    static Optional<Unit> read(String word) {
        for (Unit each : values()) {
            if (word.equals(each.word()) || word.equals(each.word() + "s")) {
                return Optional.of(each);
            }
        }
        return Optional.ofNullable(SHORT.get(word));
    }

    String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** Whether its length is the same at all times. */
    boolean fixed() {
        return compareTo(HOUR) <= 0;
    }

    /** The instant so many of them later, or earlier where it is below zero. */
    Instant plus(Instant at, long many, Context in) {
        return fixed()
                ? at.plus(many, step)
                : in.at(at.atZone(in.zone()).toLocalDateTime().plus(many, step));
    }

    /** The whole one that runs at the instant, or one so many before it. */
    Span whole(Instant at, long back, Context in) {
        if (fixed()) {
            // An hour begins with the wall clock's, also where that is not a whole hour from UTC.
            long offset = in.zone().getRules().getOffset(at).getTotalSeconds();
            long length = step.getDuration().toSeconds();
            long from = Math.floorDiv(at.getEpochSecond() + offset, length) * length - offset - back * length;
            return new Span(Instant.ofEpochSecond(from), Instant.ofEpochSecond(from + length), false);
        }
        // By days, not by clock times: where the clock changes at midnight a day begins at one.
        LocalDate first = beginning(at.atZone(in.zone()).toLocalDate()).minus(back, step);
        return new Span(in.startOf(first), in.startOf(first.plus(1, step)), false);
    }

    private LocalDate beginning(LocalDate day) {
        return switch (this) {
            case WEEK -> day.with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY));
            case MONTH -> day.withDayOfMonth(1);
            case QUARTER -> day.withDayOfMonth(1).minus(Period.ofMonths((day.getMonthValue() - 1) % 3));
            case YEAR -> day.withDayOfYear(1);
            default -> day;
        };
    }
}
