package dachshund.core.aggregate;

import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;

/**
 * What lies between two good samples, folded, so that it need not be walked again: the values behind the first of the two up
 * to the second, and the time between them, stepped and sloped. Rows of plain arrays in the order of their times; whoever
 * keeps summaries reads and writes these. Not safe for several threads while they are filled.
 */
public final class Stretches {

    /** So many fields of each are numbers: least, greatest, mean, squared deviations from it, areas stepped and sloped. */
    public static final int NUMBERS = 6;

    /** So many of them, the first ones, are all that the outline of a plot needs. */
    public static final int NUMBERS_OF_PLOTS = 2;

    /** So many fields of each are whole: values, ticks of least and greatest; which was met twice, changes, ticks at zero. */
    public static final int WHOLES = 6;

    /** As {@link #NUMBERS_OF_PLOTS}. */
    public static final int WHOLES_OF_PLOTS = 3;

    private static final int AREA = Fold.Part.bits(EnumSet.of(Fold.Part.AREA));

    private static final int LEAST_TWICE = 1;
    private static final int GREATEST_TWICE = 2;

    private final double[][] numbers = new double[NUMBERS][];
    private final long[][] wholes = new long[WHOLES][];
    private int size;
    /** Whether no more than the fields for plots is known of one. */
    private final boolean forPlots;

    public Stretches(int capacity) {
        this(capacity, false);
    }

    /** @param forPlots whether no more than what a plot needs is to be known of them */
    Stretches(int capacity, boolean forPlots) {
        this.forPlots = forPlots;
        for (int i = 0; i < NUMBERS; i++) {
            numbers[i] = new double[forPlots && i >= NUMBERS_OF_PLOTS ? 0 : capacity];
        }
        for (int i = 0; i < WHOLES; i++) {
            wholes[i] = new long[forPlots && i >= WHOLES_OF_PLOTS ? 0 : capacity];
        }
    }

    /** Takes fields over that are filled already, in the order of {@link #NUMBERS} and {@link #WHOLES}; those behind the ones for plots may be empty. */
    public static Stretches of(double[][] numbers, long[][] wholes, int size) {
        Stretches stretches = new Stretches(0, wholes[WHOLES - 1].length < size);
        System.arraycopy(numbers, 0, stretches.numbers, 0, NUMBERS);
        System.arraycopy(wholes, 0, stretches.wholes, 0, WHOLES);
        stretches.size = size;
        return stretches;
    }

    public int size() {
        return size;
    }

    /** Whether no more is known of them than a plot needs. */
    public boolean forPlots() {
        return forPlots;
    }

    /** One field of all of them. */
    public double[] numbers(int field) {
        return numbers[field];
    }

    /** One field of all of them; ticks of least and greatest are behind the first sample. */
    public long[] wholes(int field) {
        return wholes[field];
    }

    /**
     * Folds the good samples behind one up to another.
     *
     * @param from index of the first
     * @param last index of the last; there is one between them at least
     */
    void add(Samples samples, int from, int last) {
        long begin = samples.time(from);
        Fold stepped = new Fold(begin, samples.time(last));
        stepped.takeGood(samples, from, samples.time(last), 0, true);
        Fold sloped = new Fold(begin, samples.time(last), AREA);
        sloped.takeGood(samples, from, samples.time(last), 0, false);
        room(1);
        numbers[0][size] = stepped.least;
        numbers[1][size] = stepped.greatest;
        numbers[2][size] = stepped.mean();
        numbers[3][size] = stepped.deviations();
        numbers[4][size] = stepped.area;
        numbers[5][size] = sloped.area;
        wholes[0][size] = stepped.count;
        wholes[1][size] = stepped.leastAt - begin;
        wholes[2][size] = stepped.greatestAt - begin;
        wholes[4][size] = stepped.transitions;
        wholes[5][size] = stepped.zeroTicks;
        wholes[3][size] = (stepped.leastTwice ? LEAST_TWICE : 0) | (stepped.greatestTwice ? GREATEST_TWICE : 0);
        size++;
    }

    /** Several of them, one behind the other; where some are for plots, all are. */
    static Stretches of(List<Stretches> parts) {
        Stretches all = new Stretches(
                parts.stream().mapToInt(Stretches::size).sum(), parts.stream().anyMatch(part -> part.forPlots));
        for (Stretches part : parts) {
            for (int i = 0; i < (all.forPlots ? NUMBERS_OF_PLOTS : NUMBERS); i++) {
                System.arraycopy(part.numbers[i], 0, all.numbers[i], all.size, part.size);
            }
            for (int i = 0; i < (all.forPlots ? WHOLES_OF_PLOTS : WHOLES); i++) {
                System.arraycopy(part.wholes[i], 0, all.wholes[i], all.size, part.size);
            }
            all.size += part.size;
        }
        return all;
    }

    private void room(int wanted) {
        if (size + wanted > numbers[0].length) {
            int more = Math.max(size + wanted, size * 2);
            for (int i = 0; i < NUMBERS; i++) {
                numbers[i] = Arrays.copyOf(numbers[i], more);
            }
            for (int i = 0; i < WHOLES; i++) {
                wholes[i] = Arrays.copyOf(wholes[i], more);
            }
        }
    }

    /** Puts one behind what an interval has; its first sample is in there. Of what was read for a plot, no more than that. */
    void into(Fold fold, int at, long begin, long end, double last, boolean stepped) {
        long ticks = end - begin;
        fold.last = last;
        fold.lastAt = end;
        fold.usableTicks += ticks;
        fold.bridgedTicks += ticks;
        long flags = forPlots ? 0 : wholes[3][at];
        fold.takeExtremes(
                wholes[0][at],
                numbers[0][at],
                begin + wholes[1][at],
                (flags & LEAST_TWICE) != 0,
                numbers[1][at],
                begin + wholes[2][at],
                (flags & GREATEST_TWICE) != 0);
        if (!forPlots) {
            double area = numbers[stepped ? 4 : 5][at];
            fold.takeMoments(wholes[0][at], numbers[2][at], numbers[3][at]);
            fold.transitions += wholes[4][at];
            fold.area += area;
            fold.bridgedArea += area;
            fold.zeroTicks += wholes[5][at];
            fold.otherTicks += ticks - wholes[5][at];
        }
    }
}
