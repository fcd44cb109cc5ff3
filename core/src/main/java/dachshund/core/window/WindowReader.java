package dachshund.core.window;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Reads a {@link Window}. Words in any case; what it cannot read it names with its place. */
final class WindowReader {

    private static final Pattern WORD = Pattern.compile("[^\\s,]+|,");
    private static final Pattern DATE = Pattern.compile("\\d{4}-\\d{2}-\\d{2}");
    private static final Pattern TIME = Pattern.compile("\\d{1,2}:\\d{2}(:\\d{2}([.]\\d{1,9})?)?");
    private static final Pattern LOCAL =
            Pattern.compile("(\\d{4}-\\d{2}-\\d{2})t(\\d{2}:\\d{2}(?::\\d{2}(?:[.]\\d{1,9})?)?)");
    private static final Pattern EXACT = Pattern.compile("\\d{4}-\\d{2}-\\d{2}t.*(z|[+-]\\d{2}:?\\d{2})");
    private static final Pattern MONTH = Pattern.compile("(\\d{4})-(\\d{2})");
    private static final Pattern ISO_WEEK = Pattern.compile("(\\d{4})-?w(\\d{2})");
    private static final Pattern MANY_UNITS = Pattern.compile("(\\d+)([a-z]+)");
    private static final Set<String> THIS = Set.of("this", "current");
    private static final Set<String> PREVIOUS = Set.of("previous", "prior");
    private static final String HOW =
            " Write for example last 15 min, today, previous shift, week 47, 2026-11-01 06:00 to 14:00, or since 06:00.";

    private record Word(String text, int from, int to) {}

    private final String text;
    private final List<Word> words = new ArrayList<>();
    private int at;

    WindowReader(String text) {
        this.text = text;
        Matcher found = WORD.matcher(text);
        while (found.find()) {
            split(found.group().toLowerCase(Locale.ROOT), found.start());
        }
    }

    /** 15min is 15 min. */
    private void split(String word, int from) {
        Matcher many = MANY_UNITS.matcher(word);
        if (many.matches() && Unit.read(many.group(2)).isPresent()) {
            words.add(new Word(many.group(1), from, from + many.end(1)));
            words.add(new Word(many.group(2), from + many.start(2), from + word.length()));
        } else {
            words.add(new Word(word, from, from + word.length()));
        }
    }

    Window read() throws WindowProblem {
        if (words.isEmpty()) {
            throw new WindowProblem("A window is needed." + HOW, 0, text.length());
        }
        Asked asked = asked();
        long earlier = 0;
        Unit by = Unit.SECOND;
        if (is(",")) {
            at++;
            Earlier read = earlier();
            earlier = read.many();
            by = read.unit();
        }
        if (at < words.size()) {
            throw here("Up to here it is clear; this is one word too many, or it is missing a comma before it.");
        }
        return new Window(text.strip(), asked, earlier, by);
    }

    private record Earlier(long many, Unit unit) {}

    /** A week earlier; 3 days earlier; yesterday, the same time; the same time last week. */
    private Earlier earlier() throws WindowProblem {
        boolean before = takeTheSameTime();
        Earlier read;
        if (is("yesterday")) {
            at++;
            read = new Earlier(1, Unit.DAY);
        } else if (is("previous") || is("last")) {
            at++;
            read = new Earlier(1, unit());
        } else if (is("a") || is("an") || is("one")) {
            at++;
            read = new Earlier(1, unit());
            word("earlier", "before", "ago");
        } else {
            read = new Earlier(many(), unit());
            word("earlier", "before", "ago");
        }
        if (!before && is(",")) {
            at++;
            if (!takeTheSameTime()) {
                throw here("Behind this comma comes the same time, or nothing.");
            }
        } else if (!before) {
            takeTheSameTime();
        }
        return read;
    }

    private boolean takeTheSameTime() {
        int began = at;
        if (is("at")) {
            at++;
        }
        if (is("the")) {
            at++;
        }
        if (is("same")) {
            at++;
            if (is("time")) {
                at++;
                return true;
            }
        }
        at = began;
        return false;
    }

    private Asked asked() throws WindowProblem {
        Word first = words.get(at);
        if (is("last") || is("past")) {
            at++;
            if (Unit.read(peek()).isPresent() || is("shift")) {
                throw new WindowProblem(
                        "\"last " + peek() + "\" can mean two things. Write previous " + peek() + ", or last 1 "
                                + peek() + ".",
                        first.from(),
                        words.get(at).to());
            }
            return new Asked.Last(many(), unit());
        }
        if (is("since")) {
            at++;
            return new Asked.Between(point(), new Point.Now());
        }
        if (is("from")) {
            at++;
        }
        if (THIS.contains(peek()) || PREVIOUS.contains(peek())) {
            return whole(THIS.contains(peek()) ? 0 : 1);
        }
        if (is("week")) {
            at++;
            return week();
        }
        Optional<Asked> named = calendar();
        named = named.isPresent() ? named : ago();
        named = named.isPresent() ? named : shiftOn();
        return named.isPresent() ? named.get() : fromPoint();
    }

