package dachshund.core.reader;

import dachshund.core.time.WrittenTimes;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.Optional;
import java.util.function.Function;

/** The column of a table that says when something was, and how it is written there. */
public record TimeColumn(String name, Form form) {

    /** How a column holds its times. */
    public enum Form {
        STAMP("a time stamp or date"),
        SECONDS("seconds since 1970, UTC"),
        MILLIS("milliseconds since 1970, UTC"),
        /** As in ISO 8601, with a blank or T between date and time, and an offset from UTC or none. */
        TEXT("a text such as 2026-11-27 06:00:00");

        private final String words;

        Form(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        public static Form named(String name) {
            for (Form each : values()) {
                if (each.name().equals(name)) {
                    return each;
                }
            }
            throw new IllegalArgumentException("There is no way to hold times that is called \"" + name + "\".");
        }
    }

    /** The form that a column of this sort usually has. */
    public static Form usual(TableShape.Column column) {
        return switch (column.sort()) {
            case NUMBER -> Form.SECONDS;
            case TEXT -> Form.TEXT;
            default -> Form.STAMP;
        };
    }

    /**
     * Makes instants of cells, one after the other, as long as they are written alike; none of what is no time, and of a text
     * that names an hour that was there twice, since the clock was set back.
     *
     * @param zone of times that say none
     */
    public Function<Object, Optional<Instant>> reading(ZoneId zone) {
        WrittenTimes[] texts = new WrittenTimes[1];
        return cell -> {
            try {
                return Optional.ofNullable(
                        switch (form) {
                            case STAMP ->
                                cell instanceof Instant at
                                        ? at
                                        : cell instanceof LocalDate day
                                                ? day.atStartOfDay(zone).toInstant()
                                                : null;
                            case SECONDS -> cell instanceof Number number ? since1970(number, 0) : null;
                            case MILLIS -> cell instanceof Number number ? since1970(number, -3) : null;
                            case TEXT -> {
                                if (!(cell instanceof String text)) {
                                    yield null;
                                }
                                if (texts[0] == null) {
                                    texts[0] = WrittenTimes.like(text, zone);
                                }
                                yield texts[0].read(text);
                            }
                        });
            } catch (IllegalArgumentException | ArithmeticException | DateTimeException none) {
                return Optional.empty();
            }
        };
    }

    private static Instant since1970(Number number, int power) {
        BigDecimal seconds = new BigDecimal(number.toString()).scaleByPowerOfTen(power);
        BigDecimal whole = seconds.setScale(0, java.math.RoundingMode.FLOOR);
        return Instant.ofEpochSecond(
                whole.longValueExact(),
                seconds.subtract(whole).movePointRight(9).longValue());
    }
}
