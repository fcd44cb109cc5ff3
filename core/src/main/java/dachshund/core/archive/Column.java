package dachshund.core.archive;

import dachshund.core.aggregate.Samples;
import java.util.Arrays;
import java.util.Objects;

/**
 * Values of one tag in the order of their times, as plain columns. All of one sort: numbers, whole numbers that a double might
 * not hold, truth values or texts. Not safe for several threads while it is filled.
 */
public final class Column {

    /** The sorts of values that there are. Their order is kept on disk. */
    public enum Sort {
        NUMBER,
        WHOLE,
        TRUTH,
        TEXT
    }

    private static final long[] NO_LONGS = {};
    private static final double[] NO_NUMBERS = {};
    private static final String[] NO_TEXTS = {};

    private final Sort sort;
    private long[] times;
    /** Whole numbers as they are, truth values as 0 and 1. */
    private long[] wholes;

    private double[] numbers;

    private String[] texts;
    private int[] qualities;
    /** What is 0 where all of them are good. */
    private int anyQuality;
    /** Whether it is known that each of its numbers is a finite one. */
    private boolean finite;

    private int size;

    public Column(Sort sort, int capacity) {
        this.sort = sort;
        int room = Math.max(8, capacity);
        times = new long[room];
        wholes = sort == Sort.WHOLE || sort == Sort.TRUTH ? new long[room] : NO_LONGS;
        numbers = sort == Sort.NUMBER ? new double[room] : NO_NUMBERS;
        texts = sort == Sort.TEXT ? new String[room] : NO_TEXTS;
        qualities = new int[room];
    }

    public Sort sort() {
        return sort;
    }

    public int size() {
        return size;
    }

    /**
     * @param time    100 ns ticks since 1601, not before the last one
     * @param quality the source's status code (OPC 10000-4, 7.39), 0 for good
     */
    public void addNumber(long time, double value, int quality) {
        int at = next(time, Sort.NUMBER, quality);
        numbers[at] = value;
    }

    /** As {@link #addNumber}. */
    public void addWhole(long time, long value, int quality) {
        add(time, value, Sort.WHOLE, quality);
    }

    /** As {@link #addNumber}. */
    public void addTruth(long time, boolean value, int quality) {
        add(time, value ? 1 : 0, Sort.TRUTH, quality);
    }

    /** As {@link #addNumber}. */
    public void addText(long time, String value, int quality) {
        int at = next(time, Sort.TEXT, quality);
        texts[at] = Objects.requireNonNull(value);
    }

    private void add(long time, long value, Sort of, int quality) {
        int at = next(time, of, quality);
        wholes[at] = value;
    }

    private int next(long time, Sort of, int quality) {
        if (of != sort) {
            throw new IllegalArgumentException("A column of " + sort + " takes no " + of + ".");
        }
        if (size > 0 && time < times[size - 1]) {
            throw new IllegalArgumentException("Values come in the order of their times.");
        }
        if (size == times.length) {
            int more = Math.max(8, size * 2);
            times = Arrays.copyOf(times, more);
            wholes = wholes.length == 0 ? wholes : Arrays.copyOf(wholes, more);
            numbers = numbers.length == 0 ? numbers : Arrays.copyOf(numbers, more);
            texts = texts.length == 0 ? texts : Arrays.copyOf(texts, more);
            qualities = Arrays.copyOf(qualities, more);
        }
        times[size] = time;
        qualities[size] = quality;
        anyQuality |= quality;
        finite = false;
        return size++;
    }

    public long time(int index) {
        return times[index];
    }

    public int quality(int index) {
        return qualities[index];
    }

    public double number(int index) {
        return sort == Sort.NUMBER ? numbers[index] : wholes[index];
    }

    public long whole(int index) {
        return wholes[index];
    }

    public boolean truth(int index) {
        return wholes[index] != 0;
    }

    public String text(int index) {
        return texts[index];
    }

    /**
     * As samples to be folded, which share these columns: nothing is added here any more.
     * Texts are no numbers, and count as bad. How good one is says its mark.
     */
    public Samples samples() {
        double[] values = sort == Sort.NUMBER ? numbers : new double[size];
        for (int i = 0; i < size && sort != Sort.NUMBER; i++) {
            values[i] = sort == Sort.TEXT ? Double.NaN : number(i);
        }
        if (anyQuality == 0) {
            return Samples.ofGood(times, values, size, finite);
        }
        byte[] grades = new byte[size];
        for (int i = 0; i < size; i++) {
            grades[i] = Marks.sample(qualities[i]);
        }
        return Samples.of(times, values, grades, size);
    }

    /** The same, by itself. */
    public Column copy() {
        return part(0, size);
    }

    /** The values from one index up to another, by themselves. */
    Column part(int from, int to) {
        Column part = new Column(sort, 0);
        part.times = Arrays.copyOfRange(times, from, to);
        part.wholes = wholes.length == 0 ? wholes : Arrays.copyOfRange(wholes, from, to);
        part.numbers = numbers.length == 0 ? numbers : Arrays.copyOfRange(numbers, from, to);
        part.texts = texts.length == 0 ? texts : Arrays.copyOfRange(texts, from, to);
        part.qualities = Arrays.copyOfRange(qualities, from, to);
        part.anyQuality = anyQuality;
        part.size = to - from;
        return part;
    }

    /** Takes a value of another column of the same sort. */
    void take(Column of, int index) {
        int at = next(of.times[index], of.sort, of.qualities[index]);
        switch (sort) {
            case NUMBER -> numbers[at] = of.numbers[index];
            case WHOLE, TRUTH -> wholes[at] = of.wholes[index];
            case TEXT -> texts[at] = of.texts[index];
        }
    }

    long[] times() {
        return times;
    }

    long[] wholes() {
        return wholes;
    }

    double[] numbers() {
        return numbers;
    }

    String[] texts() {
        return texts;
    }

    int[] qualities() {
        return qualities;
    }

    /**
     * For whoever has filled the columns from outside.
     *
     * @param any      0 where all qualities are
     * @param isFinite whether it is known that each of its numbers is a finite one
     */
    void filled(int count, int any, boolean isFinite) {
        size = count;
        anyQuality = any;
        finite = isFinite;
    }
}
