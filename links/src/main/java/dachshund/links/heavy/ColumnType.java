package dachshund.links.heavy;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;

/**
 * The narrowest type that holds every cell of a column exactly, so far. Immutable.
 *
 * @param digits most digits before the point, of whole and exact numbers
 * @param scale  most digits after the point, of exact numbers
 */
record ColumnType(Sort sort, int digits, int scale) {

    enum Sort {
        NOTHING,
        WHOLE,
        NUMBER,
        EXACT,
        TRUTH,
        TIME,
        DAY,
        CLOCK,
        TEXT
    }

    static final ColumnType NOTHING = new ColumnType(Sort.NOTHING, 0, 0);
    private static final ColumnType TEXT = new ColumnType(Sort.TEXT, 0, 0);

    /** Of a decimal in DuckDB and Parquet. */
    private static final int MOST_DIGITS = 38;
    /** Whole numbers of so many digits are floating-point numbers as well, exactly. */
    private static final int DIGITS_OF_A_NUMBER = 15;
    /** Its times count microseconds. */
    private static final int FINEST_NANOS = 1000;

    private static final long[] POWERS = new long[19];

    static {
        long power = 1;
        for (int i = 0; i < POWERS.length; i++) {
            POWERS[i] = power;
            power *= 10;
        }
    }

    /** The type that holds this cell as well. */
    ColumnType with(Object cell) {
        if (cell == null || sort == Sort.TEXT) {
            return this;
        }
        if (cell instanceof Long whole) {
            return sort == Sort.WHOLE && digits < POWERS.length && Math.abs(whole) < POWERS[digits]
                    ? this
                    : plus(Sort.WHOLE, digits(whole), 0);
        }
        if (cell instanceof Double) {
            return sort == Sort.NUMBER ? this : plus(Sort.NUMBER, 0, 0);
        }
        if (cell instanceof BigDecimal exact) {
            int after = Math.max(0, exact.scale());
            return plus(Sort.EXACT, Math.max(1, exact.precision() - exact.scale()), after);
        }
        if (cell instanceof Boolean) {
            return plus(Sort.TRUTH, 0, 0);
        }
        if (cell instanceof Instant time) {
            return time.getNano() % FINEST_NANOS == 0 ? plus(Sort.TIME, 0, 0) : TEXT;
        }
        if (cell instanceof LocalDate) {
            return plus(Sort.DAY, 0, 0);
        }
        if (cell instanceof LocalTime clock) {
            return clock.getNano() % FINEST_NANOS == 0 ? plus(Sort.CLOCK, 0, 0) : TEXT;
        }
        return TEXT;
    }

    private static int digits(long whole) {
        return whole == Long.MIN_VALUE ? 19 : Long.toString(Math.abs(whole)).length();
    }

    private ColumnType plus(Sort other, int before, int after) {
        int mostBefore = Math.max(digits, before);
        int mostAfter = Math.max(scale, after);
        if (sort == Sort.NOTHING || sort == other) {
            return exactly(other, mostBefore, mostAfter);
        }
        boolean numbers = isNumber(sort) && isNumber(other);
        if (numbers && sort != Sort.NUMBER && other != Sort.NUMBER) {
            return exactly(Sort.EXACT, mostBefore, mostAfter);
        }
        if (numbers && sort != Sort.EXACT && other != Sort.EXACT && mostBefore <= DIGITS_OF_A_NUMBER) {
            return new ColumnType(Sort.NUMBER, mostBefore, 0);
        }
        return TEXT;
    }

    private static boolean isNumber(Sort sort) {
        return sort == Sort.WHOLE || sort == Sort.NUMBER || sort == Sort.EXACT;
    }

    private ColumnType exactly(Sort which, int before, int after) {
        if (which == Sort.EXACT && before + after > MOST_DIGITS) {
            return TEXT;
        }
        return which == sort && before == digits && after == scale ? this : new ColumnType(which, before, after);
    }

    /** In DuckDB's words. */
    String sql() {
        return switch (sort) {
            case NOTHING, TEXT -> "VARCHAR";
            case WHOLE -> "BIGINT";
            case NUMBER -> "DOUBLE";
            case EXACT -> "DECIMAL(" + MOST_DIGITS + "," + scale + ")";
            case TRUTH -> "BOOLEAN";
            case TIME -> "TIMESTAMPTZ";
            case DAY -> "DATE";
            case CLOCK -> "TIME";
        };
    }
}
