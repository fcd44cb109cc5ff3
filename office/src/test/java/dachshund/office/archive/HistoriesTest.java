package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Folding;
import dachshund.core.aggregate.Method;
import dachshund.core.aggregate.Outline;
import dachshund.core.aggregate.Result;
import dachshund.core.aggregate.Samples;
import dachshund.core.aggregate.Trouble;
import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Summary.Unit;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.thread.Threads;
import dachshund.office.archive.BlockTable.Pieces;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.springframework.jdbc.core.simple.JdbcClient;

/** Values a second on a real MariaDB, more than are in memory at once: plots, and folds from summaries. */
class HistoriesTest {

    private static final TagRef A = new TagRef("5ca1ab1e", "a");
    private static final long KEY = TagKey.of(A);
    private static final long S = 10_000_000L;
    private static final int DAY = 86_400;
    private static final Instant FROM = Instant.parse("2026-10-01T00:00:00Z");
    private static final long T0 = OpcUaTime.toTicks(FROM);
    private static final long HOUR = Unit.HOUR.ticks();
    private static final long MINUTE = Unit.MINUTE.ticks();

    private static final JdbcClient JDBC = ArchiveBed.JDBC;

    private List<Column> onItsWay = List.of();
    private final BlockTable table = new BlockTable(ArchiveBed.POOL);
    private final OldBlocks old = new OldBlocks(ArchiveBed.POOL);
    private Histories histories;

    @BeforeEach
    void empty() {
        ArchiveBed.empty();
        forget();
    }

    /** As after a restart: nothing is in memory. */
    private void forget() {
        histories = new Histories(table, () -> FROM.plusSeconds(30L * DAY), tag -> onItsWay);
    }

    /** A value a second of some days: 0 to 4.5 by turns, a gap on the 24th day, two extremes on the 15th. */
    private void days(int from, int to) throws Problem {
        for (int day = from; day < to; day++) {
            Arrivals values = new Arrivals();
            for (int second = day * DAY; second < (day + 1) * DAY; second++) {
                long time = T0 + second * S;
                if (second == 2_000_000) {
                    values.add(time, null, Marks.of(Gap.AWAY));
                } else if (second < 2_000_000 || second > 2_020_000) {
                    values.add(time, second == 1_234_567 ? 99.5 : second == 1_234_569 ? -7.25 : second % 10 * 0.5, 0);
                }
            }
            bring(values);
        }
    }

    private void bring(Arrivals values) throws Problem {
        table.bringIn(
                "brought in",
                Block.of(KEY, values.series()),
                List.of(new Tag(KEY, A, "A tag", new KeptFor(5, KeptFor.LONGEST))));
    }

    private void putTogether() throws Problem {
        for (Pieces each : table.inPieces(Long.MAX_VALUE, 1, 1000)) {
            table.putTogether(each.tag(), each.span(), Long.MAX_VALUE);
        }
    }

    /** Several aggregates of each interval, as text. */
    private List<String> folds(long from, long to, long step) throws Problem {
        List<String> all = new ArrayList<>();
        histories.fold(A, from, to, step, Method.SLOPED, Fold.ALL, fold -> all.add(line(fold)));
        return all;
    }

    private static String line(Fold fold) {
        return lineOfPlot(fold) + line(fold, List.of(Aggregate.DELTA, Aggregate.DEVIATION_SAMPLE));
    }

    /** What is folded for a plot, too. */
    private static String lineOfPlot(Fold fold) {
        return line(
                fold,
                List.of(
                        Aggregate.TIME_AVERAGE,
                        Aggregate.MINIMUM_WITH_TIME,
                        Aggregate.MAXIMUM_WITH_TIME,
                        Aggregate.COUNT,
                        Aggregate.PERCENT_GOOD,
                        Aggregate.INTERPOLATED,
                        Aggregate.END_BOUND));
    }

    private static String line(Fold fold, List<Aggregate> aggregates) {
        StringBuilder line = new StringBuilder();
        for (Aggregate each : aggregates) {
            Result result = each.of(fold, Method.SLOPED);
            line.append(String.format(Locale.ROOT, "%d %.6f %d; ", result.at(), result.value(), result.grade()));
        }
        return line.toString();
    }

