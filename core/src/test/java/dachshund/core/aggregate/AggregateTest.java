package dachshund.core.aggregate;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.apache.commons.math3.analysis.interpolation.LinearInterpolator;
import org.apache.commons.math3.analysis.polynomials.PolynomialSplineFunction;
import org.apache.commons.math3.stat.descriptive.DescriptiveStatistics;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Against OPC 10000-13, NIST's certified values and commons-math. */
class AggregateTest {

    private static final long S = 10_000_000L;
    private static final Method UNCERTAIN_USED = new Method(false, false, 100, 100);
    private static final Method STEPPED_USED = new Method(true, false, 100, 100);

    /**
     * The first data set of the standard's Annex A, from memory: a value each 10 s, one of them bad, one uncertain. Times are
     * seconds after 12:00:00. Results follow from the definitions of the standard and were worked out by hand.
     */
    private static Samples annex() {
        Samples samples = new Samples(2);
        samples.add(0, Double.NaN, Samples.BAD);
        for (int i = 1; i <= 9; i++) {
            samples.add(i * 10L * S, i * 10, i == 4 ? Samples.BAD : i == 7 ? Samples.UNCERTAIN : Samples.GOOD);
        }
        return samples;
    }

    private static List<Result> results(
            Samples samples, Aggregate aggregate, Method method, long from, long to, long step) {
        List<Result> all = new ArrayList<>();
        long until = samples.time(samples.size() - 1);
        Folding.fold(
                samples, method, from, to, step, until, aggregate.parts(), fold -> all.add(aggregate.of(fold, method)));
        return all;
    }

    private static Result one(Samples samples, Aggregate aggregate, Method method, long from, long to) {
        return results(samples, aggregate, method, from, to, to - from).get(0);
    }

    private static double value(Aggregate aggregate, Method method, int from, int to) {
        return one(annex(), aggregate, method, from * S, to * S).value();
    }

    @Test
    void averagesAreOfTheValuesThatCanBeUsed() {
        List<Result> average = results(annex(), Aggregate.AVERAGE, UNCERTAIN_USED, 0, 96 * S, 16 * S);
        assertThat(average).extracting(Result::value).containsExactly(10.0, 25.0, Double.NaN, 55.0, 70.0, 85.0);
        assertThat(average)
                .extracting(Result::grade)
                .containsExactly(
                        Samples.UNCERTAIN, Samples.GOOD, Samples.BAD, Samples.GOOD, Samples.UNCERTAIN, Samples.GOOD);
        assertThat(one(annex(), Aggregate.AVERAGE, Method.SLOPED, 64 * S, 80 * S)
                        .present())
                .as("uncertain is as bad as bad, by default")
                .isFalse();
    }

    @ParameterizedTest
    @CsvSource({
        "15, 15, GOOD",
        "25, 25, GOOD",
        "35, 35, UNCERTAIN",
        "40, 40, UNCERTAIN",
        "45, 45, UNCERTAIN",
        "50, 50, GOOD",
        "65, 65, UNCERTAIN",
        "70, 70, UNCERTAIN",
        "85, 85, GOOD",
        "90, 90, GOOD"
    })
    void interpolationBridgesBadValuesAndSaysSo(int at, double value, String grade) {
        Result result = one(annex(), Aggregate.INTERPOLATED, UNCERTAIN_USED, at * S, (at + 5) * S);
        assertThat(result.value()).isEqualTo(value);
        assertThat(result.grade()).isEqualTo(grade.equals("GOOD") ? Samples.GOOD : Samples.UNCERTAIN);
    }

    @Test
    void beforeTheFirstValueThereIsNone() {
        assertThat(one(annex(), Aggregate.INTERPOLATED, UNCERTAIN_USED, 0, 5 * S)
                        .present())
                .isFalse();
        assertThat(one(annex(), Aggregate.TIME_AVERAGE, UNCERTAIN_USED, 0, 10 * S)
                        .grade())
                .isEqualTo(Samples.BAD);
        assertThat(one(annex(), Aggregate.START_BOUND, UNCERTAIN_USED, 42 * S, 50 * S)
                        .present())
                .as("the value before it is bad")
                .isFalse();
    }

