package dachshund.core.window;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.TemporalAdjusters;
import java.util.Optional;

/** Where a window begins or ends. */
sealed interface Point {

    /** The instant; of a whole day its first. */
    Instant first(Context in);

    /** The instant; of a whole day the first after it. */
    default Instant last(Context in) {
        return first(in);
    }

    /** The day it is on, for an end of which a clock time is given only. */
    default LocalDate day(Context in) {
        return first(in).atZone(in.zone()).toLocalDate();
    }

    /** The present. */
    record Now() implements Point {
        @Override
        public Instant first(Context in) {
            return in.now();
        }
    }

    /** An instant that says its offset from UTC. */
    record Exact(Instant at) implements Point {
        @Override
        public Instant first(Context in) {
            return at;
        }
    }

    /** A day, or a clock time on it. Without a day it is today, as an end the day of the beginning or the next one. */
    record OnDay(Optional<Day> on, Optional<LocalTime> time, boolean utc) implements Point {

        @Override
        public Instant first(Context in) {
            return on(on.orElse(new Day.Back(0)).date(zoned(in)), in);
        }

        Context zoned(Context in) {
            return utc ? new Context(in.now(), ZoneOffset.UTC, in.calendar()) : in;
        }

        Instant on(LocalDate date, Context in) {
            Context there = zoned(in);
            return time.map(at -> there.at(date.atTime(at))).orElseGet(() -> there.startOf(date));
        }

        @Override
        public Instant last(Context in) {
            return time.isPresent()
                    ? first(in)
                    : on(on.orElse(new Day.Back(0)).date(zoned(in)).plusDays(1), in);
        }
    }

    /** A day, said in one of several ways. */
    sealed interface Day {

        LocalDate date(Context in);

        record Dated(LocalDate date) implements Day {
            @Override
            public LocalDate date(Context in) {
                return date;
            }
        }

        /** Today is 0, yesterday 1. */
        record Back(long days) implements Day {
            @Override
            public LocalDate date(Context in) {
                return in.today().minusDays(days);
            }
        }

        /** The last of them that has begun. */
        record Weekday(DayOfWeek day) implements Day {
            @Override
            public LocalDate date(Context in) {
                return in.today().with(TemporalAdjusters.previousOrSame(day));
            }
        }
    }
}