    /** Read once or twice, from values or from summaries, in time that ends anywhere. */
    private void wholeOfItsPlot(Instant from, Instant to, int points) throws Problem {
        Histories.Outlined plot = histories.outlined(A, from, to, points, false);
        assertThat(plot.told()).isEmpty();
        long first = OpcUaTime.toTicks(from);
        long last = OpcUaTime.toTicks(to);
        List<String> whole = new ArrayList<>();
        histories.fold(A, first, last, last - first, Method.SLOPED, Fold.ALL, fold -> whole.add(lineOfPlot(fold)));
        assertThat(List.of(lineOfPlot(plot.whole().orElseThrow()))).isEqualTo(whole);
        long values = histories.read(A, from, to).count(from, to);
        assertThat(plot.whole().orElseThrow().count()).isEqualTo(values);
    }

    private void wholesOfPlots() throws Problem {
        Instant begun = FROM.plusSeconds(14L * DAY);
        wholeOfItsPlot(begun.plusSeconds(17), begun.plusSeconds(1234), 100);
        wholeOfItsPlot(begun.plusMillis(3_600_500), begun.plusMillis(90_000_499), 300);
        wholeOfItsPlot(begun.plusSeconds(3600), begun.plusSeconds(7200), 1000);
        wholeOfItsPlot(begun.plusSeconds(59), begun.plusSeconds(2 * DAY - 61), 10);
    }

    @Test
    void theWholeOfAPlotIsWhatItsTimeComesTo() throws Exception {
        days(14, 16);
        wholesOfPlots();
        putTogether();
        wholesOfPlots();
        // One interval that could be as long as anything is one as long as its time.
        long from = T0 + 14L * DAY * S + 17;
        assertThat(folds(from, from + 30 * HOUR, Long.MAX_VALUE)).isEqualTo(folds(from, from + 30 * HOUR, 30 * HOUR));
        List<Fold> one = new ArrayList<>();
        Folding.fold(
                values(from, from + HOUR), Method.SLOPED, from, from + HOUR, Long.MAX_VALUE, from + HOUR, one::add);
        assertThat(one).singleElement().satisfies(fold -> assertThat(fold.to()).isEqualTo(from + HOUR));
    }

    @Test
    void aPlotOfALongTimeIsReadInPartsAndLosesNoExtremeAndNoGap() throws Exception {
        days(0, 30);
        Instant end = FROM.plusSeconds(30L * DAY);
        assertThat(histories.count(A, FROM, end)).isEqualTo(30 * DAY - 20_001).isGreaterThan(2L * Histories.AT_ONCE);
        plotted(histories.outline(A, FROM, end, 600, true));
        long begun = T0 + 3 * HOUR;
        List<String> byHour = folds(begun, T0 + 29L * DAY * S, 5 * HOUR);
        List<String> bySeconds = folds(T0 + 23L * DAY * S + 17 * S, T0 + 24L * DAY * S, 1000 * S);
        // Long ones that begin and end anywhere: hours between, values at their ends.
        long anywhere = T0 + 2L * DAY * S + 17 * S + 3;
        List<String> whole = folds(anywhere, T0 + 25L * DAY * S + 777 * S, 30L * DAY * S);
        List<String> byDays = folds(anywhere, T0 + 25L * DAY * S + 777 * S, 40 * HOUR + 11 * S);
        putTogether();
        assertThat(count("COUNT(*) FROM archive_block WHERE minutes IS NOT NULL AND hours IS NOT NULL"))
                .isEqualTo(90);
        assertThat(folds(anywhere, T0 + 25L * DAY * S + 777 * S, 30L * DAY * S)).isEqualTo(whole);
        assertThat(folds(anywhere, T0 + 25L * DAY * S + 777 * S, 40 * HOUR + 11 * S))
                .isEqualTo(byDays);
        plotted(histories.outline(A, FROM, end, 600, true));
        assertThat(folds(begun, T0 + 29L * DAY * S, 5 * HOUR)).isEqualTo(byHour);
        assertThat(folds(T0 + 23L * DAY * S + 17 * S, T0 + 24L * DAY * S, 1000 * S))
                .isEqualTo(bySeconds);
    }

