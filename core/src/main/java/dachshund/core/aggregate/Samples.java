package dachshund.core.aggregate;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Values of one tag, or of a column beside a column of times, in the order of their times. Numbers only: a truth value is 0
 * or 1. Held in plain arrays, since there may be millions. Not safe for several threads while it is filled.
 */
public final class Samples {

    /** Can be used without a second thought. */
    public static final byte GOOD = 0;

    /** Can be used with care: see {@link Method#uncertainAsBad}. */
    public static final byte UNCERTAIN = 1;

    /** Cannot be used; values before and behind it belong together all the same. */
    public static final byte BAD = 2;

    /** From here on nothing was recorded, until the next value: nothing is ever drawn or computed across it. */
    public static final byte GAP = 3;

    private static final Stretches NO_STRETCHES = new Stretches(0);

    /** A good one, between which and the good one before there are more, folded: one of {@link #stretches}. */
    public static final byte FOLDED = 4;

    private long[] times;
    private double[] values;
    private byte[] grades;
    private int size;
    /** Whether it is known that every one of them is good. */
    private boolean good;

    private Stretches stretches = NO_STRETCHES;

    public Samples(int capacity) {
        times = new long[Math.max(1, capacity)];
        values = new double[times.length];
        grades = new byte[times.length];
    }

    private Samples(long[] times, double[] values, byte[] grades, int size) {
        this.times = times;
        this.values = values;
        this.grades = grades;
        this.size = size;
    }

    /** Takes columns over that are filled already, in the order of their times; whoever gives them leaves them alone from then on. */
    public static Samples of(long[] times, double[] values, byte[] grades, int size) {
        return of(times, values, grades, size, false);
    }

    /**
     * The same, where all of them are good, as far as they are finite numbers.
     *
     * @param finite whether it is known that they are
     */
    public static Samples ofGood(long[] times, double[] values, int size, boolean finite) {
        if (!finite) {
            return of(times, values, new byte[size], size, true);
        }
        Samples samples = new Samples(times, values, new byte[size], size);
        samples.good = true;
        return samples;
    }

    private static Samples of(long[] times, double[] values, byte[] grades, int size, boolean good) {
        Samples samples = new Samples(times, values, grades, size);
        if (!finite(values, size)) {
            for (int i = 0; i < size; i++) {
                if (grades[i] < BAD && !Double.isFinite(values[i])) {
                    grades[i] = BAD;
                }
            }
        } else {
            samples.good = good;
        }
        return samples;
    }

    private static boolean finite(double[] values, int size) {
        // Nothing times what is no finite number is no number. Four sums, since none waits for the others.
        double a = 0;
        double b = 0;
        double c = 0;
        double d = 0;
        int i = 0;
        for (; i + 3 < size; i += 4) {
            a += values[i] * 0;
            b += values[i + 1] * 0;
            c += values[i + 2] * 0;
            d += values[i + 3] * 0;
        }
        for (; i < size; i++) {
            a += values[i] * 0;
        }
        return a + b + c + d == 0;
    }

    /**
     * The same, where some were folded.
     *
     * @param stretches one for each sample that is {@link #FOLDED}, in their order
     */
    public static Samples of(long[] times, double[] values, byte[] grades, int size, Stretches stretches) {
        Samples samples = of(times, values, grades, size);
        samples.stretches = stretches;
        return samples;
    }

    /**
     * Fewer samples that come to the same: of each unit of time in which there are several and all of them are good, the
     * first and the last, and what is between them folded. Where one is not good the next shorter unit is tried; what is
     * not folded stays as it is. Intervals that begin and end with the longest unit come to what they come to without
     * folding.
     *
     * @param units lengths of units of time, in ticks, the longest first; they begin with 1601
     */
    public Samples folded(long... units) {
        Samples fewer = new Samples(64);
        fewer.stretches = new Stretches(16);
        fold(0, size, units, 0, fewer);
        return fewer;
    }

