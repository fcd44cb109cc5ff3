package dachshund.core.aggregate;

import java.util.Collections;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * What one interval comes to, so that every aggregate can be read off it. Filled by {@link Folding}; intervals that follow
 * each other are put together by {@link #whole}, which is what summaries of minutes and hours are for. Times are 100 ns ticks.
 */
public final class Fold {

    /** What is folded beside numbers of values, the first and the last one, and times by their quality: nothing is computed that nobody asks for. */
    public enum Part {
        /** The least and the greatest value, and when. */
        EXTREMES,
        /** Mean and deviations. */
        MOMENTS,
        /** Values weighted by time. */
        AREA,
        /** How often it changed, and how long it was zero. */
        CHANGES;

        /** Several of them as bits. */
        static int bits(Set<Part> parts) {
            int bits = 0;
            for (Part each : parts) {
                bits |= each.bit();
            }
            return bits;
        }

        private int bit() {
            return 1 << ordinal();
        }
    }

    /** Whatever can be read off a fold. */
    public static final Set<Part> ALL = Collections.unmodifiableSet(EnumSet.allOf(Part.class));

    final long from;
    long to;
    private int parts;

    /** Raw values inside, whatever their quality; those that can be used; those that are uncertain. */
    long raw;

    long count;
    long uncertain;
    byte worst = Samples.GOOD;

    /**
     * Of what can be used, sums of the differences from a value that is among them or their mean, and of their squares: of
     * large numbers that differ little nothing is lost, and no value costs a division.
     */
    private double around;

    private double differences;
    private double squares;

    double least = Double.NaN;
    long leastAt;
    boolean leastTwice;
    double greatest = Double.NaN;
    long greatestAt;
    boolean greatestTwice;

    double first = Double.NaN;
    long firstAt;
    double last = Double.NaN;
    long lastAt;

    long transitions;

    /** Time in which the value can be used, could not, and of what can be used what is uncertain. */
    long usableTicks;

    long badTicks;
    long uncertainTicks;
    /** Sum of value times ticks over the time that can be used. */
    double area;

    /** The same where bad values are bridged, as interpolated bounding values do. */
    long bridgedTicks;

    double bridgedArea;

    long zeroTicks;
    long otherTicks;

    /** The value at the beginning with bad ones bridged, and how far it can be trusted. */
    double interpolated = Double.NaN;

    byte interpolatedGrade = Samples.BAD;

    /** Values at both ends, held or on the line; NaN where there is none. */
    double atStart = Double.NaN;

    double atEnd = Double.NaN;

    Fold(long from, long to) {
        this(from, to, Part.bits(ALL));
    }

    /** @param parts as {@link Part#bits} */
    Fold(long from, long to, int parts) {
        this.from = from;
        this.to = to;
        this.parts = parts;
    }

    /**
     * This, to read some parts off it.
     *
     * @throws IllegalStateException where it was folded without these
     */
    Fold with(int needed) {
        if ((parts & needed) != needed) {
            throw new IllegalStateException("It was not folded with all that is asked for.");
        }
        return this;
    }

    private boolean has(Part part) {
        return (parts & part.bit()) != 0;
    }

    public long from() {
        return from;
    }

    public long to() {
        return to;
    }

    /** How many there are, whatever their quality; gaps too. */
    public long raw() {
        return raw;
    }

    /** How many values can be used. */
    public long count() {
        return count;
    }

    public double least() {
        return with(Part.EXTREMES.bit()).least;
    }

    public long leastAt() {
        return leastAt;
    }

    public double greatest() {
        return with(Part.EXTREMES.bit()).greatest;
    }

    public long greatestAt() {
        return greatestAt;
    }

    public double first() {
        return first;
    }

    public long firstAt() {
        return firstAt;
    }

    public double last() {
        return last;
    }

    public long lastAt() {
        return lastAt;
    }

    /** Which part of its time the value could be used, from 0 to 1. */
    public double goodShare() {
        return to == from ? 0 : (double) usableTicks / (to - from);
    }

    /** Mean of the values that can be used. */
    double mean() {
        return around + differences / count;
    }

    /** Sum of the squared deviations from the mean. */
    double deviations() {
        return Math.max(0, squares - differences * differences / count);
    }

    void take(long time, double value, byte grade, boolean usable) {
        raw++;
        worst = grade > worst ? grade : worst;
        if (!usable) {
            return;
        }
        if (grade == Samples.UNCERTAIN) {
            uncertain++;
        }
        if (count == 0) {
            first = value;
            firstAt = time;
            around = value;
        }
        last = value;
        lastAt = time;
        count++;
        double difference = value - around;
        differences += difference;
        squares += difference * difference;
        less(value, time);
        more(value, time);
    }

    /**
     * Takes the good samples behind a good one, and the time between them, as long as they follow each other.
     *
     * @param upTo  the last tick that one of them may be at
     * @param usual how many they are mostly: a guess that costs nothing where it is wrong
     * @return the last one that was taken
     */
    int takeGood(Samples samples, int from, long upTo, int usual, boolean stepped) {
        long[] times = samples.times();
        double[] values = samples.values();
        int end = samples.goodUpTo(from + 1, upTo, usual);
        if (end == from + 1) {
            return from;
        }
        if (count == 0) {
            first = values[from + 1];
            firstAt = times[from + 1];
            around = first;
        }
        if (has(Part.EXTREMES)) {
            takeExtremes(times, values, from + 1, end);
        }
        if (has(Part.MOMENTS) || has(Part.CHANGES)) {
            takeSums(times, values, from, end, stepped);
        } else {
            takeTime(times[end - 1] - times[from], has(Part.AREA) ? area(times, values, from, end, stepped) : 0);
        }
        raw += end - from - 1;
        count += end - from - 1;
        last = values[end - 1];
        lastAt = times[end - 1];
        return end - 1;
    }

    /** Apart from the sums: what is rarely so is guessed well by a processor, as long as nothing waits for it. */
    private void takeExtremes(long[] times, double[] values, int from, int end) {
        double low = values[from];
        double high = low;
        int next = from + 1;
        while (next < end && values[next] == low) {
            next++;
        }
        int lowAt = from;
        int highAt = from;
        boolean lowTwice = next > from + 1;
        boolean highTwice = lowTwice;
        for (int i = next; i < end; i++) {
            double value = values[i];
            if (value <= low) {
                lowTwice = value == low;
                lowAt = lowTwice ? lowAt : i;
                low = value;
            } else if (value >= high) {
                highTwice = value == high;
                highAt = highTwice ? highAt : i;
                high = value;
            }
        }
        if (!(low >= least)) {
            least = low;
            leastAt = times[lowAt];
            leastTwice = lowTwice;
        } else if (low == least) {
            leastTwice = true;
        }
        if (!(high <= greatest)) {
            greatest = high;
            greatestAt = times[highAt];
            greatestTwice = highTwice;
        } else if (high == greatest) {
            greatestTwice = true;
        }
    }

    /** Of the values behind the first one, and of the time between them all. */
    private void takeSums(long[] times, double[] values, int from, int end, boolean stepped) {
        double middle = around;
        double moreDifferences = 0;
        double moreSquares = 0;
        double twiceArea = 0;
        int changes = 0;
        long time = times[from];
        double value = values[from];
        boolean anyZero = has(Part.CHANGES) && (value == 0 || !has(Part.EXTREMES) || least <= 0 && greatest >= 0);
        for (int i = from + 1; i < end; i++) {
            double following = values[i];
            long next = times[i];
            twiceArea += (stepped ? value + value : value + following) * (next - time);
            changes += value == following ? 0 : 1;
            double difference = following - middle;
            moreDifferences += difference;
            moreSquares += difference * difference;
            time = next;
            value = following;
        }
        long zero = 0;
        for (int i = from; anyZero && i < end - 1; i++) {
            zero += values[i] == 0 ? times[i + 1] - times[i] : 0;
        }
        long ticks = time - times[from];
        differences += moreDifferences;
        squares += moreSquares;
        transitions += changes;
        takeTime(ticks, twiceArea / 2);
        zeroTicks += zero;
        otherTicks += ticks - zero;
    }

    private void takeTime(long ticks, double more) {
        usableTicks += ticks;
        bridgedTicks += ticks;
        area += more;
        bridgedArea += more;
    }

    /** Four sums, so that none waits for the one before. */
    private static double area(long[] times, double[] values, int from, int end, boolean stepped) {
        double first = 0;
        double second = 0;
        double third = 0;
        double fourth = 0;
        int i = from + 1;
        for (; i + 3 < end; i += 4) {
            first += twice(times, values, i, stepped);
            second += twice(times, values, i + 1, stepped);
            third += twice(times, values, i + 2, stepped);
            fourth += twice(times, values, i + 3, stepped);
        }
        for (; i < end; i++) {
            first += twice(times, values, i, stepped);
        }
        return (first + second + (third + fourth)) / 2;
    }

    /** Twice the area between a sample and the one before. */
    private static double twice(long[] times, double[] values, int at, boolean stepped) {
        double before = values[at - 1];
        return (before + (stepped ? before : values[at])) * (times[at] - times[at - 1]);
    }

    /** Takes the first good sample, with the time before it, over which another one holds. */
    void takeLead(Samples samples, int from, double start, boolean stepped) {
        double held = samples.value(from);
        double value = samples.value(from + 1);
        long time = samples.time(from + 1);
        long ticks = time - this.from;
        takeTime(ticks, (start + (stepped ? held : value)) / 2 * ticks);
        if (held == 0) {
            zeroTicks = ticks;
        } else {
            otherTicks = ticks;
        }
        raw = 1;
        count = 1;
        first = value;
        firstAt = time;
        last = value;
        lastAt = time;
        around = value;
        least = value;
        leastAt = time;
        greatest = value;
        greatestAt = time;
    }

    /** Takes the time behind the last sample, which is good and holds up to the end. */
    void takeTrail(long begin, double held, double end) {
        long ticks = to - begin;
        takeTime(ticks, (held + end) / 2 * ticks);
        if (held == 0) {
            zeroTicks += ticks;
        } else {
            otherTicks += ticks;
        }
    }

    /** Takes the one good sample behind another, with the time between them; there are others already. */
    void takeNext(Samples samples, int from, boolean stepped) {
        long at = samples.time(from + 1);
        double before = samples.value(from);
        double value = samples.value(from + 1);
        long ticks = at - samples.time(from);
        take(at, value, Samples.GOOD, true);
        transitions += before == value ? 0 : 1;
        usableTicks += ticks;
        bridgedTicks += ticks;
        double more = (stepped ? before : (before + value) / 2) * ticks;
        area += more;
        bridgedArea += more;
        if (before == 0) {
            zeroTicks += ticks;
        } else {
            otherTicks += ticks;
        }
    }

    /**
     * Takes good samples with what is folded behind each, as long as they follow each other: no more of it than a plot needs.
     *
     * @param from    the last sample that was taken
     * @param stretch the first that was not
     * @param upTo    the last tick that the end of one may be at
     * @return the last sample that was taken
     */
    int takePlotted(Samples samples, int from, int stretch, long upTo) {
        long[] times = samples.times();
        double[] values = samples.values();
        byte[] grades = samples.grades();
        double[] lows = samples.stretches().numbers(0);
        double[] highs = samples.stretches().numbers(1);
        long[] many = samples.stretches().wholes(0);
        double low = least;
        double high = greatest;
        long taken = 0;
        int at = from;
        for (int each = stretch;
                at + 2 < samples.size()
                        && grades[at + 2] == Samples.FOLDED
                        && grades[at + 1] == Samples.GOOD
                        && times[at + 2] <= upTo;
                each++) {
            double value = values[at + 1];
            if (!(value > low && lows[each] > low)) {
                less(value, times[at + 1]);
                less(lows[each], times[at + 1] + samples.stretches().wholes(1)[each]);
                low = least;
            }
            if (!(value < high && highs[each] < high)) {
                more(value, times[at + 1]);
                more(highs[each], times[at + 1] + samples.stretches().wholes(2)[each]);
                high = greatest;
            }
            taken += 1 + many[each];
            at += 2;
        }
        raw += taken;
        count += taken;
        last = values[at];
        lastAt = times[at];
        usableTicks += times[at] - times[from];
        bridgedTicks += times[at] - times[from];
        return at;
    }

    private void less(double value, long time) {
        if (!(value >= least)) {
            least = value;
            leastAt = time;
            leastTwice = false;
        } else if (value == least) {
            leastTwice = true;
        }
    }

    private void more(double value, long time) {
        if (!(value <= greatest)) {
            greatest = value;
            greatestAt = time;
            greatestTwice = false;
        } else if (value == greatest) {
            greatestTwice = true;
        }
    }

    /** Takes the mean of values that were folded before, and their squared deviations from it. */
    void takeMoments(long many, double theirMean, double theirDeviations) {
        double off = theirMean - around;
        differences += many * off;
        squares += theirDeviations + many * off * off;
    }

    /** Takes values that were folded before; none of them is the first one. */
    void takeExtremes(
            long many, double low, long lowAt, boolean lowTwice, double high, long highAt, boolean highTwice) {
        raw += many;
        count += many;
        if (low < least) {
            leastTwice = lowTwice;
            leastAt = lowAt;
            least = low;
        } else if (low == least) {
            leastTwice = true;
        }
        if (high > greatest) {
            greatestTwice = highTwice;
            greatestAt = highAt;
            greatest = high;
        } else if (high == greatest) {
            greatestTwice = true;
        }
    }

    /** Intervals that follow each other, as one; empty where there are none. */
    public static Optional<Fold> whole(List<Fold> intervals) {
        if (intervals.isEmpty()) {
            return Optional.empty();
        }
        Fold first = intervals.get(0);
        Fold whole = new Fold(first.from, first.from, first.parts);
        whole.atStart = first.atStart;
        whole.interpolated = first.interpolated;
        whole.interpolatedGrade = first.interpolatedGrade;
        intervals.forEach(whole::append);
        return Optional.of(whole);
    }

    private void append(Fold next) {
        if (next.from != to) {
            throw new IllegalArgumentException("The interval does not follow the other.");
        }
        to = next.to;
        parts &= next.parts;
        if (next.count > 0) {
            appendValues(next);
        }
        raw += next.raw;
        count += next.count;
        uncertain += next.uncertain;
        worst = worst > next.worst ? worst : next.worst;
        transitions += next.transitions;
        usableTicks += next.usableTicks;
        badTicks += next.badTicks;
        uncertainTicks += next.uncertainTicks;
        area += next.area;
        bridgedTicks += next.bridgedTicks;
        bridgedArea += next.bridgedArea;
        zeroTicks += next.zeroTicks;
        otherTicks += next.otherTicks;
        atEnd = next.atEnd;
    }

    private void appendValues(Fold next) {
        if (count == 0) {
            around = next.around;
            differences = next.differences;
            squares = next.squares;
            first = next.first;
            firstAt = next.firstAt;
        } else if (has(Part.MOMENTS)) {
            // T. Chan, G. Golub and R. LeVeque, Updating formulae and a pairwise algorithm for computing sample
            // variances.
            double delta = next.mean() - mean();
            double all = deviations() + next.deviations() + delta * delta * count * next.count / (count + next.count);
            around = mean() + delta * next.count / (count + next.count);
            differences = 0;
            squares = all;
        }
        if (count == 0 || next.least < least) {
            least = next.least;
            leastAt = next.leastAt;
            leastTwice = next.leastTwice;
        } else {
            leastTwice |= next.least == least;
        }
        if (count == 0 || next.greatest > greatest) {
            greatest = next.greatest;
            greatestAt = next.greatestAt;
            greatestTwice = next.greatestTwice;
        } else {
            greatestTwice |= next.greatest == greatest;
        }
        last = next.last;
        lastAt = next.lastAt;
    }
}
