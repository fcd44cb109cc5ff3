package dachshund.core.row;

import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.format.DateTimeParseException;

/**
 * Turns a tag's value into what a column of a type holds. A decimal rounds half up to its declared digits, and a time
 * stamp is cut to its declared fraction: that is what declaring them means. Everything else either fits exactly or is
 * refused with a sentence; nothing is silently cut, clipped or guessed.
 */
public final class Conversion {

    private static final Instant FIRST = Instant.parse("1000-01-01T00:00:00Z");
    private static final Instant LAST = Instant.parse("9999-12-31T23:59:59.999999999Z");

    private Conversion() {
    }

    /** A value does not fit its column. The message is a sentence without its subject: "is 300 characters long; …". */
    public static final class DoesNotFit extends Exception {
        DoesNotFit(String predicate) {
            super(predicate, null, false, false);
        }
    }

    /**
     * @param value a Boolean, any Number, String or Instant
     * @return Boolean, Long, BigDecimal, Double, String or Instant, as the type needs
     */
    public static Object convert(Object value, SqlType type) throws DoesNotFit {
        return switch (type.family()) {
            case BOOLEAN -> toBoolean(value);
            case SMALLINT -> whole(value, Short.MIN_VALUE, Short.MAX_VALUE, type);
            case INTEGER -> whole(value, Integer.MIN_VALUE, Integer.MAX_VALUE, type);
            case BIGINT -> whole(value, Long.MIN_VALUE, Long.MAX_VALUE, type);
            case DECIMAL -> toDecimal(value, type);
            case DOUBLE -> toDouble(value);
            case TEXT -> toText(value, type);
            case TIMESTAMP -> toTimestamp(value, type);
        };
    }

    private static Boolean toBoolean(Object value) throws DoesNotFit {
        if (value instanceof Boolean b) {
            return b;
        }
        String text = value instanceof Number ? number(value).stripTrailingZeros().toPlainString() : value.toString().strip();
        if (text.equals("1") || text.equalsIgnoreCase("true")) {
            return true;
        }
        if (text.equals("0") || text.equalsIgnoreCase("false")) {
            return false;
        }
        throw new DoesNotFit("is " + shown(value) + ", which is neither true nor false");
    }

    private static Long whole(Object value, long least, long most, SqlType type) throws DoesNotFit {
        if (value instanceof Long exact && exact >= least && exact <= most) {
            return exact;
        }
        BigDecimal number = number(value);
        BigInteger whole;
        try {
            whole = number.toBigIntegerExact();
        } catch (ArithmeticException hasDecimals) {
            throw new DoesNotFit("is " + shown(value) + "; " + type.words() + " holds no decimals");
        }
        if (whole.bitLength() > 63 || whole.longValue() < least || whole.longValue() > most) {
            throw new DoesNotFit("is " + shown(value) + "; " + type.words() + " holds " + least + " to " + most);
        }
        return whole.longValue();
    }

    private static BigDecimal toDecimal(Object value, SqlType type) throws DoesNotFit {
        BigDecimal number = number(value).setScale(type.scale(), RoundingMode.HALF_UP);
        if (number.precision() - number.scale() > type.size() - type.scale()) {
            throw new DoesNotFit("is " + shown(value) + "; " + type.words() + " holds "
                    + (type.size() - type.scale()) + " digits before the point");
        }
        return number;
    }

    private static Double toDouble(Object value) throws DoesNotFit {
        if (value instanceof Double d) {
            return d;
        }
        double number = number(value).doubleValue();
        if (!Double.isFinite(number)) {
            throw new DoesNotFit("is " + shown(value) + ", beyond what a double holds");
        }
        if (value instanceof Long exact && (long) number != exact) {
            throw new DoesNotFit("is " + shown(value) + "; a double holds whole numbers exactly only up to 9007199254740992");
        }
        return number;
    }

    private static String toText(Object value, SqlType type) throws DoesNotFit {
        String text = plain(value);
        int length = text.codePointCount(0, text.length());
        if (length > type.size()) {
            throw new DoesNotFit("is " + length + " characters long; " + type.words() + " holds " + type.size());
        }
        return text;
    }

    private static Instant toTimestamp(Object value, SqlType type) throws DoesNotFit {
        Instant instant;
        if (value instanceof Instant exact) {
            instant = exact;
        } else {
            try {
                instant = Instant.parse(value.toString().strip());
            } catch (DateTimeParseException notATime) {
                throw new DoesNotFit("is " + shown(value) + ", which is not a time as in RFC 3339 (2026-11-01T06:00:00Z)");
            }
        }
        if (instant.isBefore(FIRST) || instant.isAfter(LAST)) {
            throw new DoesNotFit("is " + instant + "; a time stamp holds the years 1000 to 9999");
        }
        int step = (int) Math.pow(10, 9 - type.size());
        return instant.with(java.time.temporal.ChronoField.NANO_OF_SECOND, instant.getNano() / step * step);
    }

    private static BigDecimal number(Object value) throws DoesNotFit {
        if (value instanceof BigDecimal exact) {
            return exact;
        }
        if (value instanceof Long || value instanceof Integer || value instanceof Short || value instanceof Byte) {
            return BigDecimal.valueOf(((Number) value).longValue());
        }
        if (value instanceof Boolean b) {
            return b ? BigDecimal.ONE : BigDecimal.ZERO;
        }
        if (value instanceof Instant) {
            throw new DoesNotFit("is a time, not a number");
        }
        try {
            BigDecimal number = new BigDecimal(value.toString().strip());
            // A text such as 1e999999999 would fill the memory when written out.
            if (Math.abs((long) number.precision() - number.scale()) > 400) {
                throw new DoesNotFit("is " + shown(value) + ", beyond any number type");
            }
            return number;
        } catch (NumberFormatException notANumber) {
            throw new DoesNotFit("is " + shown(value) + ", which is not a number");
        }
    }

    /** A value as text: numbers without exponent, times as in RFC 3339. */
    public static String plain(Object value) {
        if (value instanceof Double d) {
            return BigDecimal.valueOf(d).stripTrailingZeros().toPlainString();
        }
        return value instanceof BigDecimal exact ? exact.toPlainString() : value.toString();
    }

    private static String shown(Object value) {
        if (!(value instanceof String text)) {
            return plain(value);
        }
        return "\"" + (text.length() > 40 ? text.substring(0, 40) + "…" : text) + "\"";
    }
}