    private void fold(int from, int to, long[] units, int which, Samples fewer) {
        int at = from;
        while (at < to) {
            long end = which == units.length ? 0 : (Math.floorDiv(times[at], units[which]) + 1) * units[which];
            int next = at;
            boolean good = which < units.length;
            while (next < to && (which == units.length || times[next] < end)) {
                good &= grades[next++] == GOOD;
            }
            if (good && next - at > 2) {
                fewer.stretches.add(this, at, next - 1);
                fewer.add(times[at], values[at], GOOD);
                fewer.add(times[next - 1], values[next - 1], FOLDED);
            } else if (which < units.length && next - at > 2) {
                fold(at, next, units, which + 1, fewer);
            } else {
                for (int i = at; i < next; i++) {
                    fewer.add(times[i], values[i], grades[i]);
                }
            }
            at = next;
        }
    }

    /** Side by side as one; all of each are later than those of the one before. */
    public static Samples of(List<Samples> parts) {
        int size = 0;
        List<Stretches> between = new ArrayList<>();
        for (Samples part : parts) {
            size += part.size;
            between.add(part.stretches);
        }
        Samples all = new Samples(size);
        for (Samples part : parts) {
            if (all.size > 0 && part.size > 0 && part.times[0] < all.times[all.size - 1]) {
                throw new IllegalArgumentException("Samples come in the order of their times.");
            }
            System.arraycopy(part.times, 0, all.times, all.size, part.size);
            System.arraycopy(part.values, 0, all.values, all.size, part.size);
            System.arraycopy(part.grades, 0, all.grades, all.size, part.size);
            all.size += part.size;
        }
        all.stretches = Stretches.of(between);
        return all;
    }

    /**
     * @param time  100 ns ticks since 1601 ({@link dachshund.core.time.OpcUaTime}), not before the last one
     * @param grade one of the constants; a value that is no finite number is taken as bad
     * @throws IllegalArgumentException where it comes before the last one
     */
    public void add(long time, double value, byte grade) {
        if (size > 0 && time < times[size - 1]) {
            throw new IllegalArgumentException("Samples come in the order of their times.");
        }
        if (size == times.length) {
            int more = size * 2;
            times = Arrays.copyOf(times, more);
            values = Arrays.copyOf(values, more);
            grades = Arrays.copyOf(grades, more);
        }
        good = false;
        times[size] = time;
        values[size] = value;
        grades[size] = grade < BAD && !Double.isFinite(value) ? BAD : grade;
        size++;
    }

    public int size() {
        return size;
    }

    public long time(int index) {
        return times[index];
    }

    public double value(int index) {
        return values[index];
    }

    public byte grade(int index) {
        return grades[index];
    }

    /** What was folded, in the order of the samples that say so. */
    public Stretches stretches() {
        return stretches;
    }

    long[] times() {
        return times;
    }

    double[] values() {
        return values;
    }

    byte[] grades() {
        return grades;
    }

    /**
     * The first one from an index on that is not good, or lies behind a time.
     *
     * @param usual so many lie between, mostly
     */
    int goodUpTo(int from, long upTo, int usual) {
        int end = from;
        if (!good) {
            while (end < size && grades[end] == GOOD && times[end] <= upTo) {
                end++;
            }
            return end;
        }
        int guess = from + usual;
        if (usual > 0 && guess < size && times[guess - 1] <= upTo && times[guess] > upTo) {
            return guess;
        }
        // It is near, or far away: by steps that double, and then between the last two.
        int step = 1;
        while (end + step <= size && times[end + step - 1] <= upTo) {
            end += step;
            step *= 2;
        }
        return before(upTo + 1, end, Math.min(size, end + step - 1));
    }

    /** How many of them lie before the time. */
    int before(long time) {
        return before(time, 0, size);
    }

    private int before(long time, int from, int to) {
        int low = from;
        int high = to;
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (times[middle] < time) {
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        return low;
    }
}
