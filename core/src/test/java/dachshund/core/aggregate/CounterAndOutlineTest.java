package dachshund.core.aggregate;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.apache.commons.math3.stat.descriptive.rank.Percentile.EstimationType;
import org.junit.jupiter.api.Test;

class CounterAndOutlineTest {

    private static final long S = 10_000_000L;

    /** Values a second apart; NaN is a gap. */
    private static Samples each(double... values) {
        Samples samples = new Samples(values.length);
        for (int i = 0; i < values.length; i++) {
            samples.add(i * S, values[i], Double.isNaN(values[i]) ? Samples.GAP : Samples.GOOD);
        }
        return samples;
    }

    private static double rise(Counter counter, Samples samples) {
        return counter.over(samples, Method.STEPPED, 0, samples.size() * S, samples.size() * S)
                .get(0)
                .value();
    }

    /** Common practice, no source: from 65,530 to 4 a counter of 16 bits has counted 10. */
    @Test
    void aCounterGoesRoundAndIsReset() {
        Counter sixteen = Counter.thatRollsOver(65_536);
        assertThat(rise(sixteen, each(65_530, 4))).isEqualTo(10);
        assertThat(rise(sixteen, each(65_500, 65_530, 4, 20))).isEqualTo(30 + 10 + 16);
        assertThat(rise(sixteen, each(30_000, 5))).as("not round: reset").isEqualTo(5);
        assertThat(rise(Counter.thatIsReset(), each(1000, 1200, 7, 9))).isEqualTo(200 + 7 + 2);
        assertThat(rise(Counter.thatRollsOver(99_999_999), each(99_999_990, 1))).isEqualTo(10);
    }

    @Test
    void aRiseIsSpreadOverTheTimeInWhichItRose() {
        Samples samples = new Samples(3);
        samples.add(0, 100, Samples.GOOD);
        samples.add(60 * S, 160, Samples.GOOD);
        samples.add(90 * S, 250, Samples.GOOD);
        List<Result> quarter = Counter.thatIsReset().over(samples, Method.SLOPED, 15 * S, 95 * S, 20 * S);
        assertThat(quarter).extracting(Result::value).containsExactly(20.0, 20.0, 5 + 45.0, 45.0);
        quarter = Counter.thatIsReset().over(samples, Method.STEPPED, 15 * S, 95 * S, 20 * S);
        assertThat(quarter).extracting(Result::value).containsExactly(Double.NaN, Double.NaN, 60.0, 90.0);
    }

    @Test
    void whatRoseInAGapIsCountedWhereItWasSeenAgainAndIsUncertain() {
        Samples samples = each(100, 110, Double.NaN, Double.NaN, 170, 180);
        List<Result> rises = Counter.thatIsReset().over(samples, Method.SLOPED, 0, 6 * S, 2 * S);
        assertThat(rises).extracting(Result::value).containsExactly(10.0, Double.NaN, 70.0);
        assertThat(rises).extracting(Result::grade).containsExactly(Samples.GOOD, Samples.BAD, Samples.UNCERTAIN);
    }

    @Test
    void timeAboveALimitGoesByTheLine() {
        Samples samples = each(0, 10, 10, 0, 20);
        assertThat(Above.seconds(samples, Method.SLOPED, 5, 0, 4 * S, 4 * S))
                .isCloseTo(0.5 + 1 + 0.5 + 0.75, within(1e-9));
        assertThat(Above.seconds(samples, Method.STEPPED, 5, 0, 6 * S, 5 * S)).isEqualTo(3);
        assertThat(Above.seconds(samples, Method.STEPPED, 10, 0, 4 * S, 5 * S))
                .as("25 is not above 25")
                .isZero();
        assertThat(Above.seconds(samples, Method.SLOPED, 5, S + S / 2, 2 * S, 4 * S))
                .isEqualTo(0.5);
        assertThat(Above.seconds(each(9, Double.NaN, 9), Method.STEPPED, 5, 0, 4 * S, 3 * S))
                .isEqualTo(2);
    }

    /** Ticks of today are more than a double can tell apart. */
    @Test
    void timeAboveALimitIsExactToATickToday() {
        long today = 134_100_000_000_000_001L;
        Samples samples = new Samples(2);
        samples.add(today, 10, Samples.GOOD);
        samples.add(today + 3, 0, Samples.GOOD);
        samples.add(today + 10, 8, Samples.GOOD);
        double above = Above.seconds(samples, Method.STEPPED, 5, today, today + 15, today + 15);
        assertThat(above * S).isCloseTo(3 + 5, within(1e-9));
    }

    /** commons-math knows the same estimate. */
    @Property(tries = 300)
    void percentilesAreThoseOfAnotherLibrary(@ForAll long seed, @ForAll @IntRange(min = 1, max = 100) int percent) {
        Random random = new Random(seed);
        double[] values = random.doubles(1 + random.nextInt(40), -50, 50).toArray();
        double expected = new org.apache.commons.math3.stat.descriptive.rank.Percentile(percent)
                .withEstimationType(EstimationType.R_7)
                .evaluate(values);
        assertThat(Percentile.of(each(values), Method.SLOPED, percent, 0, values.length * S))
                .isCloseTo(expected, within(1e-9));
    }

    @Test
    void withoutValuesThereIsNoPercentile() {
        assertThat(Percentile.of(each(Double.NaN), Method.SLOPED, 50, 0, S)).isNaN();
    }

    /** However few points are drawn, the least and the greatest value are among them, in order, and nothing that is none. */
    @Property(tries = 300)
    void anOutlineLosesNoExtreme(@ForAll long seed, @ForAll @IntRange(min = 1, max = 50) int across) {
        Random random = new Random(seed);
        double[] values = random.doubles(400, -1, 1).toArray();
        values[random.nextInt(400)] = 40;
        values[random.nextInt(400)] = -40;
        Samples samples = each(values);
        List<Fold> folds = new ArrayList<>();
        Folding.fold(samples, Method.SLOPED, 0, 400 * S, (400 * S + across - 1) / across, 400 * S, folds::add);
        Samples outline = Outline.of(folds);
        assertThat(outline.size()).isLessThanOrEqualTo(4 * across + 1);
        double least = 0;
        double greatest = 0;
        for (int i = 0; i < outline.size(); i++) {
            least = Math.min(least, outline.value(i));
            greatest = Math.max(greatest, outline.value(i));
            int at = (int) (outline.time(i) / S);
            assertThat(outline.value(i)).isEqualTo(values[at]);
        }
        assertThat(greatest).isEqualTo(Arrays.stream(values).max().orElseThrow());
        assertThat(least).isEqualTo(Arrays.stream(values).min().orElseThrow());
    }

    @Test
    void anOutlineStopsAtAGap() {
        Samples samples = new Samples(4);
        samples.add(0, 1, Samples.GOOD);
        samples.add(10 * S, 2, Samples.GOOD);
        samples.add(20 * S, Double.NaN, Samples.GAP);
        samples.add(70 * S, 3, Samples.GOOD);
        for (int across : new int[] {1, 4, 100}) {
            List<Fold> folds = new ArrayList<>();
            Folding.fold(samples, Method.SLOPED, 0, 80 * S, 80 * S / across, 80 * S, folds::add);
            Samples outline = Outline.of(folds);
            int breaks = 0;
            for (int i = 0; i < outline.size(); i++) {
                breaks += outline.grade(i) == Samples.GAP ? 1 : 0;
            }
            assertThat(breaks).as("%d across", across).isEqualTo(across == 1 ? 0 : 1);
        }
    }
}
