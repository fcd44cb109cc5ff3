package dachshund.bench;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.office.archive.BlockTable;
import dachshund.office.archive.BlockTable.Pieces;
import dachshund.office.archive.Histories;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.flywaydb.core.Flyway;

/**
 * What a plot of one tag costs that has a value each second for a year: 1,500 points over the year and over the last 7 days,
 * against a GROUP BY over plain rows (tag, time, value, quality; by their primary key) of the same values, in the same
 * MariaDB; and every value of the last day against reading the plain rows. Both sides give the same extremes, which is checked.
 */
final class PlotBench implements Bench.Benchmark {

    private static final TagRef REF = new TagRef("5ca1ab1e", "a");
    private static final long KEY = TagKey.of(REF);
    private static final int DAY = 86_400;
    private static final int YEAR = 365;
    private static final int WEEK = 7;
    private static final int POINTS = 1500;
    private static final int WARM_UP = 200;
    private static final long S = 10_000_000L;
    private static final Instant FROM = Instant.parse("2025-11-20T00:00:00Z");
    private static final Instant END = FROM.plus(Duration.ofDays(YEAR));
    private static final long T0 = OpcUaTime.toTicks(FROM);
    private static final int ROWS_AT_ONCE = 2_000_000;

    private HikariDataSource pool;

    private interface Side {
        double run() throws Exception;
    }

    /** Two decimals, with a wave of minutes and noise of seconds; the same as {@link #SQL}. */
    private static double value(long second) {
        return (second * 7919 % 1009 + second / 60 * 31 % 5003) / 100.0;
    }

