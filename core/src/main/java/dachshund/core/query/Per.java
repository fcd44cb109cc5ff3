package dachshund.core.query;

import dachshund.core.reader.Period;
import dachshund.core.reader.Periods;
import dachshund.core.reader.QueryProblem;
import dachshund.core.shift.Worked;
import dachshund.core.window.Context;
import dachshund.core.window.Span;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.time.temporal.TemporalAdjusters;
import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;

/**
 * The periods of a window in plant time, as a table that a query may join: {@code :shifts} has a row a shift, and so on. So they
 * mean the same on every engine, and days have 23 or 25 hours where the clock is changed.
 */
public enum Per {
    QUARTER_HOUR("15 minutes", "quarter_hours"),
    HOUR("hour", "hours"),
    SHIFT("shift", "shifts"),
    DAY("day", "days"),
    WEEK("week", "weeks"),
    MONTH("month", "months");

    /** As many as every engine takes values for in one statement (SQLite: 32,766, its documentation, "Maximum Number Of Host Parameters"). */
    public static final int MOST = 8000;

    private static final DateTimeFormatter HOUR_OF_DAY = DateTimeFormatter.ofPattern("HH:mm");
    private static final DateTimeFormatter MONTH_OF_YEAR = DateTimeFormatter.ofPattern("yyyy-MM");

    private final String words;
    private final String table;

    Per(String words, String table) {
        this.words = words;
        this.table = table;
    }

    public String words() {
        return words;
    }

    /** As it is written behind a colon; with a suffix where its times are written otherwise. */
    public String table() {
        return table;
    }

    /** Every name of its table: by instants, by what a wall clock shows, in seconds, in milliseconds. */
    public List<String> tables() {
        return List.of(table, table + "_local", table + "_s", table + "_ms");
    }

    /** Whether a period has a name beside its beginning. */
    public boolean named() {
        return this != HOUR && this != QUARTER_HOUR;
    }

    /** @throws IllegalArgumentException with a sentence, where there is none of that name */
    public static Per of(String name) {
        for (Per each : values()) {
            if (each.name().equals(name)) {
                return each;
            }
        }
        throw new IllegalArgumentException("There is no period that is called \"" + name + "\".");
    }

    /**
     * All that have a part in the window, whole.
     *
     * @throws QueryProblem where there are too many of them, or none, since no shift is known
     */
    public List<Period> in(Span span, Context here) throws QueryProblem {
        List<Period> all = this == SHIFT ? shifts(span, here) : others(span, here);
        if (all.isEmpty() && this == SHIFT) {
            throw new QueryProblem(
                    "There is no shift in this window. Say which shifts there are, in Plant, or take days.");
        }
        return all;
    }

    private static List<Period> shifts(Span span, Context here) throws QueryProblem {
        LocalDate first = span.from().atZone(here.zone()).toLocalDate().minusDays(2);
        LocalDate last = span.to().atZone(here.zone()).toLocalDate();
        few(ChronoUnit.DAYS.between(first, last));
        List<Period> all = here.calendar().starting(first, last, here.zone()).stream()
                .filter(worked ->
                        worked.to().isAfter(span.from()) && worked.from().isBefore(span.to()))
                .map((Worked worked) -> new Period(worked.shift(), worked.from(), worked.to()))
                .toList();
        few(all.size());
        return all;
    }

    private List<Period> others(Span span, Context here) throws QueryProblem {
        ZonedDateTime begin = span.from().atZone(here.zone());
        UnaryOperator<ZonedDateTime> next;
        switch (this) {
            case QUARTER_HOUR -> {
                begin = begin.truncatedTo(ChronoUnit.HOURS).plusMinutes(begin.getMinute() / 15 * 15L);
                next = at -> at.plus(Duration.ofMinutes(15));
            }
            case HOUR -> {
                begin = begin.truncatedTo(ChronoUnit.HOURS);
                next = at -> at.plus(Duration.ofHours(1));
            }
            case WEEK -> {
                begin = begin.toLocalDate()
                        .with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY))
                        .atStartOfDay(here.zone());
                next = at -> at.toLocalDate().plusWeeks(1).atStartOfDay(here.zone());
            }
            case MONTH -> {
                begin = begin.toLocalDate().withDayOfMonth(1).atStartOfDay(here.zone());
                next = at -> at.toLocalDate().plusMonths(1).atStartOfDay(here.zone());
            }
            default -> {
                begin = begin.toLocalDate().atStartOfDay(here.zone());
                next = at -> at.toLocalDate().plusDays(1).atStartOfDay(here.zone());
            }
        }
        List<Period> all = new ArrayList<>();
        for (ZonedDateTime at = begin; at.toInstant().isBefore(span.to()); ) {
            ZonedDateTime end = next.apply(at);
            all.add(new Period(name(at), at.toInstant(), end.toInstant()));
            few(all.size());
            at = end;
        }
        return all;
    }

    private String name(ZonedDateTime at) {
        return switch (this) {
            case WEEK -> at.get(IsoFields.WEEK_BASED_YEAR) + " week " + at.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR);
            case MONTH -> MONTH_OF_YEAR.format(at);
            case DAY -> at.toLocalDate().toString();
            default -> HOUR_OF_DAY.format(at);
        };
    }

    private static void few(long count) throws QueryProblem {
        if (count > MOST) {
            throw new QueryProblem("This window has more than " + MOST
                    + " periods of this length. Take a shorter window, or longer periods.");
        }
    }

    /**
     * The table that a name behind a colon means.
     *
     * @param name one of {@link #tables}
     */
    public static Periods table(String name, Span span, Context here) throws QueryProblem {
        for (Per per : values()) {
            int at = per.tables().indexOf(name);
            if (at >= 0) {
                return new Periods(Periods.Written.values()[at], per.in(span, here));
            }
        }
        throw new IllegalArgumentException(name);
    }
}