    private Asked whole(int back) throws WindowProblem {
        at++;
        if (is("shift")) {
            at++;
            return new Asked.OfShift("", back);
        }
        Optional<Unit> unit = Unit.read(peek());
        if (unit.isPresent()) {
            at++;
            return new Asked.Whole(unit.get(), back);
        }
        String name = nameBeforeShift();
        if (!name.isEmpty()) {
            return new Asked.OfShift(name, back);
        }
        throw here("Here comes hour, day, week, month, quarter, year, shift, or the name of a shift and shift.");
    }

    /** The words up to the word shift, as they were written, if it comes; empty where it does not. */
    private String nameBeforeShift() {
        for (int i = at; i < words.size() && !words.get(i).text().equals(","); i++) {
            if (words.get(i).text().equals("shift") && i > at) {
                String name =
                        text.substring(words.get(at).from(), words.get(i - 1).to());
                at = i + 1;
                return name;
            }
        }
        return "";
    }

    private Asked week() throws WindowProblem {
        int week = number(1, 53, "A week has a number from 1 to 53.");
        OptionalInt year = OptionalInt.empty();
        if (is("of")) {
            at++;
            year = OptionalInt.of(year());
        } else if (peek().matches("\\d{4}")) {
            year = OptionalInt.of(year());
        }
        return new Asked.IsoWeek(week, year);
    }

    /** What the calendar has a name for: 2026-W47, 2026-11, november 2026, 2026. */
    private Optional<Asked> calendar() throws WindowProblem {
        Matcher week = ISO_WEEK.matcher(peek());
        if (week.matches()) {
            at++;
            return Optional.of(new Asked.IsoWeek(
                    Integer.parseInt(week.group(2)), OptionalInt.of(Integer.parseInt(week.group(1)))));
        }
        Matcher month = MONTH.matcher(peek());
        if (month.matches()) {
            int number = Integer.parseInt(month.group(2));
            if (number < 1 || number > 12) {
                throw here("There are 12 months.");
            }
            at++;
            return Optional.of(new Asked.OfMonth(number, OptionalInt.of(Integer.parseInt(month.group(1)))));
        }
        for (Month each : Month.values()) {
            if (peek().length() >= 3 && each.name().toLowerCase(Locale.ROOT).startsWith(peek())) {
                at++;
                return Optional.of(new Asked.OfMonth(
                        each.getValue(), peek().matches("\\d{4}") ? OptionalInt.of(year()) : OptionalInt.empty()));
            }
        }
        if (peek().matches("\\d{4}")
                && (at + 1 == words.size() || words.get(at + 1).text().equals(","))) {
            return Optional.of(new Asked.OfYear(year()));
        }
        return Optional.empty();
    }

    /** 3 days ago: the whole day. */
    private Optional<Asked> ago() throws WindowProblem {
        int began = at;
        if (!peek().matches("\\d{1,9}")
                || at + 2 >= words.size()
                || !words.get(at + 2).text().equals("ago")) {
            return Optional.empty();
        }
        long many = many();
        if (peek().equals("shift") || peek().equals("shifts")) {
            at += 2;
            return Optional.of(new Asked.OfShift("", many));
        }
        Optional<Unit> unit = Unit.read(peek());
        if (unit.isEmpty()) {
            at = began;
            return Optional.empty();
        }
        at += 2;
        return Optional.of(new Asked.Whole(unit.get(), many));
    }

    /** Early shift yesterday. */
    private Optional<Asked> shiftOn() {
        int began = at;
        String name = nameBeforeShift();
        if (name.isEmpty()) {
            return Optional.empty();
        }
        if (is("of") || is("on")) {
            at++;
        }
        try {
            Optional<Point.Day> day = day();
            if (day.isPresent()) {
                return Optional.of(new Asked.ShiftOn(name, day.get()));
            }
        } catch (WindowProblem none) {
            // it is read as something else, and said there
        }
        at = began;
        return Optional.empty();
    }

