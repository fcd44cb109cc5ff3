package dachshund.links.jdbc;

import dachshund.core.reader.TableShape.Sort;
import java.math.BigDecimal;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Types;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.util.HexFormat;
import java.util.Locale;

/**
 * Cells of a column of which nobody here has designed the type. What is odd (a date of zeros, a time of 838 hours, infinity, a
 * text in a column of numbers) comes as the database's own text, and never breaks a row.
 */
interface AnyCell {

    Object read(ResultSet rows) throws SQLException;

    /** What cells of a type of JDBC are. */
    static Sort sort(int type, String typeName, boolean byCell) {
        if (byCell) {
            return declared(typeName.toUpperCase(Locale.ROOT));
        }
        return switch (type) {
            case Types.TINYINT,
                    Types.SMALLINT,
                    Types.INTEGER,
                    Types.BIGINT,
                    Types.REAL,
                    Types.FLOAT,
                    Types.DOUBLE,
                    Types.DECIMAL,
                    Types.NUMERIC -> Sort.NUMBER;
            case Types.BIT, Types.BOOLEAN -> typeName.equalsIgnoreCase("bit") ? Sort.OTHER : Sort.TRUTH;
            case Types.TIMESTAMP, Types.TIMESTAMP_WITH_TIMEZONE -> Sort.STAMP;
            case Types.DATE -> typeName.equalsIgnoreCase("year") ? Sort.OTHER : Sort.DATE;
            case Types.TIME, Types.TIME_WITH_TIMEZONE -> Sort.CLOCK;
            case Types.CHAR,
                    Types.VARCHAR,
                    Types.LONGVARCHAR,
                    Types.NCHAR,
                    Types.NVARCHAR,
                    Types.LONGNVARCHAR,
                    Types.CLOB -> Sort.TEXT;
            default -> Sort.OTHER;
        };
    }

    /** What a declared type tells people of SQLite (SQLite documentation, "Determination Of Column Affinity"), and times beside it. */
    private static Sort declared(String type) {
        if (type.contains("BOOL")) {
            return Sort.TRUTH;
        }
        if (type.contains("TIMESTAMP") || type.contains("DATETIME")) {
            return Sort.STAMP;
        }
        if (type.contains("DATE")) {
            return Sort.DATE;
        }
        if (type.contains("CHAR") || type.contains("TEXT") || type.contains("CLOB") || type.contains("JSON")) {
            return Sort.TEXT;
        }
        return type.contains("INT")
                        || type.contains("REAL")
                        || type.contains("FLOA")
                        || type.contains("DOUB")
                        || type.contains("NUM")
                        || type.contains("DEC")
                ? Sort.NUMBER
                : Sort.OTHER;
    }

    /** @param zone of what some clock showed */
    static AnyCell of(ResultSetMetaData meta, int at, JdbcEngine engine, Sort sort, ZoneId zone) throws SQLException {
        if (engine.typesByCell()) {
            return rows -> byItself(rows, at, sort, zone);
        }
        AnyCell exact = exact(meta, at, engine, sort, zone);
        return rows -> {
            try {
                Object cell = exact.read(rows);
                // Some drivers make nothing of what is odd, though something is there.
                return cell == null && sort != Sort.TEXT ? text(rows, at) : cell;
            } catch (SQLException | DateTimeException | NumberFormatException odd) {
                return text(rows, at);
            }
        };
    }

    private static Object text(ResultSet rows, int at) throws SQLException {
        try {
            return rows.getString(at);
        } catch (DateTimeException | NumberFormatException odder) {
            byte[] bytes = rows.getBytes(at);
            return bytes == null ? null : new String(bytes, java.nio.charset.StandardCharsets.UTF_8);
        }
    }