    /** The line from 10 at 10 s to 90 at 90 s: over any part of it the mean is the value in its middle. */
    @Test
    void averagesByTimeGoAlongTheLine() {
        assertThat(value(Aggregate.TIME_AVERAGE, UNCERTAIN_USED, 10, 30)).isEqualTo(20);
        assertThat(value(Aggregate.TIME_AVERAGE_BRIDGED, UNCERTAIN_USED, 16, 80))
                .isEqualTo(48);
        // 30 is held up to the bad value at 40 s, and there is none up to 50 s: (20+30)/2 for 10 s, 30 for 10 s, 55 for
        // 10 s.
        assertThat(value(Aggregate.TIME_AVERAGE, UNCERTAIN_USED, 20, 60)).isEqualTo((25 + 30 + 55) / 3.0);
        assertThat(value(Aggregate.TIME_AVERAGE, STEPPED_USED, 20, 60)).isEqualTo((20 + 30 + 50) / 3.0);
        assertThat(value(Aggregate.TOTAL, UNCERTAIN_USED, 20, 60)).isEqualTo(250 + 300 + 550);
        assertThat(value(Aggregate.TOTAL_BRIDGED, UNCERTAIN_USED, 16, 80)).isEqualTo(48 * 64);
    }

    @Test
    void qualityOfTimeIsThatOfTheValueAtItsBeginning() {
        assertThat(value(Aggregate.DURATION_GOOD, UNCERTAIN_USED, 0, 60)).isEqualTo(40);
        assertThat(value(Aggregate.DURATION_BAD, UNCERTAIN_USED, 0, 60)).isEqualTo(20);
        assertThat(value(Aggregate.PERCENT_GOOD, UNCERTAIN_USED, 30, 50)).isEqualTo(50);
        assertThat(value(Aggregate.DURATION_GOOD, Method.SLOPED, 60, 80)).isEqualTo(10);
        assertThat(value(Aggregate.WORST_QUALITY, UNCERTAIN_USED, 50, 90)).isEqualTo(Samples.UNCERTAIN);
        assertThat(value(Aggregate.WORST_QUALITY, UNCERTAIN_USED, 30, 50)).isEqualTo(Samples.BAD);
    }

    @Test
    void extremesComeWithTheirTimesAndSayWhereThereAreTwo() {
        Result least = one(annex(), Aggregate.MINIMUM_WITH_TIME, UNCERTAIN_USED, 16 * S, 64 * S);
        assertThat(least).isEqualTo(new Result(20 * S, 20, Samples.UNCERTAIN, 38 / 48.0, false));
        Result most = one(annex(), Aggregate.MAXIMUM_WITH_TIME, UNCERTAIN_USED, 16 * S, 64 * S);
        assertThat(most.at()).isEqualTo(60 * S);
        Samples twice = new Samples(4);
        twice.add(0, 5, Samples.GOOD);
        twice.add(S, 7, Samples.GOOD);
        twice.add(2 * S, 7, Samples.GOOD);
        twice.add(3 * S, 6, Samples.GOOD);
        most = one(twice, Aggregate.MAXIMUM_WITH_TIME, Method.SLOPED, 0, 4 * S);
        assertThat(most.twice()).isTrue();
        assertThat(most.at()).as("the first of them").isEqualTo(S);
        assertThat(one(twice, Aggregate.MINIMUM, Method.SLOPED, 0, 4 * S).twice())
                .isFalse();
    }