    private static void plotted(Samples points) {
        double most = Double.NEGATIVE_INFINITY;
        double least = Double.POSITIVE_INFINITY;
        int gaps = 0;
        for (int i = 0; i < points.size(); i++) {
            if (i > 0) {
                assertThat(points.time(i)).isGreaterThanOrEqualTo(points.time(i - 1));
            }
            if (points.grade(i) == Samples.GAP) {
                gaps++;
            } else {
                most = Math.max(most, points.value(i));
                least = Math.min(least, points.value(i));
            }
        }
        assertThat(most).isEqualTo(99.5);
        assertThat(least).isEqualTo(-7.25);
        assertThat(gaps).as("the one that there is, and none between two parts").isEqualTo(1);
        assertThat(points.size()).isBetween(1500, 3000);
    }

    private static long count(String what) {
        return JDBC.sql("SELECT " + what).query(Long.class).single();
    }

    @Test
    void whatComesLateAndWhatIsOnItsWayStandsInSummariesToo() throws Exception {
        days(14, 16);
        long from = T0 + 14L * DAY * S;
        long to = T0 + 16L * DAY * S;
        putTogether();
        Arrivals late = new Arrivals();
        late.add(T0 + 14L * DAY * S + 5 * S, 500.0, 0);
        bring(late);
        Column tail = new Column(Column.Sort.NUMBER, 1);
        tail.addNumber(T0 + (15L * DAY + 1000) * S + 1, 600.0, 0);
        onItsWay = List.of(tail);
        List<String> before = folds(from, to, 7 * MINUTE);
        assertThat(before.get(0)).contains(" 500.000000 ");
        assertThat(String.join("", before)).contains(" 600.000000 ").contains(" 99.500000 ");
        putTogether();
        assertThat(folds(from, to, 7 * MINUTE)).isEqualTo(before);
        // A summary that was altered is none; the values are there.
        JDBC.sql(
                        "UPDATE archive_block SET minutes = INSERT(minutes, 40, 1, CHAR(7)), hours = INSERT(hours, 40, 1, CHAR(7))")
                .update();
        forget();
        assertThat(folds(from, to, 7 * MINUTE)).isEqualTo(before);
        // Where the values were altered, nothing is drawn across them.
        JDBC.sql("UPDATE archive_block SET data = INSERT(data, 400, 1, CHAR(7)) ORDER BY span LIMIT 1")
                .update();
        forget();
        assertThat(folds(from, from + HOUR, 10 * MINUTE)).allMatch(line -> line.contains(" NaN "));
    }

    @Test
    void whatWasFoldedLatelyIsNotReadAgain() throws Exception {
        days(14, 16);
        putTogether();
        long from = T0 + 14L * DAY * S;
        long to = T0 + 16L * DAY * S;
        List<String> before = folds(from, to, 7 * MINUTE);
        List<String> hours = folds(from, to, HOUR);
        Samples plot = histories.outline(A, FROM.plusSeconds(14L * DAY), FROM.plusSeconds(16L * DAY), 300, true);
        JDBC.sql("UPDATE archive_block SET data = '', minutes = '', hours = ''").update();
        assertThat(folds(from, to, 7 * MINUTE)).isEqualTo(before);
        assertThat(folds(from, to, HOUR)).isEqualTo(hours);
        assertThat(histories
                        .outline(A, FROM.plusSeconds(14L * DAY), FROM.plusSeconds(16L * DAY), 300, true)
                        .size())
                .isEqualTo(plot.size());
        forget();
        assertThat(folds(from, to, 7 * MINUTE)).isNotEqualTo(before);
    }

    /** Blocks in which a window begins and ends are in memory as well: else all between them would be read again each time. */
    @ParameterizedTest
    @ValueSource(booleans = {false, true})
    void ofAWindowThatBeginsAmidABlockNothingIsReadAgain(boolean together) throws Exception {
        days(14, 16);
        if (together) {
            putTogether();
        }
        Plot amid = new Plot(T0 + 14L * DAY * S + 17 * S + 3, T0 + 16L * DAY * S - 1234 * S, 300);
        List<String> before = amid.drawn();
        assertThat(before).hasSizeGreaterThan(300);
        JDBC.sql("UPDATE archive_block SET data = '', minutes = '', hours = ''").update();
        assertThat(amid.drawn()).isEqualTo(before);
    }

