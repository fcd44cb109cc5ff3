package dachshund.core.aggregate;

import java.util.Arrays;

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

    private long[] times;
    private double[] values;
    private byte[] grades;
    private int size;

    public Samples(int capacity) {
        times = new long[Math.max(1, capacity)];
        values = new double[times.length];
        grades = new byte[times.length];
    }

    /** Takes columns over that are filled already, in the order of their times; whoever gives them leaves them alone from then on. */
    public static Samples of(long[] times, double[] values, byte[] grades, int size) {
        Samples samples = new Samples(0);
        samples.times = times;
        samples.values = values;
        samples.grades = grades;
        samples.size = size;
        for (int i = 0; i < size; i++) {
            if (grades[i] < BAD && !Double.isFinite(values[i])) {
                grades[i] = BAD;
            }
        }
        return samples;
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

    long[] times() {
        return times;
    }

    double[] values() {
        return values;
    }

    byte[] grades() {
        return grades;
    }

    /** How many of them lie before the time. */
    int before(long time) {
        int low = 0;
        int high = size;
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