    @Test
    void startsEndsAndChanges() {
        assertThat(value(Aggregate.START, UNCERTAIN_USED, 16, 64)).isEqualTo(20);
        assertThat(value(Aggregate.END, UNCERTAIN_USED, 16, 64)).isEqualTo(60);
        assertThat(value(Aggregate.DELTA, UNCERTAIN_USED, 16, 64)).isEqualTo(40);
        assertThat(value(Aggregate.DELTA_BOUNDS, UNCERTAIN_USED, 16, 64)).isEqualTo(48);
        assertThat(value(Aggregate.END_BOUND, UNCERTAIN_USED, 16, 60)).isEqualTo(60);
        assertThat(value(Aggregate.RANGE, UNCERTAIN_USED, 0, 90)).isEqualTo(70);
        assertThat(value(Aggregate.COUNT, UNCERTAIN_USED, 0, 90)).isEqualTo(7);
        assertThat(value(Aggregate.TRANSITIONS, UNCERTAIN_USED, 10, 90))
                .as("a bad one is none")
                .isEqualTo(6);
        assertThat(value(Aggregate.TRANSITIONS, UNCERTAIN_USED, 15, 25))
                .as("also from before")
                .isEqualTo(1);
    }

    @Test
    void timeInAStateIsCountedFromTheValueBefore() {
        Samples runs = new Samples(4);
        runs.add(0, 1, Samples.GOOD);
        runs.add(40 * S, 0, Samples.GOOD);
        runs.add(70 * S, 1, Samples.GOOD);
        runs.add(200 * S, 0, Samples.GOOD);
        assertThat(one(runs, Aggregate.DURATION_ZERO, Method.STEPPED, 30 * S, 90 * S)
                        .value())
                .isEqualTo(30);
        assertThat(one(runs, Aggregate.DURATION_NOT_ZERO, Method.STEPPED, 30 * S, 90 * S)
                        .value())
                .isEqualTo(30);
    }

    /** Nothing is drawn over a time in which nothing was recorded, whatever stands on both sides. */
    @Test
    void aGapIsNeverBridged() {
        Samples samples = new Samples(4);
        samples.add(0, 10, Samples.GOOD);
        samples.add(10 * S, 20, Samples.GOOD);
        samples.add(20 * S, Double.NaN, Samples.GAP);
        samples.add(80 * S, 100, Samples.GOOD);
        samples.add(100 * S, 100, Samples.GOOD);
        assertThat(one(samples, Aggregate.INTERPOLATED, UNCERTAIN_USED, 50 * S, 60 * S)
                        .present())
                .isFalse();
        assertThat(one(samples, Aggregate.TIME_AVERAGE_BRIDGED, UNCERTAIN_USED, 10 * S, 100 * S)
                        .value())
                .as("20 for ten seconds, 100 for twenty")
                .isEqualTo((20 * 10 + 100 * 20) / 30.0);
        assertThat(one(samples, Aggregate.TRANSITIONS, UNCERTAIN_USED, 15 * S, 100 * S)
                        .value())
                .isZero();
        Result good = one(samples, Aggregate.PERCENT_GOOD, UNCERTAIN_USED, 0, 100 * S);
        assertThat(good.value()).isEqualTo(40);
        assertThat(one(samples, Aggregate.TIME_AVERAGE, UNCERTAIN_USED, 0, 100 * S)
                        .grade())
                .isEqualTo(Samples.UNCERTAIN);
    }

    @Test
    void theLastValueHoldsUpToWhereItIsKnown() {
        Samples one = new Samples(1);
        one.add(0, 4, Samples.GOOD);
        List<Fold> folds = new ArrayList<>();
        Folding.fold(one, Method.STEPPED, 0, 30 * S, 10 * S, 15 * S, folds::add);
        assertThat(folds).extracting(Fold::goodShare).containsExactly(1.0, 0.5, 0.0);
        assertThat(Aggregate.TIME_AVERAGE.of(folds.get(1), Method.STEPPED).value())
                .isEqualTo(4);
    }