    private Asked fromPoint() throws WindowProblem {
        int began = at;
        Point from = point();
        if (is("to") || is("until") || is("-")) {
            at++;
            return new Asked.Between(from, point());
        }
        if (is("for")) {
            at++;
            return new Asked.For(from, many(), unit());
        }
        if (from instanceof Point.OnDay day && day.time().isEmpty()) {
            return new Asked.OnDay(day.on().orElseThrow());
        }
        throw new WindowProblem(
                "This is where a window begins, but not where it ends. Write to and a time behind it, for and how long, or since before it.",
                words.get(began).from(),
                text.length());
    }

    private Point point() throws WindowProblem {
        if (is("now")) {
            at++;
            return new Point.Now();
        }
        if (EXACT.matcher(peek()).matches()) {
            return new Point.Exact(exact());
        }
        Matcher local = LOCAL.matcher(peek());
        if (local.matches()) {
            Point point = new Point.OnDay(
                    Optional.of(new Point.Day.Dated(date(local.group(1)))), Optional.of(time(local.group(2))), false);
            at++;
            return point;
        }
        Optional<Point.Day> day = day();
        Optional<LocalTime> time = Optional.empty();
        if (is("at")
                && at + 1 < words.size()
                && TIME.matcher(words.get(at + 1).text()).matches()) {
            at++;
        }
        if (TIME.matcher(peek()).matches()) {
            time = Optional.of(time(peek()));
            at++;
        }
        if (day.isEmpty() && time.isEmpty()) {
            throw here(at == words.size() ? "Here a time is missing." : "\"" + peek() + "\" is not understood here.");
        }
        boolean utc = is("utc");
        at += utc ? 1 : 0;
        return new Point.OnDay(day, time, utc);
    }

    private Optional<Point.Day> day() throws WindowProblem {
        Optional<Point.Day> day = Optional.empty();
        if (DATE.matcher(peek()).matches()) {
            day = Optional.of(new Point.Day.Dated(date(peek())));
        } else if (is("today")) {
            day = Optional.of(new Point.Day.Back(0));
        } else if (is("yesterday")) {
            day = Optional.of(new Point.Day.Back(1));
        } else {
            for (DayOfWeek each : DayOfWeek.values()) {
                if (each.name().toLowerCase(Locale.ROOT).equals(peek())) {
                    day = Optional.of(new Point.Day.Weekday(each));
                }
            }
        }
        at += day.isPresent() ? 1 : 0;
        return day;
    }

    private LocalDate date(String word) throws WindowProblem {
        try {
            return LocalDate.parse(word);
        } catch (DateTimeParseException none) {
            throw here("There is no day " + word + ". Write year-month-day, such as 2026-11-01.");
        }
    }

    private LocalTime time(String word) throws WindowProblem {
        try {
            return LocalTime.parse(word.length() > 1 && word.charAt(1) == ':' ? "0" + word : word);
        } catch (DateTimeParseException none) {
            throw here(
                    word.startsWith("24:")
                            ? "A day ends where the next one begins: write 00:00 and the day after."
                            : "There is no clock time " + word + ". Write hours and minutes, such as 06:00.");
        }
    }

    private Instant exact() throws WindowProblem {
        try {
            Instant instant =
                    OffsetDateTime.parse(peek().toUpperCase(Locale.ROOT)).toInstant();
            at++;
            return instant;
        } catch (DateTimeException none) {
            throw here(
                    "This is no time. With an offset it is written as 2026-11-01T06:00:00Z or 2026-11-01T07:00:00+01:00.");
        }
    }

    private long many() throws WindowProblem {
        return number(1, 1_000_000, "Here comes a whole number from 1 to 1,000,000.");
    }

    private int year() throws WindowProblem {
        return number(1601, 9998, "Years are from 1601 to 9998.");
    }

    private int number(int least, int most, String problem) throws WindowProblem {
        if (!peek().matches("\\d{1,9}")) {
            throw here(problem);
        }
        int number = Integer.parseInt(peek());
        if (number < least || number > most) {
            throw here(problem);
        }
        at++;
        return number;
    }

    private Unit unit() throws WindowProblem {
        Unit unit = Unit.read(peek())
                .orElseThrow(
                        () -> here("Here comes a unit of time: s, min, h, days, weeks, months, quarters or years."));
        at++;
        return unit;
    }

    private void word(String... any) throws WindowProblem {
        if (!Set.of(any).contains(peek())) {
            throw here("Here comes " + any[0] + ".");
        }
        at++;
    }

    /** The next word; empty at the end. */
    private String peek() {
        return at < words.size() ? words.get(at).text() : "";
    }

    private boolean is(String word) {
        return peek().equals(word);
    }

    private WindowProblem here(String sentence) {
        boolean end = at >= words.size();
        return new WindowProblem(
                sentence + (at == 0 ? HOW : ""),
                end ? text.length() : words.get(at).from(),
                end ? text.length() : words.get(at).to());
    }
}
