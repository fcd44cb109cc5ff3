package dachshund.core.row;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoField;
import java.util.UUID;
import java.util.regex.Pattern;

/**
 * Turns a tag's value into what a column of a type holds. A decimal rounds half up to its declared digits, and a time
 * stamp is cut to its declared fraction: that is what declaring them means. Everything else either fits exactly or is
 * refused with a sentence; nothing is silently cut, clipped or guessed.
 */
public final class Conversion {

    private static final ObjectMapper JSON = new ObjectMapper().enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS);
    private static final Pattern UUID_SHAPE = Pattern.compile("[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}");
    /** Beyond it not every whole number is a double of its own. */
    private static final double MOST_WHOLE = 1e15;

    /** The years 1000 to 9999, in seconds since 1970: what every engine holds. */
    private static final long FIRST = Instant.parse("1000-01-01T00:00:00Z").getEpochSecond();

    private static final long END = Instant.parse("+10000-01-01T00:00:00Z").getEpochSecond();

    private Conversion() {}

    /** A value does not fit its column. The message is a sentence without its subject: "is 300 characters long; …". */
    public static final class DoesNotFit extends Exception {
        DoesNotFit(String predicate) {
            super(predicate, null, false, false);
        }
    }

    /**
     * @param value a Boolean, any Number, String, Instant or LocalDate
     * @param zone  in which a date or a time of day is taken out of an instant: plant time
     * @return Boolean, Long, BigDecimal, Double, String, LocalDate, LocalTime, Instant or UUID, as the type needs; a JSON
     *         text is a String
     */
    public static Object convert(Object value, SqlType type, ZoneId zone) throws DoesNotFit {
        return switch (type.family()) {
            case BOOLEAN -> toBoolean(value);
            case SMALLINT -> whole(value, Short.MIN_VALUE, Short.MAX_VALUE, type);
            case INTEGER -> whole(value, Integer.MIN_VALUE, Integer.MAX_VALUE, type);
            case BIGINT -> whole(value, Long.MIN_VALUE, Long.MAX_VALUE, type);
            case DECIMAL -> toDecimal(value, type);
            case DOUBLE -> toDouble(value);
            case TEXT -> toText(value, type);
            case DATE -> toDate(value, zone);
            case TIME -> toTime(value, type, zone);
            case TIMESTAMP -> toTimestamp(value, type);
            case JSON -> toJson(value);
            case UUID -> toUuid(value);
        };
    }

    private static Boolean toBoolean(Object value) throws DoesNotFit {
        if (value instanceof Boolean b) {
            return b;
        }
        String text = value instanceof Number
                ? number(value).stripTrailingZeros().toPlainString()
                : value.toString().strip();
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
            throw new DoesNotFit("is " + shown(value) + "; " + type.words() + " holds " + (type.size() - type.scale())
                    + " digits before the point");
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
        BigDecimal exact = number(value);
        boolean whole = exact.signum() == 0 || exact.stripTrailingZeros().scale() <= 0;
        if (whole && new BigDecimal(number).compareTo(exact) != 0) {
            throw new DoesNotFit(
                    "is " + shown(value) + "; a double holds whole numbers exactly only up to 9007199254740992");
        }
        return number;
    }

    private static String toText(Object value, SqlType type) throws DoesNotFit {
        String text = plain(value);
        if (text.length() <= type.size()) {
            return text;
        }
        int length = text.codePointCount(0, text.length());
        if (length > type.size()) {
            throw new DoesNotFit("is " + length + " characters long; " + type.words() + " holds " + type.size());
        }
        return text;
    }

    private static LocalDate toDate(Object value, ZoneId zone) throws DoesNotFit {
        if (value instanceof LocalDate date) {
            return date;
        }
        if (value instanceof Instant instant) {
            return instant.atZone(zone).toLocalDate();
        }
        String text = value.toString().strip();
        try {
            return text.indexOf('T') > 0 ? Instant.parse(text).atZone(zone).toLocalDate() : LocalDate.parse(text);
        } catch (DateTimeParseException notADate) {
            throw new DoesNotFit("is " + shown(value) + ", which is not a date as in RFC 3339 (2026-11-01)");
        }
    }

    private static LocalTime toTime(Object value, SqlType type, ZoneId zone) throws DoesNotFit {
        LocalTime time;
        if (value instanceof Instant instant) {
            time = instant.atZone(zone).toLocalTime();
        } else {
            try {
                String text = value.toString().strip();
                time = text.indexOf('T') > 0 ? Instant.parse(text).atZone(zone).toLocalTime() : LocalTime.parse(text);
            } catch (DateTimeParseException notATime) {
                throw new DoesNotFit("is " + shown(value) + ", which is not a time of day as in RFC 3339 (06:00:00)");
            }
        }
        return time.withNano(cut(time.getNano(), type));
    }

    private static String toJson(Object value) throws DoesNotFit {
        if (value instanceof Boolean || value instanceof Number) {
            return plain(value);
        }
        String text = plain(value);
        try {
            JSON.readTree(text);
            return text;
        } catch (JsonProcessingException notJson) {
            throw new DoesNotFit("is " + shown(text) + ", which is not JSON as in RFC 8259");
        }
    }

    private static UUID toUuid(Object value) throws DoesNotFit {
        String text = value.toString().strip();
        if (!UUID_SHAPE.matcher(text).matches()) {
            throw new DoesNotFit("is " + shown(text) + ", which is not a UUID as in RFC 9562");
        }
        return UUID.fromString(text);
    }

    /** Nanoseconds of a second without what the type's fraction digits do not hold. */
    private static int cut(int nanos, SqlType type) {
        int step = (int) Math.pow(10, 9 - type.size());
        return nanos / step * step;
    }

    private static Instant toTimestamp(Object value, SqlType type) throws DoesNotFit {
        Instant instant;
        if (value instanceof Instant exact) {
            instant = exact;
        } else {
            try {
                instant = Instant.parse(value.toString().strip());
            } catch (DateTimeParseException notATime) {
                throw new DoesNotFit(
                        "is " + shown(value) + ", which is not a time as in RFC 3339 (2026-11-01T06:00:00Z)");
            }
        }
        if (instant.getEpochSecond() < FIRST || instant.getEpochSecond() >= END) {
            throw new DoesNotFit("is " + instant + "; a time stamp holds the years 1000 to 9999");
        }
        int nano = cut(instant.getNano(), type);
        return nano == instant.getNano() ? instant : instant.with(ChronoField.NANO_OF_SECOND, nano);
    }

    static BigDecimal number(Object value) throws DoesNotFit {
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
        if (value instanceof Double number) {
            return plain((double) number);
        }
        return value instanceof BigDecimal exact ? exact.toPlainString() : value.toString();
    }

    /** Most numbers are whole or short, and are written without the detour over an exact one. */
    private static String plain(double number) {
        if (number == Math.rint(number) && Math.abs(number) < MOST_WHOLE) {
            return Long.toString((long) number);
        }
        String text = Double.toString(number);
        return text.indexOf('E') < 0 && text.charAt(text.length() - 1) != '0'
                ? text
                : BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }

    /** A value as the code that stands for a word: a whole number without decimals, else as text. */
    static String code(Object value) {
        return value instanceof BigDecimal exact ? exact.stripTrailingZeros().toPlainString() : plain(value);
    }

    private static String shown(Object value) {
        if (!(value instanceof String text)) {
            return plain(value);
        }
        return "\"" + (text.length() > 40 ? text.substring(0, 40) + "…" : text) + "\"";
    }
}