    /** What has minutes and no hours, since it would save too little, is there among others that have them. */
    @Test
    void whatIsTooShortForHoursIsThereAmongOthers() throws Exception {
        days(14, 15);
        Arrivals few = new Arrivals();
        for (int i = 0; i < 400; i++) {
            few.add(T0 + (15L * DAY + i) * S, Math.sin(i), i == 200 ? 1 << 30 : 0);
        }
        bring(few);
        putTogether();
        long begun = T0 + 15L * DAY * S;
        List<String> before = folds(begun, begun + HOUR, HOUR);
        assertThat(old.summarizeBefore(KEY, begun + DAY * S, 10)).isEqualTo(4);
        assertThat(count("COUNT(*) FROM archive_block WHERE whole = 3 AND hours IS NULL AND minutes IS NOT NULL"))
                .isEqualTo(1);
        assertThat(before).singleElement().asString().contains(" 399.000000 ");
        assertThat(folds(begun, begun + HOUR, HOUR)).isEqualTo(before);
    }

    /** A block of nothing but a gap has no values and no summary: the line breaks there all the same. */
    @Test
    void aGapAloneInItsSpanIsThereAmongSummaries() throws Exception {
        days(14, 15);
        Arrivals gap = new Arrivals();
        gap.add(T0 + 15L * DAY * S + 60 * S, null, Marks.of(Gap.AWAY));
        bring(gap);
        days(16, 17);
        putTogether();
        Samples plot = histories.outline(A, FROM.plusSeconds(14L * DAY), FROM.plusSeconds(17L * DAY), 300, true);
        int gaps = 0;
        for (int i = 0; i < plot.size(); i++) {
            gaps += plot.grade(i) == Samples.GAP ? 1 : 0;
        }
        assertThat(gaps).isEqualTo(1);
    }

    /** What came late to a time of which summaries alone are left, and is old itself now. */
    @Test
    void summariesThatOverlapAreReadAsFarAsTheyFit() throws Exception {
        days(14, 15);
        putTogether();
        long from = T0 + 14L * DAY * S;
        assertThat(old.summarizeBefore(KEY, from + DAY * S, 10)).isEqualTo(3);
        List<String> before = folds(from, from + DAY * S, 7 * MINUTE);
        Arrivals late = new Arrivals();
        for (int i = 0; i < 4000; i++) {
            late.add(from + HOUR + (2L * i + 1) * S / 2, 77.0, 0);
        }
        bring(late);
        putTogether();
        assertThat(folds(from, from + DAY * S, 7 * MINUTE)).isEqualTo(before);
        assertThat(old.summarizeBefore(KEY, from + DAY * S, 10)).isEqualTo(1);
        assertThat(folds(from, from + DAY * S, 7 * MINUTE)).isEqualTo(before);
        assertThat(count("COUNT(*) FROM archive_block WHERE whole = 3")).isEqualTo(4);
    }

    /** Numbers of blocks begin anew there, and those of two tags may look alike from outside. */
    @Test
    void whereOurOwnDatabaseIsANewOneNoTagIsTakenForAnother() throws Exception {
        JDBC.sql("TRUNCATE archive_block").update();
        days(14, 15);
        putTogether();
        long from = T0 + 14L * DAY * S;
        assertThat(folds(from, from + HOUR, HOUR)).singleElement().asString().contains(" 2.250000 ");
        JDBC.sql("TRUNCATE archive_block").update();
        days(14, 15);
        putTogether();
        TagRef other = new TagRef("5ca1ab1e", "b");
        JDBC.sql("UPDATE archive_block SET tag = ?").param(TagKey.of(other)).update();
        JDBC.sql("UPDATE archive_block SET minutes = NULL, hours = NULL, data = ''")
                .update();
        histories.fold(other, from, from + HOUR, HOUR, Method.SLOPED, Fold.ALL, fold -> assertThat(line(fold))
                .doesNotContain(" 2.250000 "));
    }