    private static AnyCell exact(ResultSetMetaData meta, int at, JdbcEngine engine, Sort sort, ZoneId zone)
            throws SQLException {
        int type = meta.getColumnType(at);
        return switch (sort) {
            case NUMBER ->
                switch (type) {
                    case Types.TINYINT, Types.SMALLINT, Types.INTEGER -> rows -> whole(rows, at);
                    case Types.BIGINT ->
                        meta.isSigned(at) ? rows -> whole(rows, at) : rows -> small(rows.getBigDecimal(at));
                    // The digits that tell it from its neighbours, and no others.
                    case Types.REAL ->
                        rows -> {
                            float number = rows.getFloat(at);
                            return rows.wasNull() ? null : finite(Double.parseDouble(Float.toString(number)));
                        };
                    case Types.FLOAT, Types.DOUBLE ->
                        rows -> {
                            double number = rows.getDouble(at);
                            return rows.wasNull() ? null : finite(number);
                        };
                    default -> rows -> rows.getBigDecimal(at);
                };
            case TRUTH ->
                rows -> {
                    boolean yes = rows.getBoolean(at);
                    return rows.wasNull() ? null : (Object) yes;
                };
            case STAMP ->
                type == Types.TIMESTAMP_WITH_TIMEZONE || engine.namesInstants(meta.getColumnTypeName(at))
                        ? rows -> instant(rows, at)
                        : rows -> {
                            LocalDateTime time = rows.getObject(at, LocalDateTime.class);
                            return time == null
                                    ? null
                                    : told(time.getYear(), time.atZone(zone).toInstant());
                        };
            case DATE -> rows -> rows.getObject(at, LocalDate.class);
            case CLOCK ->
                rows -> {
                    // As a time of day a driver would make 22:59:59 of 838:59:59.
                    String text = rows.getString(at);
                    return text == null ? null : LocalTime.parse(text);
                };
            case TEXT -> rows -> rows.getString(at);
            case OTHER ->
                switch (type) {
                    case Types.BINARY, Types.VARBINARY, Types.LONGVARBINARY, Types.BLOB, Types.BIT ->
                        rows -> hex(rows.getBytes(at));
                    default -> rows -> rows.getString(at);
                };
        };
    }

    private static Object instant(ResultSet rows, int at) throws SQLException {
        OffsetDateTime time = rows.getObject(at, OffsetDateTime.class);
        return time == null ? null : told(time.getYear(), time.toInstant());
    }

    /** Infinity is a year that no calendar has. */
    private static Instant told(int year, Instant at) {
        if (Math.abs(year) > 300_000) {
            throw new DateTimeException("no time");
        }
        return at;
    }

    private static Object whole(ResultSet rows, int at) throws SQLException {
        long number = rows.getLong(at);
        return rows.wasNull() ? null : (Object) number;
    }

    /** Without a sign it may be larger than a long. */
    private static Object small(BigDecimal number) {
        return number == null
                ? null
                : number.toBigInteger().bitLength() < Long.SIZE ? (Object) number.longValue() : number.toBigInteger();
    }

    private static Object finite(double number) {
        return Double.isFinite(number) ? (Object) number : Double.toString(number);
    }

    private static String hex(byte[] bytes) {
        return bytes == null ? null : "0x" + HexFormat.of().withUpperCase().formatHex(bytes);
    }

    /** SQLite's cells say what they are; a time is whatever somebody wrote there. */
    private static Object byItself(ResultSet rows, int at, Sort sort, ZoneId zone) throws SQLException {
        Object cell = rows.getObject(at);
        if (cell instanceof byte[] bytes) {
            return hex(bytes);
        }
        if (cell instanceof Integer whole) {
            cell = whole.longValue();
        }
        if (sort == Sort.TRUTH && cell instanceof Long number && (number == 0 || number == 1)) {
            return number == 1;
        }
        if (cell instanceof Double number) {
            return finite(number);
        }
        if (cell instanceof String text && sort == Sort.STAMP) {
            try {
                return dachshund.core.time.WrittenTimes.like(text, zone).read(text);
            } catch (IllegalArgumentException other) {
                return text;
            }
        }
        if (cell instanceof String text && sort == Sort.DATE) {
            try {
                return LocalDate.parse(text);
            } catch (DateTimeException other) {
                return text;
            }
        }
        return cell;
    }
}
