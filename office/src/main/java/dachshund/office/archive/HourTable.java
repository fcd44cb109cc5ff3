package dachshund.office.archive;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.Summary.Unit;
import dachshund.core.time.OpcUaTime;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Types;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;

/**
 * Hours of tags in plain rows ({@code archive_hour}, and with names {@code archive_hours}), for any SQL client. They are written
 * with the blocks of their span, in one step; values hold until the next one.
 */
final class HourTable {

    private HourTable() {}

    /**
     * Writes the hours of a span anew: those that are over and in which something came.
     *
     * @param held   the last value before the span, where there is one
     * @param values of the span
     * @param now    ticks; hours that end later are not over
     */
    static void write(Connection connection, long tag, long span, Samples held, Samples values, long now)
            throws SQLException {
        long begin = span * ArchiveStore.SPAN;
        long end = begin + ArchiveStore.SPAN;
        try (PreparedStatement statement =
                connection.prepareStatement("DELETE FROM archive_hour WHERE tag = ? AND hour >= ? AND hour < ?")) {
            statement.setLong(1, tag);
            statement.setObject(2, utc(begin));
            statement.setObject(3, utc(end));
            statement.executeUpdate();
        }
        List<Fold> folds = hours(held, values, begin, Math.min(end, now / Unit.HOUR.ticks() * Unit.HOUR.ticks()));
        if (folds.isEmpty()) {
            return;
        }
        try (PreparedStatement statement = connection.prepareStatement(
                "INSERT INTO archive_hour (tag, hour, taken, least, least_at, greatest, greatest_at, first, last, total, area,"
                        + " good_seconds, at_end) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")) {
            for (Fold fold : folds) {
                boolean any = fold.count() > 0;
                statement.setLong(1, tag);
                statement.setObject(2, utc(fold.from()));
                statement.setLong(3, fold.count());
                number(statement, 4, fold.least());
                statement.setObject(5, any ? utc(fold.leastAt()) : null);
                number(statement, 6, fold.greatest());
                statement.setObject(7, any ? utc(fold.greatestAt()) : null);
                number(statement, 8, fold.first());
                number(statement, 9, fold.last());
                number(statement, 10, any ? value(Aggregate.AVERAGE, fold) * fold.count() : Double.NaN);
                double area = value(Aggregate.TOTAL, fold);
                statement.setDouble(11, Double.isFinite(area) ? area : 0);
                statement.setDouble(12, value(Aggregate.DURATION_GOOD, fold));
                number(statement, 13, value(Aggregate.END_BOUND, fold));
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    private static List<Fold> hours(Samples held, Samples values, long begin, long end) {
        List<Fold> folds = new ArrayList<>();
        if (end <= begin || values.size() == 0) {
            return folds;
        }
        Folding.fold(
                Samples.of(List.of(held, values)),
                Method.STEPPED,
                begin,
                end,
                Unit.HOUR.ticks(),
                Long.MAX_VALUE,
                fold -> {
                    if (fold.raw() > 0) {
                        folds.add(fold);
                    }
                });
        return folds;
    }

    private static double value(Aggregate aggregate, Fold fold) {
        return aggregate.of(fold, Method.STEPPED).value();
    }

    /** A database has no NaN, and no more than the largest number. */
    private static void number(PreparedStatement statement, int at, double value) throws SQLException {
        if (Double.isFinite(value)) {
            statement.setDouble(at, value);
        } else {
            statement.setNull(at, Types.DOUBLE);
        }
    }

    static void removeBefore(Connection connection, long tag, long before) throws SQLException {
        try (PreparedStatement statement =
                connection.prepareStatement("DELETE FROM archive_hour WHERE tag = ? AND hour < ?")) {
            statement.setLong(1, tag);
            statement.setObject(2, utc(before / Unit.HOUR.ticks() * Unit.HOUR.ticks()));
            statement.executeUpdate();
        }
    }

    private static LocalDateTime utc(long ticks) {
        return LocalDateTime.ofInstant(OpcUaTime.toInstant(ticks), ZoneOffset.UTC);
    }
}
