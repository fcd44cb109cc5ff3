package dachshund.core.window;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.format.DateTimeFormatter;
import java.util.Locale;

/**
 * A span of time in words, the same everywhere: {@code last 15 min}, {@code today}, {@code previous shift}, {@code week 47},
 * {@code 2026-11-01 06:00 to 14:00}, {@code since 06:00}, each also earlier by some time: {@code today, a week earlier}.
 * Immutable; what it comes to depends on when it is asked, and where.
 */
public final class Window {

    /** Ways to say it, for whoever begins to type. */
    public static final java.util.List<String> EXAMPLES = java.util.List.of(
            "last 15 min",
            "last 24 h",
            "today",
            "yesterday",
            "this shift",
            "previous shift",
            "this week",
            "previous week",
            "this month",
            "previous month",
            "since 06:00");

    private static final Instant FIRST = Instant.parse("1601-01-01T00:00:00Z");
    private static final Instant END = Instant.parse("9999-12-31T00:00:00Z");
    private static final DateTimeFormatter SHOWN = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss", Locale.ROOT);

    private final String text;
    private final Asked asked;
    private final long earlier;
    private final Unit by;

    /** @param earlier so many units before what is asked for; 0 for none */
    Window(String text, Asked asked, long earlier, Unit by) {
        this.text = text;
        this.asked = asked;
        this.earlier = earlier;
        this.by = by;
    }

    /** @throws WindowProblem with a sentence and the place, where it cannot be read */
    public static Window read(String text) throws WindowProblem {
        return new WindowReader(text).read();
    }

    /** As it was written. */
    public String text() {
        return text;
    }

    /**
     * What it comes to. Right over changeovers of the clock: a day has the 23, 24 or 25 hours that it has in plant time.
     *
     * @throws WindowProblem with a sentence, where it ends before it begins, lies in the future, or names a shift that is none
     */
    public Span span(Context in) throws WindowProblem {
        try {
            Span span = asked.span(in);
            if (earlier > 0) {
                span = new Span(by.plus(span.from(), -earlier, in), by.plus(span.to(), -earlier, in), false);
            }
            if (!span.from().isBefore(span.to())) {
                throw problem("This window ends before it begins: from " + shown(span.from(), in) + " to "
                        + shown(span.to(), in) + ".");
            }
            if (span.from().isAfter(in.now())) {
                throw problem("This window lies in the future: it begins at " + shown(span.from(), in)
                        + ", and now it is " + shown(in.now(), in) + ".");
            }
            if (span.from().isBefore(FIRST) || span.to().isAfter(END)) {
                throw problem("Times are from the year 1601 on, and before 9999-12-31.");
            }
            return span;
        } catch (Asked.Unresolved none) {
            throw problem(none.getMessage());
        } catch (DateTimeException | ArithmeticException tooFar) {
            throw problem("This is too far away. Times are from the year 1601 on, and before 9999-12-31.");
        }
    }

    private static String shown(Instant at, Context in) {
        return SHOWN.format(at.atZone(in.zone()));
    }

    private WindowProblem problem(String sentence) {
        return new WindowProblem(sentence, 0, text.length());
    }

    @Override
    public String toString() {
        return text;
    }
}