    /** Certified values of NIST's Statistical Reference Datasets for univariate summary statistics, from memory. */
    @ParameterizedTest
    @CsvSource({
        "10000001 10000003 10000002, 0, 10000002, 1",
        "1.2, 1.1 1.3, 1.2, 0.1",
        "1000000.2, 1000000.1 1000000.3, 1000000.2, 0.1",
        "10000000.2, 10000000.1 10000000.3, 10000000.2, 0.1"
    })
    void meansAndDeviationsAreThoseOfNist(String first, String pair, double mean, double deviation) {
        Samples samples = new Samples(1001);
        long at = 0;
        for (String text : first.split(" ")) {
            samples.add(at++, Double.parseDouble(text), Samples.GOOD);
        }
        for (int i = 0; i < 500 && !pair.equals("0"); i++) {
            for (String text : pair.split(" ")) {
                samples.add(at++, Double.parseDouble(text), Samples.GOOD);
            }
        }
        assertThat(one(samples, Aggregate.AVERAGE, Method.SLOPED, 0, at).value())
                .isCloseTo(mean, within(mean * 1e-14));
        assertThat(one(samples, Aggregate.DEVIATION_SAMPLE, Method.SLOPED, 0, at)
                        .value())
                .isCloseTo(deviation, within(deviation * 1e-7));
    }

    private static Samples random(Random random, int size, double bad) {
        Samples samples = new Samples(size);
        long at = 0;
        for (int i = 0; i < size; i++) {
            at += 5 + random.nextInt(20) * S / 10;
            byte grade = random.nextDouble() < bad ? (byte) random.nextInt(4) : Samples.GOOD;
            samples.add(at, random.nextInt(50) - 10, grade);
        }
        return samples;
    }

    /** commons-math says the same of the same values, and of the area under the line through them. */
    @Property(tries = 200)
    void whatAnotherLibrarySays(@ForAll long seed) {
        Samples samples = random(new Random(seed), 60, 0);
        double[] times = IntStream.range(0, 60)
                .mapToDouble(i -> samples.time(i) / (double) S)
                .toArray();
        double[] values = IntStream.range(0, 60).mapToDouble(samples::value).toArray();
        long from = samples.time(7) + 1;
        long to = samples.time(51) - 1;
        DescriptiveStatistics inside = new DescriptiveStatistics();
        IntStream.rangeClosed(8, 50).forEach(i -> inside.addValue(values[i]));
        assertThat(one(samples, Aggregate.AVERAGE, Method.SLOPED, from, to).value())
                .isCloseTo(inside.getMean(), within(1e-9));
        assertThat(one(samples, Aggregate.VARIANCE_SAMPLE, Method.SLOPED, from, to)
                        .value())
                .isCloseTo(inside.getVariance(), within(1e-9));
        assertThat(one(samples, Aggregate.VARIANCE_POPULATION, Method.SLOPED, from, to)
                        .value())
                .isCloseTo(inside.getPopulationVariance(), within(1e-9));
        assertThat(one(samples, Aggregate.RANGE, Method.SLOPED, from, to).value())
                .isEqualTo(inside.getMax() - inside.getMin());
        PolynomialSplineFunction line = new LinearInterpolator().interpolate(times, values);
        double area = 0;
        double[] places = IntStream.rangeClosed(7, 51)
                .mapToDouble(i -> i == 7 ? from / (double) S : i == 51 ? to / (double) S : times[i])
                .toArray();
        for (int i = 1; i < places.length; i++) {
            area += (line.value(places[i - 1]) + line.value(places[i])) / 2 * (places[i] - places[i - 1]);
        }
        assertThat(one(samples, Aggregate.TIME_AVERAGE, Method.SLOPED, from, to).value())
                .isCloseTo(area / (places[places.length - 1] - places[0]), within(1e-6));
        assertThat(one(samples, Aggregate.INTERPOLATED, Method.SLOPED, from, to).value())
                .isCloseTo(line.value(places[0]), within(1e-6));
    }

