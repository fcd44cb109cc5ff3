package dachshund.core.layout;

import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A column's type in standard words; each engine's dialect has its own name for it.
 *
 * @param family what it holds
 * @param size   digits in all for DECIMAL (1 to 38), characters for TEXT (1 to 10,000), fraction digits for TIMESTAMP
 *               and TIME (0 to 6); else 0
 * @param scale  digits after the point for DECIMAL; else 0
 */
public record SqlType(Family family, int size, int scale) {

    /** What a column can hold. */
    public enum Family {
        BOOLEAN,
        SMALLINT,
        INTEGER,
        BIGINT,
        DECIMAL,
        DOUBLE,
        TEXT,
        DATE,
        TIME,
        TIMESTAMP,
        JSON,
        UUID
    }

    public static final SqlType BOOLEAN = new SqlType(Family.BOOLEAN, 0, 0);
    public static final SqlType INTEGER = new SqlType(Family.INTEGER, 0, 0);
    public static final SqlType BIGINT = new SqlType(Family.BIGINT, 0, 0);
    public static final SqlType DOUBLE = new SqlType(Family.DOUBLE, 0, 0);

    public static final SqlType DATE = new SqlType(Family.DATE, 0, 0);
    /** A JSON text (RFC 8259). */
    public static final SqlType JSON = new SqlType(Family.JSON, 0, 0);
    /** As in RFC 9562. */
    public static final SqlType UUID = new SqlType(Family.UUID, 0, 0);

    private static final Pattern SHAPE =
            Pattern.compile("\\s*([a-z]+)\\s*(?:\\(\\s*(\\d{1,5})\\s*(?:,\\s*(\\d{1,5})\\s*)?\\))?\\s*");

    public SqlType {
        switch (family) {
            case DECIMAL -> {
                need(size >= 1 && size <= 38, "decimal takes 1 to 38 digits in all, for example decimal(8,2).");
                need(
                        scale >= 0 && scale <= size,
                        "decimal(" + size + "," + scale + ") has more digits after the point than in all.");
            }
            case TEXT ->
                need(
                        size >= 1 && size <= 10_000,
                        "text takes a length of 1 to 10,000 characters, for example text(80).");
            case TIMESTAMP ->
                need(size >= 0 && size <= 6, "timestamp takes 0 to 6 fraction digits, for example timestamp(3).");
            case TIME -> need(size >= 0 && size <= 6, "time takes 0 to 6 fraction digits, for example time(0).");
            default -> need(size == 0 && scale == 0, family.name().toLowerCase(Locale.ROOT) + " takes no length.");
        }
    }

    public static SqlType decimal(int digits, int scale) {
        return new SqlType(Family.DECIMAL, digits, scale);
    }

    public static SqlType text(int characters) {
        return new SqlType(Family.TEXT, characters, 0);
    }

    public static SqlType timestamp(int fractionDigits) {
        return new SqlType(Family.TIMESTAMP, fractionDigits, 0);
    }

    /**
     * Reads a type as written on the page, such as {@code decimal(8,2)} or {@code text(80)}.
     *
     * @throws IllegalArgumentException with a sentence for the field
     */
    public static SqlType read(String text) {
        Matcher parts = SHAPE.matcher(text.toLowerCase(Locale.ROOT));
        need(parts.matches(), "Write a type such as integer, double, decimal(8,2), text(80) or timestamp(3).");
        Family family =
                switch (parts.group(1)) {
                    case "boolean", "bool" -> Family.BOOLEAN;
                    case "smallint" -> Family.SMALLINT;
                    case "integer", "int" -> Family.INTEGER;
                    case "bigint" -> Family.BIGINT;
                    case "decimal", "numeric" -> Family.DECIMAL;
                    case "double", "float", "real" -> Family.DOUBLE;
                    case "text", "varchar" -> Family.TEXT;
                    case "timestamp", "datetime" -> Family.TIMESTAMP;
                    case "date" -> Family.DATE;
                    case "time" -> Family.TIME;
                    case "json" -> Family.JSON;
                    case "uuid" -> Family.UUID;
                    default ->
                        throw new IllegalArgumentException(
                                "There is no type \"" + parts.group(1)
                                        + "\". Use boolean, smallint, integer, bigint, decimal, double, text, date, time, timestamp, json or uuid.");
                };
        int preset =
                switch (family) {
                    case DECIMAL -> 12;
                    case TEXT -> 80;
                    case TIMESTAMP -> 3;
                    default -> 0;
                };
        int presetScale = family == Family.DECIMAL && parts.group(2) == null ? 3 : 0;
        return new SqlType(family, number(parts.group(2), preset), number(parts.group(3), presetScale));
    }

    private static int number(String digits, int preset) {
        return digits == null ? preset : Integer.parseInt(digits);
    }

    private static void need(boolean fine, String sentence) {
        if (!fine) {
            throw new IllegalArgumentException(sentence);
        }
    }

    public boolean numeric() {
        return switch (family) {
            case SMALLINT, INTEGER, BIGINT, DECIMAL, DOUBLE -> true;
            case BOOLEAN, TEXT, DATE, TIME, TIMESTAMP, JSON, UUID -> false;
        };
    }

    /** The type as a person writes it; {@link #read} takes it back. */
    public String words() {
        String name = family.name().toLowerCase(Locale.ROOT);
        return switch (family) {
            case DECIMAL -> name + "(" + size + "," + scale + ")";
            case TEXT, TIME, TIMESTAMP -> name + "(" + size + ")";
            default -> name;
        };
    }
}
