package dachshund.engine.transaction;

import dachshund.core.when.When;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.Optional;

/**
 * Where a row stands in its table: a number, a day, or an instant. Places of one table are of one sort.
 *
 * @param at BigDecimal, LocalDate or Instant
 */
record RowPlace(Comparable<?> at) implements Comparable<RowPlace> {

    /** @return empty where a cell is nothing by which rows can stand one behind the other */
    static Optional<RowPlace> of(Object cell) {
        if (cell instanceof Instant || cell instanceof LocalDate) {
            return Optional.of(new RowPlace((Comparable<?>) cell));
        }
        if (cell instanceof BigDecimal decimal) {
            return Optional.of(new RowPlace(decimal.stripTrailingZeros()));
        }
        if (cell instanceof BigInteger whole) {
            return Optional.of(new RowPlace(new BigDecimal(whole)));
        }
        return cell instanceof Number number && Double.isFinite(number.doubleValue())
                ? Optional.of(new RowPlace(new BigDecimal(number.toString())))
                : Optional.empty();
    }

    /** As {@link #toString} has written it. */
    static RowPlace read(String written) {
        String text = written.substring(1);
        return new RowPlace(
                switch (written.charAt(0)) {
                    case 'T' -> Instant.parse(text);
                    case 'D' -> LocalDate.parse(text);
                    default -> new BigDecimal(text);
                });
    }

    @Override
    public String toString() {
        return (at instanceof Instant ? "T" : at instanceof LocalDate ? "D" : "N") + at;
    }

    /** The furthest place that a row of now can have; of a day, wherever on earth it is. Empty where places are numbers. */
    Optional<RowPlace> ofNow(Instant now) {
        if (at instanceof Instant) {
            return Optional.of(new RowPlace(now));
        }
        return at instanceof LocalDate
                ? Optional.of(
                        new RowPlace(LocalDate.ofInstant(now, ZoneOffset.UTC).plusDays(1)))
                : Optional.empty();
    }

    /** Whether some clock was wrong, or somebody planned ahead: no row that comes in its time stands behind it. */
    boolean isAhead(Instant now) {
        return ofNow(now).filter(latest -> compareTo(latest) > 0).isPresent();
    }

    /** The first place that is looked at again. */
    RowPlace back(When.OnNewRow rows) {
        if (at instanceof Instant time) {
            return new RowPlace(time.minus(rows.back()));
        }
        if (at instanceof LocalDate day) {
            return new RowPlace(day.minusDays(rows.back().toDays()));
        }
        return new RowPlace(((BigDecimal) at).subtract(BigDecimal.valueOf(rows.lower())));
    }

    @Override
    @SuppressWarnings("unchecked")
    public int compareTo(RowPlace other) {
        if (!at.getClass().equals(other.at.getClass())) {
            return toString().compareTo(other.toString());
        }
        return ((Comparable<Object>) at).compareTo(other.at);
    }
}
