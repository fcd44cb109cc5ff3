package dachshund.core.archive;

import dachshund.core.aggregate.Samples;
import dachshund.core.aggregate.Stretches;
import dachshund.core.archive.BlockCodec.Damaged;
import dachshund.core.archive.Column.Sort;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.Optional;

/**
 * The summary of a block: of each minute, or of each hour, the first and the last value and what is between them, folded
 * ({@link Samples#folded}), as bytes. It is of the block's own values alone, so that a late value of another block changes
 * nothing in it; what holds from one block to the next is seen by whoever puts them side by side. There is one where it saves
 * the most of the work: of blocks with few values these are read themselves.
 */
public final class Summary {

    /** Units of time that summaries are made of, the longest first. */
    public enum Unit {
        HOUR(36_000_000_000L),
        MINUTE(600_000_000L);

        private final long ticks;

        Unit(long ticks) {
            this.ticks = ticks;
        }

        /** Its length, in 100 ns ticks. */
        public long ticks() {
            return ticks;
        }
    }

    private static final byte VERSION = 101;
    private static final int HEAD = 1 + 4 + 4;
    /** Room for it behind the rest. */
    private static final int CHECKSUM = 4;
    /** So many values are one sample of a summary at least, or there is none. */
    private static final int WORTH = 16;

    private Summary() {}

    /** Of a column of numbers, whole numbers or truth values; empty where it would save too little, and of texts. */
    public static Optional<byte[]> of(Column column, Unit unit) {
        if (column.sort() == Sort.TEXT || column.size() < 2 * WORTH) {
            return Optional.empty();
        }
        Samples fewer = folded(column, unit);
        return fewer.size() * WORTH > column.size() ? Optional.empty() : Optional.of(write(fewer));
    }

    /** What is left of a column when its values are not kept any longer; empty where that is more than they are. */
    public static Optional<byte[]> instead(Column column, int bytes) {
        if (column.sort() == Sort.TEXT) {
            return Optional.empty();
        }
        return Optional.of(write(folded(column, Unit.MINUTE))).filter(summary -> summary.length < bytes);
    }

    private static Samples folded(Column column, Unit unit) {
        return unit == Unit.HOUR
                ? column.samples().folded(Unit.HOUR.ticks(), Unit.MINUTE.ticks())
                : column.samples().folded(Unit.MINUTE.ticks());
    }

    private static byte[] write(Samples samples) {
        int size = samples.size();
        Stretches stretches = samples.stretches();
        int count = stretches.size();
        ByteBuffer to = ByteBuffer.allocate(HEAD
                        + 3 * (24 + Packed.most(size))
                        + Stretches.WHOLES * (16 + Packed.most(count))
                        + Stretches.NUMBERS * (40 + 4 * count + Packed.most(count))
                        + 8 * size
                        + CHECKSUM)
                .order(ByteOrder.LITTLE_ENDIAN);
        to.put(VERSION).putInt(size).putInt(count);
        long[] times = new long[size];
        long[] grades = new long[size];
        long[] values = new long[size];
        for (int i = 0; i < size; i++) {
            times[i] = i == 0 ? 0 : samples.time(i) - samples.time(i - 1);
            grades[i] = samples.grade(i);
            values[i] = Double.doubleToRawLongBits(samples.value(i));
        }
        to.putLong(size == 0 ? 0 : samples.time(0));
        divided(times, size, to);
        Packed.write(grades, size, to);
        BlockCodec.numbers(values, size, to);
        // First what a plot needs, so that it need read no further.
        fields(stretches, 0, Stretches.NUMBERS_OF_PLOTS, 0, Stretches.WHOLES_OF_PLOTS, to);
        fields(
                stretches,
                Stretches.NUMBERS_OF_PLOTS,
                Stretches.NUMBERS,
                Stretches.WHOLES_OF_PLOTS,
                Stretches.WHOLES,
                to);
        return BlockCodec.sealed(to);
    }