    /** However it is cut, the parts put together are the whole: what summaries of minutes rest on. */
    @Property(tries = 300)
    void thePartsTogetherAreTheWhole(@ForAll long seed) {
        Random random = new Random(seed);
        Samples samples = random(random, 80, 0.3);
        Method method = new Method(random.nextBoolean(), random.nextBoolean(), 100, 100);
        long from = samples.time(5);
        long to = samples.time(75);
        List<Fold> whole = new ArrayList<>();
        Folding.fold(samples, method, from, to, to - from, to, whole::add);
        List<Fold> parts = new ArrayList<>();
        Folding.fold(samples, method, from, to, 1 + random.nextInt((int) (to - from)), to, parts::add);
        Fold together = Fold.whole(parts).orElseThrow();
        for (Aggregate each : Aggregate.values()) {
            Result a = each.of(whole.get(0), method);
            Result b = each.of(together, method);
            assertThat(b.value())
                    .as("%s", each)
                    .satisfiesAnyOf(value -> assertThat(value).isCloseTo(a.value(), within(1e-6)), value -> assertThat(
                                    Double.isNaN(value) && Double.isNaN(a.value()))
                            .isTrue());
            assertThat(b.at()).as("%s", each).isEqualTo(a.at());
            assertThat(b.grade()).as("%s", each).isEqualTo(a.grade());
            assertThat(b.twice()).as("%s", each).isEqualTo(a.twice());
        }
    }

    /** Nothing is computed that is not asked for, and what is asked for is the same. */
    @Property(tries = 200)
    void whatIsFoldedForOneIsWhatIsFoldedForAll(@ForAll long seed) {
        Random random = new Random(seed);
        Samples every = random(random, 300, random.nextBoolean() ? 0.01 : 0.3);
        Method method = new Method(random.nextBoolean(), random.nextBoolean(), 100, 100);
        long unit = (every.time(299) - every.time(0)) / 20 + 1;
        Samples samples = random.nextBoolean() ? every : every.folded(unit);
        long from = every.time(0) / unit * unit;
        long to = (every.time(299) / unit + 1) * unit;
        long step = unit * (1 + random.nextInt(5));
        List<Fold> all = new ArrayList<>();
        Folding.fold(samples, method, from, to, step, to, all::add);
        for (Aggregate each : Aggregate.values()) {
            List<Fold> some = new ArrayList<>();
            Folding.fold(samples, method, from, to, step, to, each.parts(), some::add);
            for (int i = 0; i < all.size(); i++) {
                assertThat(each.of(some.get(i), method)).as("%s", each).isEqualTo(each.of(all.get(i), method));
            }
        }
        List<Fold> plot = new ArrayList<>();
        Folding.fold(samples, method, from, to, step, to, Outline.PARTS, plot::add);
        assertThat(points(Outline.of(plot))).isEqualTo(points(Outline.of(all)));
    }

    private static List<String> points(Samples of) {
        return IntStream.range(0, of.size())
                .mapToObj(i -> of.time(i) + " " + of.value(i) + " " + of.grade(i))
                .toList();
    }

    @Test
    void whatWasNotFoldedIsNoNumberButADefect() {
        List<Fold> folds = new ArrayList<>();
        Folding.fold(annex(), UNCERTAIN_USED, 0, 96 * S, 96 * S, 96 * S, Aggregate.AVERAGE.parts(), folds::add);
        Fold fold = folds.get(0);
        assertThat(Aggregate.AVERAGE.of(fold, UNCERTAIN_USED).value()).isPositive();
        assertThat(Aggregate.COUNT.of(fold, UNCERTAIN_USED).value()).isPositive();
        for (Aggregate other : List.of(Aggregate.MINIMUM, Aggregate.TIME_AVERAGE, Aggregate.TRANSITIONS)) {
            assertThatThrownBy(() -> other.of(fold, UNCERTAIN_USED))
                    .as("%s", other)
                    .isInstanceOf(IllegalStateException.class);
        }
        assertThatThrownBy(fold::least).isInstanceOf(IllegalStateException.class);
        assertThatThrownBy(() -> Outline.of(folds)).isInstanceOf(IllegalStateException.class);
    }

    @Test
    void everyOneIsFoundByItsNames() {
        for (Aggregate each : Aggregate.values()) {
            assertThat(Aggregate.read(each.words())).contains(each);
            assertThat(Aggregate.read(" " + each.part13().toUpperCase(java.util.Locale.ROOT)))
                    .contains(each);
        }
        assertThat(Aggregate.read("mean-ish")).isEmpty();
    }
}
