package dachshund.core.tag;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Locale;

/** Values of tags as a person or a program types them, and back. */
public final class TagText {

    /** From here on not every whole number is a double. */
    private static final double MOST_EXACT = 9_007_199_254_740_992.0;

    private TagText() {}

    /**
     * Reads a value of a kind: Boolean, Long, Double (BigDecimal where a double would round a whole number), String or Instant.
     *
     * @throws IllegalArgumentException with a sentence
     */
    public static Object read(DataKind kind, String text) {
        String stripped = text.strip();
        return switch (kind) {
            case BOOLEAN ->
                switch (stripped.toLowerCase(Locale.ROOT)) {
                    case "true", "yes", "on", "1" -> true;
                    case "false", "no", "off", "0" -> false;
                    default -> throw new IllegalArgumentException("Write yes or no.");
                };
            case INTEGER -> {
                try {
                    yield new BigDecimal(stripped).longValueExact();
                } catch (NumberFormatException | ArithmeticException notWhole) {
                    throw new IllegalArgumentException("Write a whole number, such as 42.", notWhole);
                }
            }
            case UNSIGNED -> {
                try {
                    BigDecimal whole = new BigDecimal(new BigDecimal(stripped).toBigIntegerExact());
                    if (whole.signum() < 0) {
                        throw new IllegalArgumentException("Write a whole number from 0 on.");
                    }
                    yield whole.toBigInteger().bitLength() <= 63 ? (Object) whole.longValueExact() : whole;
                } catch (NumberFormatException | ArithmeticException notWhole) {
                    throw new IllegalArgumentException("Write a whole number, such as 42.", notWhole);
                }
            }
            case NUMBER -> {
                try {
                    BigDecimal exact = new BigDecimal(stripped);
                    double number = exact.doubleValue();
                    if (!Double.isFinite(number)) {
                        throw new IllegalArgumentException("This number is too large.");
                    }
                    // A whole number that a double would round is kept as it is.
                    boolean rounded = Math.abs(number) >= MOST_EXACT
                            && exact.scale() <= 0
                            && new BigDecimal(number).compareTo(exact) != 0;
                    yield rounded ? (Object) exact : (Object) number;
                } catch (NumberFormatException notANumber) {
                    throw new IllegalArgumentException("Write a number with a point, such as 12.5.", notANumber);
                }
            }
            case TIME -> {
                try {
                    yield Instant.parse(stripped);
                } catch (DateTimeParseException notATime) {
                    throw new IllegalArgumentException(
                            "Write a time in UTC like 2026-11-25T06:00:00Z (RFC 3339).", notATime);
                }
            }
            case TEXT, OTHER -> text;
        };
    }

    /** A value so that {@link #read} gives it back. */
    public static String write(Object value) {
        return value instanceof BigDecimal exact ? exact.toPlainString() : String.valueOf(value);
    }
}