    /**
     * Whatever is done to the blocks of a tag, in any order: what is partly in memory comes to what is read anew, and as long as
     * no values are gone to what these come to by themselves.
     */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6, 7, 8})
    void whatIsInMemoryIsNeverOlderThanTheDatabase(long seed) throws Exception {
        Random random = new Random(seed);
        boolean kept = seed % 2 == 0;
        long begun = T0 + 10L * DAY * S;
        Histories lasting = histories;
        for (int step = 0; step < 40; step++) {
            switch (random.nextInt(kept ? 4 : 6)) {
                case 0 -> putTogether();
                case 4 -> old.summarizeBefore(KEY, begun + random.nextInt(5) * ArchiveStore.SPAN, 3);
                case 5 -> old.removeBefore(KEY, begun + random.nextInt(2) * ArchiveStore.SPAN, 1);
                default -> bring(some(random, begun));
            }
            onItsWay =
                    random.nextInt(3) == 0 ? Block.columns(some(random, begun).series()) : List.of();
            long from = begun + random.nextInt(24) * HOUR;
            long to = from + (1 + random.nextInt(24)) * HOUR;
            long length = random.nextBoolean() ? HOUR : (1 + random.nextInt(90)) * MINUTE;
            Plot plot = new Plot(from + random.nextInt(3) * 12_345_670_000L, to, 10 + random.nextInt(400));
            histories = lasting;
            List<String> known = foldsAndPlot(from, to, length, plot);
            String where = String.format("seed %d, step %d", seed, step);
            forget();
            assertThat(known).as(where).isEqualTo(foldsAndPlot(from, to, length, plot));
            assertThat(known).as(where + ", again").isEqualTo(foldsAndPlot(from, to, length, plot));
            if (kept) {
                assertThat(folds(from, to, length)).as(where).isEqualTo(byThemselves(from, to, length));
                assertThat(plot.drawn()).as(where).isEqualTo(plot.byItself());
            }
        }
    }

    /** A plot that begins anywhere. */
    private final class Plot {

        private final long from;
        private final long to;
        private final int points;

        private Plot(long from, long to, int points) {
            this.from = from;
            this.to = Math.max(to, from + MINUTE);
            this.points = points;
        }

        private List<String> drawn() throws Problem {
            return lines(histories.outlined(A, OpcUaTime.toInstant(from), OpcUaTime.toInstant(to), points, false));
        }

        /** Of its values, each for itself. */
        private List<String> byItself() throws Problem {
            List<Fold> folds = new ArrayList<>();
            Intervals.ofPlot(from, to, points)
                    .fold(values(from, to), Method.SLOPED, Long.MAX_VALUE, Fold.ALL, folds::add);
            List<Fold> whole = new ArrayList<>();
            Folding.fold(values(from, to), Method.SLOPED, from, to, to - from, Long.MAX_VALUE, whole::add);
            return lines(new Histories.Outlined(
                    Outline.of(folds), Trouble.in(folds, Long.MAX_VALUE), Optional.of(whole.get(0)), ""));
        }

        private static List<String> lines(Histories.Outlined plot) {
            List<String> lines = new ArrayList<>();
            for (int i = 0; i < plot.points().size(); i++) {
                lines.add(plot.points().time(i) + " " + plot.points().value(i) + " "
                        + plot.points().grade(i));
            }
            plot.trouble().forEach(each -> lines.add(each.toString()));
            plot.whole().ifPresent(whole -> lines.add(lineOfPlot(whole)));
            lines.add(plot.told());
            return lines;
        }
    }

    /** As far as they are looked at: to the end of the span in which the time ends. */
    private Samples values(long from, long to) throws Problem {
        Samples all = histories
                .read(A, OpcUaTime.toInstant(from), OpcUaTime.toInstant(to))
                .series()
                .samples();
        Samples some = new Samples(all.size());
        for (int i = 0; i < all.size() && ArchiveStore.spanOf(all.time(i)) <= ArchiveStore.spanOf(to); i++) {
            some.add(all.time(i), all.value(i), all.grade(i));
        }
        return some;
    }

    private List<String> byThemselves(long from, long to, long length) throws Problem {
        List<String> lines = new ArrayList<>();
        Folding.fold(
                values(from, to),
                Method.SLOPED,
                from,
                to,
                length,
                Long.MAX_VALUE,
                Fold.ALL,
                fold -> lines.add(line(fold)));
        return lines;
    }

    /** Many or few values of some hours, one of them bad, or a gap, wherever they lie. */
    private static Arrivals some(Random random, long begun) {
        Arrivals values = new Arrivals();
        long time = begun + random.nextInt(40) * HOUR + random.nextInt(3600) * S;
        int many = random.nextInt(4) == 0 ? 3 : 4000;
        for (int i = 0; i < many; i++) {
            time += (1 + random.nextInt(4)) * S;
            values.add(time, (double) random.nextInt(1000), i == many / 2 ? 1 << 30 : 0);
        }
        if (random.nextInt(5) == 0) {
            values.add(time + S, null, Marks.of(Gap.AWAY));
        }
        return values;
    }

    private List<String> foldsAndPlot(long from, long to, long length, Plot plot) {
        List<String> all = new ArrayList<>();
        try {
            all.addAll(folds(from, to, length));
        } catch (Problem told) {
            all.add(told.getMessage());
        }
        try {
            all.addAll(plot.drawn());
        } catch (Problem told) {
            all.add(told.getMessage());
        }
        return all;
    }

    /** While pieces come and are put together, whoever reads misses none and sees none twice. */
    @Test
    void whoReadsWhileBlocksArePutTogetherMissesNothing() throws Exception {
        days(14, 15);
        putTogether();
        long from = T0 + 14L * DAY * S;
        AtomicReference<Throwable> broke = new AtomicReference<>();
        AtomicInteger there = new AtomicInteger(DAY);
        Thread plant = Threads.once("plant", () -> {
            try {
                for (int nth = 0; nth < 300; nth++) {
                    Arrivals one = new Arrivals();
                    one.add(from + (DAY + nth) * S, 1.0, 0);
                    bring(one);
                    there.incrementAndGet();
                    if (nth % 7 == 6) {
                        putTogether();
                    }
                }
            } catch (Problem | RuntimeException problem) {
                broke.set(problem);
            }
        });
        int reads = 0;
        while (plant.isAlive() || reads == 0) {
            int least = there.get();
            List<Long> counts = new ArrayList<>();
            histories.fold(
                    A,
                    from,
                    from + 2L * DAY * S,
                    2L * DAY * S,
                    Method.STEPPED,
                    Fold.ALL,
                    fold -> counts.add(fold.count()));
            assertThat(counts).singleElement().satisfies(count -> assertThat(count)
                    .isBetween((long) least, there.get() + 1L));
            reads++;
        }
        assertThat(broke.get()).isNull();
        assertThat(there.get()).isEqualTo(DAY + 300);
        assertThat(reads).isGreaterThan(10);
    }

    @Test
    void hoursStandInAPlainTableThatAnyClientReads() throws Exception {
        days(23, 24); // with the gap
        putTogether();
        long begun = T0 + 23L * DAY * S;
        assertThat(count("COUNT(*) FROM archive_hour"))
                .as("an hour in which nothing came has no row")
                .isEqualTo(24 - 5);
        assertThat(JDBC.sql(
                                "SELECT CONCAT_WS('|', name, hour, taken, least, greatest, first, last, total, area, good_seconds,"
                                        + " at_end, average) FROM archive_hours ORDER BY hour LIMIT 1")
                        .query(String.class)
                        .single())
                .isEqualTo("A tag|2026-10-24 00:00:00|3600|0|4.5|0|4.5|8100|8100|3600|4.5|2.25");
        // The gap begins 12,800 s after midnight: 2,000 s of its hour are good, and what holds at its end is not known.
        assertThat(JDBC.sql("SELECT CONCAT_WS('|', taken, good_seconds, COALESCE(at_end, 'unknown')) FROM archive_hours"
                                + " WHERE hour = '2026-10-24 03:00:00'")
                        .query(String.class)
                        .single())
                .isEqualTo("2000|2000|unknown");
        assertThat(count("ROUND(1000 * AVG(average)) FROM archive_hours WHERE taken = 3600"))
                .isEqualTo(2250);
        // A late value in the span before changes what holds at the beginning of the next.
        Arrivals other = new Arrivals();
        other.add(begun + 24 * HOUR + 1800 * S, 8.0, 0);
        bring(other);
        putTogether();
        assertThat(count("ROUND(area) FROM archive_hour ORDER BY hour DESC LIMIT 1"))
                .isEqualTo((long) (4.5 * 1800 + 8.0 * 1800));
        Arrivals late = new Arrivals();
        late.add(begun + 24 * HOUR - 1, 100.0, 0);
        bring(late);
        putTogether();
        assertThat(count("ROUND(area) FROM archive_hour ORDER BY hour DESC LIMIT 1"))
                .isEqualTo((long) (100.0 * 1800 + 8.0 * 1800));
        // An hour that is not over has no row yet.
        table.putTogether(KEY, ArchiveStore.spanOf(begun), begun + 2 * HOUR - 1);
        assertThat(count("COUNT(*) FROM archive_hour WHERE hour < '2026-10-24 08:00:00'"))
                .isEqualTo(1);
    }

    @Test
    void whenValuesAreOldTheirSummariesStay() throws Exception {
        days(14, 17);
        Arrivals few = new Arrivals();
        few.add(T0 + 13L * DAY * S, 1.0, 0);
        few.add(T0 + 13L * DAY * S + S, 2.0, 0);
        few.add(T0 + 13L * DAY * S + 2 * S, "a text", 0);
        bring(few);
        putTogether();
        long from = T0 + 14L * DAY * S;
        long to = T0 + 17L * DAY * S;
        List<String> before = folds(from, to, 7 * MINUTE);
        List<String> hours = folds(from, to, HOUR);
        assertThat(old.summarizeBefore(KEY, T0 + 16L * DAY * S, 5)).isEqualTo(5);
        assertThat(old.summarizeBefore(KEY, T0 + 16L * DAY * S, 5)).isEqualTo(3);
        assertThat(old.summarizeBefore(KEY, T0 + 16L * DAY * S, 5)).isZero();
        assertThat(folds(from, to, 7 * MINUTE)).isEqualTo(before);
        assertThat(folds(from, to, HOUR)).isEqualTo(hours);
        assertThat(table.later()).containsEntry("removed", 2L * DAY + 1);
        assertThat(count("SUM(taken) FROM archive_block"))
                .as("two of few, and the last day")
                .isEqualTo(DAY + 2);
        assertThat(histories
                        .read(A, FROM.plusSeconds(14L * DAY), FROM.plusSeconds(15L * DAY))
                        .series()
                        .size())
                .isEqualTo(2);
        // What is finer than a summary is not there any more: that is said, and a plot has minutes.
        assertThatThrownBy(() -> folds(from, from + HOUR, 10 * S)).hasMessageContaining("whole minutes");
        Samples points =
                histories.outline(A, FROM.plusSeconds(14L * DAY + 7), FROM.plusSeconds(14L * DAY + 3607), 600, true);
        assertThat(points.size()).isBetween(61, 300);
        // A plot of hours that ends amid one.
        assertThat(histories
                        .outline(A, FROM.plusSeconds(DAY), FROM.plusSeconds(15L * DAY + 1234), 100, true)
                        .size())
                .isBetween(20, 1000);
        assertThat(folds(from, from + HOUR + 30 * MINUTE, HOUR)).hasSize(2);
        // What comes to such a time all the same takes no hours away.
        Arrivals late = new Arrivals();
        late.add(from + 90 * S, 77.0, 0);
        bring(late);
        putTogether();
        assertThat(count("COUNT(*) FROM archive_hour WHERE taken = 3600 AND hour < '2026-10-15 08:00:00'"))
                .isEqualTo(8);
        assertThat(old.removeBefore(KEY, T0 + 16L * DAY * S, 100)).isEqualTo(8);
        assertThat(count("COUNT(*) FROM archive_hour")).isEqualTo(24);
        assertThat(count("COUNT(*) FROM archive_block")).isEqualTo(3);
    }
}