    private static final String SQL = "(seq * 7919 % 1009 + seq DIV 60 * 31 % 5003) / 100";

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        try (PrivateMariaDb server = new PrivateMariaDb();
                HikariDataSource open = new HikariDataSource()) {
            pool = open;
            pool.setJdbcUrl(server.url("archived") + "&createDatabaseIfNotExist=true&timezone=UTC");
            Flyway.configure().dataSource(pool).load().migrate();
            BlockTable table = new BlockTable(pool);
            double rows = timed(this::plain);
            double blocks = timed(() -> blocks(table));
            System.out.printf(
                    Locale.ROOT,
                    "plot: one tag, a value a second for %d days: plain rows written in %.0f s, as blocks and put together in %.0f s; buffer pool %d MB%n%n",
                    YEAR,
                    rows,
                    blocks,
                    one("SELECT @@innodb_buffer_pool_size") >> 20);
            Histories histories = new Histories(table, () -> END, tag -> List.of());
            double[] week = sides(
                    "7 days in 1,500 points",
                    9,
                    () -> grouped(WEEK),
                    5,
                    () -> extremes(histories.outline(REF, END.minus(Duration.ofDays(WEEK)), END, POINTS, true)));
            double[] anew = sides(
                    "the same, none in memory",
                    9,
                    () -> grouped(WEEK),
                    5,
                    () -> extremes(new Histories(table, () -> END, tag -> List.of())
                            .outline(REF, END.minus(Duration.ofDays(WEEK)), END, POINTS, true)));
            double[] year = sides(
                    "a year in 1,500 points",
                    3,
                    () -> grouped(YEAR),
                    9,
                    () -> extremes(histories.outline(REF, FROM, END, POINTS, true)));
            double[] day = sides("24 h, every value", 9, this::rows, 5, () -> values(histories));
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"plot\",\"ratio\":%.1f,\"ratio_anew\":%.1f,\"ratio_year\":%.1f,\"ratio_day\":%.2f,\"week_ms\":%.2f,\"year_ms\":%.2f,\"day_ms\":%.2f,\"steal_percent\":%.1f}%n",
                    week[0] / week[1],
                    anew[0] / anew[1],
                    year[0] / year[1],
                    day[0] / day[1],
                    week[1],
                    year[1],
                    day[1],
                    machine.stealPercent());
        }
    }

    /**
     * Medians of both, in milliseconds. Sides alternate, since a machine is as fast as its neighbours let it be: behind each plain
     * run come some of ours.
     *
     * @param ours so many
     */
    private static double[] sides(String what, int rounds, Side plain, int ours, Side side) throws Exception {
        double wanted = plain.run();
        for (int i = 0; i < WARM_UP; i++) {
            same(what, wanted, side.run());
        }
        double[] plains = new double[rounds];
        double[] own = new double[rounds * ours];
        for (int round = 0; round < rounds; round++) {
            long from = System.nanoTime();
            same(what, wanted, plain.run());
            plains[round] = (System.nanoTime() - from) / 1e6;
            for (int i = 0; i < ours; i++) {
                from = System.nanoTime();
                same(what, wanted, side.run());
                own[round * ours + i] = (System.nanoTime() - from) / 1e6;
            }
        }
        double usual = Machine.median(plains);
        double median = Machine.median(own);
        System.out.printf(
                Locale.ROOT,
                "%-24s plain rows %,10.1f ms   archive %8.2f ms   %,.1f x%n",
                what,
                usual,
                median,
                usual / median);
        return new double[] {usual, median};
    }

    private static void same(String what, double wanted, double found) {
        if (Math.abs(found - wanted) > 1e-6 * Math.abs(wanted)) {
            throw new IllegalStateException(what + ": " + found + " is not " + wanted);
        }
    }

    private interface Work {
        void run() throws Exception;
    }

    private static double timed(Work work) throws Exception {
        long from = System.nanoTime();
        work.run();
        return (System.nanoTime() - from) / 1e9;
    }

    private void plain() throws SQLException {
        execute("CREATE TABLE plain (tag BIGINT NOT NULL, time BIGINT NOT NULL, value DOUBLE, quality INT NOT NULL,"
                + " PRIMARY KEY (tag, time))");
        int last = YEAR * DAY - 1;
        for (int from = 0; from <= last; from += ROWS_AT_ONCE) {
            execute("INSERT INTO plain SELECT " + KEY + ", " + T0 + " + seq * " + S + ", " + SQL + ", 0 FROM seq_"
                    + from + "_to_" + Math.min(last, from + ROWS_AT_ONCE - 1));
        }
        execute("ANALYZE TABLE plain");
    }

    private void blocks(BlockTable table) throws Exception {
        for (int day = 0; day < YEAR; day++) {
            Column column = new Column(Column.Sort.NUMBER, DAY);
            for (long second = (long) day * DAY; second < (day + 1L) * DAY; second++) {
                column.addNumber(T0 + second * S, value(second), 0);
            }
            table.bringIn(
                    "brought in",
                    Block.of(KEY, Series.of(List.of(column))),
                    List.of(new Tag(KEY, REF, "A", KeptFor.EVER)));
        }
        for (List<Pieces> some = table.inPieces(Long.MAX_VALUE, 1, 500);
                !some.isEmpty();
                some = table.inPieces(Long.MAX_VALUE, 1, 500)) {
            for (Pieces each : some) {
                table.putTogether(each.tag(), each.span(), Long.MAX_VALUE);
            }
        }
    }

    /** The least and greatest of each interval, added up; of them all the least and the greatest are compared. */
    private double grouped(int days) throws SQLException {
        long from = T0 + (long) (YEAR - days) * DAY * S;
        long to = T0 + (long) YEAR * DAY * S;
        long step = (to - from) / POINTS;
        List<double[]> points = new ArrayList<>();
        try (Connection connection = pool.getConnection();
                PreparedStatement statement = connection.prepareStatement(
                        "SELECT (time - ?) DIV ? AS part, MIN(value), MAX(value) FROM plain WHERE tag = ? AND time >= ? AND time < ? GROUP BY part")) {
            statement.setLong(1, from);
            statement.setLong(2, step);
            statement.setLong(3, KEY);
            statement.setLong(4, from);
            statement.setLong(5, to);
            try (ResultSet found = statement.executeQuery()) {
                while (found.next()) {
                    points.add(new double[] {found.getDouble(2), found.getDouble(3)});
                }
            }
        }
        if (points.size() < POINTS) {
            throw new IllegalStateException(points.size() + " points");
        }
        return points.stream().mapToDouble(each -> each[1]).max().orElseThrow()
                - 3 * points.stream().mapToDouble(each -> each[0]).min().orElseThrow();
    }

    private static double extremes(Samples points) {
        double most = Double.NEGATIVE_INFINITY;
        double least = Double.POSITIVE_INFINITY;
        for (int i = 0; i < points.size(); i++) {
            most = Math.max(most, points.value(i));
            least = Math.min(least, points.value(i));
        }
        if (points.size() < 2 * POINTS) {
            throw new IllegalStateException(points.size() + " points");
        }
        return most - 3 * least;
    }

    private double rows() throws SQLException {
        long to = T0 + (long) YEAR * DAY * S;
        long[] times = new long[DAY];
        double[] values = new double[DAY];
        int[] qualities = new int[DAY];
        int size = 0;
        try (Connection connection = pool.getConnection();
                PreparedStatement statement = connection.prepareStatement(
                        "SELECT time, value, quality FROM plain WHERE tag = ? AND time >= ? AND time < ? ORDER BY time")) {
            statement.setLong(1, KEY);
            statement.setLong(2, to - DAY * S);
            statement.setLong(3, to);
            try (ResultSet found = statement.executeQuery()) {
                while (found.next()) {
                    times[size] = found.getLong(1);
                    values[size] = found.getDouble(2);
                    qualities[size++] = found.getInt(3);
                }
            }
        }
        return Arrays.stream(values).sum() + size + qualities[size - 1] + (times[size - 1] - T0) / 1e7;
    }

    private static double values(Histories histories) throws Exception {
        Series series = histories.read(REF, END.minus(Duration.ofDays(1)), END).series();
        long begin = T0 + (long) (YEAR - 1) * DAY * S;
        int first = series.before(begin);
        double sum = 0;
        for (int i = first; i < series.size(); i++) {
            sum += series.number(i);
        }
        int last = series.size() - 1;
        return sum + last - first + 1 + series.mark(last) + (series.time(last) - T0) / 1e7;
    }

    private void execute(String sql) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private long one(String sql) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }
}