    private static void fields(Stretches stretches, int number, int numberEnd, int whole, int wholeEnd, ByteBuffer to) {
        int count = stretches.size();
        for (int field = whole; field < wholeEnd; field++) {
            divided(stretches.wholes(field), count, to);
        }
        for (int field = number; field < numberEnd; field++) {
            long[] bits = new long[count];
            for (int i = 0; i < count; i++) {
                bits[i] = Double.doubleToRawLongBits(stretches.numbers(field)[i]);
            }
            BlockCodec.numbers(bits, count, to);
        }
    }

    /** None is below 0; what divides all of them is written once. */
    private static void divided(long[] values, int size, ByteBuffer to) {
        long divisor = 0;
        for (int i = 0; i < size && divisor != 1; i++) {
            long a = values[i];
            while (a != 0) {
                long rest = divisor % a;
                divisor = a;
                a = rest;
            }
        }
        divisor = Math.max(1, divisor);
        long[] parts = new long[size];
        for (int i = 0; i < size; i++) {
            parts[i] = values[i] / divisor;
        }
        to.putLong(divisor);
        Packed.write(parts, size, to);
    }

    private static void readDivided(ByteBuffer from, long[] values, int size) {
        long divisor = from.getLong();
        Packed.read(from, values, size);
        for (int i = 0; i < size && divisor != 1; i++) {
            values[i] *= divisor;
        }
    }

    /** Whether bytes are a summary, and not a block. */
    public static boolean is(byte[] bytes) {
        return bytes.length > 0 && bytes[0] == VERSION;
    }

    /**
     * @param plot whether first, least, greatest and last are enough, as for the outline of a plot
     * @throws Damaged with a sentence, where the bytes are not what was written
     */
    public static Samples read(byte[] bytes, boolean plot) throws Damaged {
        ByteBuffer from = BlockCodec.opened(bytes, VERSION, HEAD, "A summary in the archive");
        try {
            return read(from, plot);
        } catch (BufferUnderflowException
                | IllegalArgumentException
                | IndexOutOfBoundsException
                | ArithmeticException strange) {
            throw new Damaged("A summary in the archive cannot be read.", strange);
        }
    }

    private static Samples read(ByteBuffer from, boolean plot) {
        int size = from.getInt();
        int count = from.getInt();
        if (size < 0 || count < 0 || count > size || size / Packed.GROUP > from.remaining()) {
            throw new IllegalArgumentException("So much is not in so few bytes.");
        }
        long[] times = new long[size];
        long time = from.getLong();
        readDivided(from, times, size);
        for (int i = 0; i < size; i++) {
            time += times[i];
            times[i] = time;
        }
        long[] raw = new long[size];
        Packed.read(from, raw, size);
        byte[] grades = new byte[size];
        int folded = 0;
        for (int i = 0; i < size; i++) {
            grades[i] = (byte) raw[i];
            folded += grades[i] == Samples.FOLDED ? 1 : 0;
        }
        if (folded != count) {
            throw new IllegalArgumentException("Not every stretch has its samples.");
        }
        double[] values = new double[size];
        BlockCodec.readNumbers(from, values, size);
        long[][] wholes = new long[Stretches.WHOLES][plot ? 0 : count];
        double[][] numbers = new double[Stretches.NUMBERS][plot ? 0 : count];
        readFields(from, numbers, 0, Stretches.NUMBERS_OF_PLOTS, wholes, 0, Stretches.WHOLES_OF_PLOTS, count);
        if (!plot) {
            readFields(
                    from,
                    numbers,
                    Stretches.NUMBERS_OF_PLOTS,
                    Stretches.NUMBERS,
                    wholes,
                    Stretches.WHOLES_OF_PLOTS,
                    Stretches.WHOLES,
                    count);
        }
        return Samples.of(times, values, grades, size, Stretches.of(numbers, wholes, count));
    }

    private static void readFields(
            ByteBuffer from,
            double[][] numbers,
            int number,
            int numberEnd,
            long[][] wholes,
            int whole,
            int wholeEnd,
            int count) {
        for (int field = whole; field < wholeEnd; field++) {
            wholes[field] = new long[count];
            readDivided(from, wholes[field], count);
        }
        for (int field = number; field < numberEnd; field++) {
            numbers[field] = new double[count];
            BlockCodec.readNumbers(from, numbers[field], count);
        }
    }
}
