package dachshund.core.window;

import dachshund.core.shift.Shift;
import dachshund.core.shift.Worked;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Year;
import java.time.YearMonth;
import java.time.temporal.IsoFields;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.stream.Collectors;

/** What was asked for, before it is known when now is. */
sealed interface Asked {

    /** How far back a shift is looked for. */
    int SHIFT_DAYS = 400;

    /** @throws Unresolved with a sentence, where it comes to nothing */
    Span span(Context in) throws Unresolved;

    /** There is no such time. */
    final class Unresolved extends Exception {
        private static final long serialVersionUID = 1;

        Unresolved(String sentence) {
            super(sentence, null, false, false);
        }
    }

    private static Span fixed(Instant from, Instant to) {
        return new Span(from, to, false);
    }

    /** So much until now. */
    record Last(long many, Unit unit) implements Asked {
        @Override
        public Span span(Context in) {
            return new Span(unit.plus(in.now(), -many, in), in.now(), true);
        }
    }

    /** A whole hour, day, week, month, quarter or year: the one that runs, or one before it. */
    record Whole(Unit unit, long back) implements Asked {
        @Override
        public Span span(Context in) {
            return unit.whole(in.now(), back, in);
        }
    }

    /** A day. */
    record OnDay(Point.Day day) implements Asked {
        @Override
        public Span span(Context in) {
            LocalDate date = day.date(in);
            return fixed(in.startOf(date), in.startOf(date.plusDays(1)));
        }
    }

    /** A week of ISO 8601; without a year the last one of this number that has begun. */
    record IsoWeek(int week, OptionalInt year) implements Asked {
        @Override
        public Span span(Context in) throws Unresolved {
            int present = in.today().get(IsoFields.WEEK_BASED_YEAR);
            for (int of = year.orElse(present); of > year.orElse(present) - 30; of--) {
                LocalDate within = LocalDate.of(of, 7, 1);
                if (within.range(IsoFields.WEEK_OF_WEEK_BASED_YEAR).isValidValue(week)) {
                    LocalDate monday =
                            within.with(IsoFields.WEEK_OF_WEEK_BASED_YEAR, week).with(java.time.DayOfWeek.MONDAY);
                    if (year.isPresent() || !monday.isAfter(in.today())) {
                        return fixed(in.startOf(monday), in.startOf(monday.plusWeeks(1)));
                    }
                } else if (year.isPresent()) {
                    throw new Unresolved(of + " has no week " + week + ": its last is week "
                            + within.range(IsoFields.WEEK_OF_WEEK_BASED_YEAR).getMaximum() + ".");
                }
            }
            throw new Unresolved("There is no week " + week + ": a year has 52 or 53.");
        }
    }

    /** A month; without a year the last one of this name that has begun. */
    record OfMonth(int month, OptionalInt year) implements Asked {
        @Override
        public Span span(Context in) {
            YearMonth present = YearMonth.from(in.today());
            YearMonth asked = YearMonth.of(year.orElse(present.getYear()), month);
            if (year.isEmpty() && asked.isAfter(present)) {
                asked = asked.minusYears(1);
            }
            return fixed(
                    in.startOf(asked.atDay(1)), in.startOf(asked.plusMonths(1).atDay(1)));
        }
    }

    record OfYear(int year) implements Asked {
        @Override
        public Span span(Context in) {
            return fixed(
                    in.startOf(Year.of(year).atDay(1)),
                    in.startOf(Year.of(year + 1).atDay(1)));
        }
    }

    record Between(Point from, Point to) implements Asked {
        @Override
        public Span span(Context in) {
            Instant first = from.first(in);
            if (to instanceof Point.OnDay clock && clock.on().isEmpty()) {
                // 22:00 to 06:00 ends on the day after.
                LocalDate day = from.day(clock.zoned(in));
                Instant same = clock.on(day, in);
                return fixed(first, same.isAfter(first) ? same : clock.on(day.plusDays(1), in));
            }
            return new Span(first, to.last(in), to instanceof Point.Now);
        }
    }

    record For(Point from, long many, Unit unit) implements Asked {
        @Override
        public Span span(Context in) {
            Instant first = from.first(in);
            return fixed(first, unit.plus(first, many, in));
        }
    }

    /**
     * A shift.
     *
     * @param name which; empty for any
     * @param back 0 for the one that runs, 1 for the one that ended last, and so on
     */
    record OfShift(String name, long back) implements Asked {
        @Override
        public Span span(Context in) throws Unresolved {
            known(name, in);
            List<Worked> begun =
                    in.calendar().starting(in.today().minusDays(SHIFT_DAYS), in.today(), in.zone()).stream()
                            .filter(each -> name.isEmpty() || each.shift().equalsIgnoreCase(name))
                            .filter(each -> !each.from().isAfter(in.now()))
                            .sorted(Comparator.comparing(Worked::from).reversed())
                            .toList();
            Optional<Worked> runs =
                    begun.stream().findFirst().filter(each -> each.to().isAfter(in.now()));
            if (back == 0) {
                return of(runs.orElseThrow(() -> new Unresolved("No shift runs now. Ask for the previous shift.")));
            }
            return of(begun.stream()
                    .filter(each -> !each.to().isAfter(in.now()))
                    .skip(back - 1)
                    .findFirst()
                    .orElseThrow(
                            () -> new Unresolved("So many shifts ago there was none within " + SHIFT_DAYS + " days.")));
        }

        private static Span of(Worked shift) {
            return fixed(shift.from(), shift.to());
        }

        static void known(String name, Context in) throws Unresolved {
            List<Shift> shifts = in.calendar().shifts();
            if (shifts.isEmpty()) {
                throw new Unresolved("There is no shift calendar yet. It is made under Plant.");
            }
            if (!name.isEmpty() && shifts.stream().noneMatch(each -> each.name().equalsIgnoreCase(name))) {
                throw new Unresolved("There is no shift named " + name + ". The calendar has "
                        + shifts.stream().map(Shift::name).collect(Collectors.joining(", ")) + ".");
            }
        }
    }

    /** The shift of a name that belongs to a day. */
    record ShiftOn(String name, Point.Day day) implements Asked {
        @Override
        public Span span(Context in) throws Unresolved {
            OfShift.known(name, in);
            LocalDate date = day.date(in);
            Worked found = in.calendar().starting(date.minusDays(1), date, in.zone()).stream()
                    .filter(each ->
                            each.shift().equalsIgnoreCase(name) && each.date().equals(date))
                    .findFirst()
                    .orElseThrow(() -> new Unresolved("There is no " + name + " shift on " + date + "."));
            return OfShift.of(found);
        }
    }
}
