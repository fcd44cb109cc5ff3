package dachshund.core.query;

import dachshund.core.reader.QueryProblem;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.Locale;

/**
 * A named parameter of a query.
 *
 * @param name  as it stands behind the colon
 * @param start what it is where nobody says anything else; empty for nothing, which is asked for then
 * @param list  id of a saved query whose first column has the values to choose from; empty for none. Others may be typed as well
 */
public record QueryParameter(String name, Sort sort, String start, String list) {

    public QueryParameter(String name, Sort sort, String start) {
        this(name, sort, start, "");
    }

    /** What its values are. */
    public enum Sort {
        TEXT("text"),
        NUMBER("number"),
        DATE("date"),
        /** A date with a time of day, in plant time. */
        TIME("time"),
        TRUTH("yes or no");

        private final String words;

        Sort(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** One that can be bound, where only that matters. */
        public String any() {
            return switch (this) {
                case TEXT -> "";
                case NUMBER -> "0";
                case DATE -> "2026-01-01";
                case TIME -> "2026-01-01 00:00:00";
                case TRUTH -> "no";
            };
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        public static Sort named(String name) {
            for (Sort each : values()) {
                if (each.name().equals(name)) {
                    return each;
                }
            }
            throw new IllegalArgumentException("There is no kind of parameter that is called \"" + name + "\".");
        }
    }

    /**
     * What is bound: String, BigDecimal, LocalDate, Instant or Boolean.
     *
     * @param zone of plant time
     * @throws QueryProblem with a sentence that names the parameter
     */
    public Object value(String typed, ZoneId zone) throws QueryProblem {
        String text = sort == Sort.TEXT ? typed : typed.strip();
        if (text.isEmpty() && sort != Sort.TEXT) {
            throw new QueryProblem("Say what " + name + " is: a " + sort.words() + ".");
        }
        try {
            return switch (sort) {
                case TEXT -> text;
                case NUMBER -> new BigDecimal(text);
                case DATE -> LocalDate.parse(text);
                case TIME -> time(text, zone);
                case TRUTH -> truth(text);
            };
        } catch (DateTimeException | IllegalArgumentException no) {
            throw new QueryProblem("\"" + text + "\" is no " + sort.words() + " for " + name + "." + example());
        }
    }

    private static Instant time(String text, ZoneId zone) {
        return dachshund.core.time.WrittenTimes.like(text, zone).read(text);
    }

    private static boolean truth(String text) {
        return switch (text.toLowerCase(Locale.ROOT)) {
            case "yes", "true", "1" -> true;
            case "no", "false", "0" -> false;
            default -> throw new IllegalArgumentException(text);
        };
    }

    private String example() {
        return switch (sort) {
            case TEXT -> "";
            case NUMBER -> " Write it with a point, such as 12.5.";
            case DATE -> " Write it as 2026-11-28.";
            case TIME -> " Write it as 2026-11-28 06:00:00.";
            case TRUTH -> " Write yes or no.";
        };
    }
}
