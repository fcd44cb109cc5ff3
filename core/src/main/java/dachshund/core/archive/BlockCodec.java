package dachshund.core.archive;

import dachshund.core.archive.Column.Sort;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.zip.CRC32C;

/**
 * Values of one tag over a span as a block of bytes, and back, exactly. Times are differences of differences; numbers with few
 * decimals are whole numbers of the last decimal and their differences, others are what of their bits differs from the one
 * before (T. Pelkonen and others, Gorilla: a fast, scalable, in-memory time series database, VLDB 2015, has the idea of both);
 * texts are numbers of a list; qualities, and where there is no number, are runs. A checksum tells a block that was altered.
 */
public final class BlockCodec {

    private static final byte VERSION = 1;
    private static final int HEAD = 2 + 4;
    private static final int CHECKSUM = 4;
    private static final int MOST_DECIMALS = 9;
    /** Up to here every whole number is a double. */
    private static final double EXACT = 1L << 53;

    /** Stands for no number at all. */
    private static final long NONE = Double.doubleToRawLongBits(Double.NaN);

    private static final double[] TENS = {1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9};
    /** How numbers are written: 0 to 9 is so many decimals. */
    private static final byte AS_BITS = 100;

    private BlockCodec() {}

    /** The bytes are none of a block, or were altered. */
    public static final class Damaged extends Exception {
        private static final long serialVersionUID = 1;

        Damaged(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    public static byte[] write(Column column) {
        int size = column.size();
        List<byte[]> list = new ArrayList<>();
        long[] values = column.sort() == Sort.TEXT
                ? numbered(column, list)
                : column.sort() == Sort.NUMBER ? bits(column) : column.wholes();
        int texts = list.stream().mapToInt(each -> 4 + each.length).sum();
        ByteBuffer to = ByteBuffer.allocate(
                        HEAD + 16 + 2 * Packed.most(size) + 16 + 4 + texts + 2 * (4 + 8 * size) + 8 + CHECKSUM)
                .order(ByteOrder.LITTLE_ENDIAN);
        to.put(VERSION).put((byte) column.sort().ordinal()).putInt(size);
        times(column, to);
        switch (column.sort()) {
            case NUMBER -> numbers(values, size, to);
            case WHOLE -> differences(values, size, to);
            case TRUTH -> Packed.write(values, size, to);
            case TEXT -> {
                to.putInt(list.size());
                list.forEach(each -> to.putInt(each.length).put(each));
                Packed.write(values, size, to);
            }
        }
        qualities(column, to);
        return sealed(to);
    }

    /** What was written up to here, with its checksum behind it. */
    static byte[] sealed(ByteBuffer to) {
        CRC32C checksum = new CRC32C();
        checksum.update(to.array(), 0, to.position());
        to.putInt((int) checksum.getValue());
        byte[] bytes = new byte[to.position()];
        to.flip().get(bytes);
        return bytes;
    }

    /**
     * Bytes that were sealed, to be read behind their version.
     *
     * @param what  what they are, in a sentence
     * @param least so many there are at least
     */
    static ByteBuffer opened(byte[] bytes, byte version, int least, String what) throws Damaged {
        if (bytes.length < least + CHECKSUM) {
            throw new Damaged(what + " is too short to be one.", null);
        }
        ByteBuffer from = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
        CRC32C checksum = new CRC32C();
        checksum.update(bytes, 0, bytes.length - CHECKSUM);
        if (from.getInt(bytes.length - CHECKSUM) != (int) checksum.getValue()) {
            throw new Damaged(what + " was altered: its checksum does not fit.", null);
        }
        if (from.get() != version) {
            throw new Damaged(what + " was written by another version of Dachshund.", null);
        }
        return from;
    }

    private static long[] bits(Column column) {
        long[] bits = new long[column.size()];
        for (int i = 0; i < bits.length; i++) {
            bits[i] = Double.doubleToRawLongBits(column.numbers()[i]);
        }
        return bits;
    }

    private static void times(Column column, ByteBuffer to) {
        int size = column.size();
        long[] times = column.times();
        long[] second = new long[size];
        long before = 0;
        long step = 0;
        for (int i = 0; i < size; i++) {
            long difference = times[i] - before;
            second[i] = i < 2 ? 0 : Packed.zigzag(difference - step);
            step = difference;
            before = times[i];
        }
        to.putLong(size > 0 ? times[0] : 0).putLong(size > 1 ? times[1] - times[0] : 0);
        Packed.write(second, size, to);
    }

    private static void differences(long[] values, int size, ByteBuffer to) {
        long[] differences = new long[size];
        long before = size > 0 ? values[0] : 0;
        to.putLong(before);
        for (int i = 0; i < size; i++) {
            differences[i] = Packed.zigzag(values[i] - before);
            before = values[i];
        }
        Packed.write(differences, size, to);
    }

    static void numbers(long[] raw, int size, ByteBuffer to) {
        long[] bits = withoutNone(raw, size, to);
        long[] whole = new long[size];
        int decimals = decimals(bits, size, whole);
        if (decimals >= 0) {
            to.put((byte) decimals);
            differences(whole, size, to);
            return;
        }
        to.put(AS_BITS);
        long any = 0;
        long before = 0;
        for (int i = 0; i < size; i++) {
            whole[i] = bits[i] ^ before;
            any |= i == 0 ? 0 : whole[i];
            before = bits[i];
        }
        // What is zero at the end of all of them, as where they were floats once, is left out.
        int zeros = any == 0 ? 0 : Long.numberOfTrailingZeros(any);
        to.put((byte) zeros).putLong(size > 0 ? bits[0] : 0);
        for (int i = 0; i < size; i++) {
            whole[i] = i == 0 ? 0 : whole[i] >>> zeros;
        }
        Packed.write(whole, size, to);
    }

    /** Says where there is no number, as lengths of stretches with and without one in turn, and puts the one before there. */
    private static long[] withoutNone(long[] raw, int size, ByteBuffer to) {
        int place = to.position();
        to.putInt(0);
        int stretches = 0;
        long[] bits = raw;
        for (int i = 0; i < size; ) {
            int from = i;
            boolean none = (stretches & 1) == 1;
            while (i < size && raw[i] == NONE == none) {
                if (none) {
                    bits = bits == raw ? raw.clone() : bits;
                    bits[i] = i > 0 ? bits[i - 1] : 0;
                }
                i++;
            }
            to.putInt(i - from);
            stretches++;
        }
        to.putInt(place, stretches);
        return bits;
    }

    /** With how many decimals all of them are written exactly; below 0 where with none. */
    private static int decimals(long[] bits, int size, long[] whole) {
        int decimals = 0;
        while (true) {
            int exact = exact(bits, size, TENS[decimals], whole);
            if (exact == size) {
                return decimals;
            }
            // Those before have to be exact with as many as this one needs.
            long[] one = {bits[exact]};
            do {
                if (++decimals > MOST_DECIMALS) {
                    return -1;
                }
            } while (exact(one, 1, TENS[decimals], new long[1]) == 0);
        }
    }

    /** How many of them, from the first on, are whole numbers of a decimal and these divided by its ten: none is rounded. */
    private static int exact(long[] bits, int size, double ten, long[] whole) {
        for (int i = 0; i < size; i++) {
            double scaled = Double.longBitsToDouble(bits[i]) * ten;
            long rounded = (long) Math.rint(scaled);
            if (!(Math.abs(scaled) < EXACT) || Double.doubleToRawLongBits(rounded / ten) != bits[i]) {
                return i;
            }
            whole[i] = rounded;
        }
        return size;
    }

    private static long[] numbered(Column column, List<byte[]> list) {
        Map<String, Integer> numbers = new HashMap<>();
        long[] values = new long[column.size()];
        for (int i = 0; i < values.length; i++) {
            String text = column.texts()[i];
            Integer number = numbers.get(text);
            if (number == null) {
                number = list.size();
                numbers.put(text, number);
                list.add(text.getBytes(StandardCharsets.UTF_8));
            }
            values[i] = number;
        }
        return values;
    }

    private static void qualities(Column column, ByteBuffer to) {
        int[] qualities = column.qualities();
        int place = to.position();
        to.putInt(0);
        int runs = 0;
        for (int i = 0; i < column.size(); ) {
            int from = i;
            while (i < column.size() && qualities[i] == qualities[from]) {
                i++;
            }
            to.putInt(i - from).putInt(qualities[from]);
            runs++;
        }
        to.putInt(place, runs);
    }

    /**
     * @throws Damaged with a sentence, where the bytes are not what was written
     */
    public static Column read(byte[] bytes) throws Damaged {
        ByteBuffer from = opened(bytes, VERSION, HEAD, "A block of the archive");
        try {
            return read(from);
        } catch (BufferUnderflowException
                | IllegalArgumentException
                | IndexOutOfBoundsException
                | ArithmeticException strange) {
            throw new Damaged("A block of the archive cannot be read.", strange);
        }
    }

    private static Column read(ByteBuffer from) {
        Sort sort = Sort.values()[from.get()];
        int size = from.getInt();
        // Each 64 values have a byte of times and one of values at least.
        if (size < 0 || size / Packed.GROUP > from.remaining()) {
            throw new IllegalArgumentException("So many values are not in so few bytes.");
        }
        Column column = new Column(sort, size);
        readTimes(from, column.times(), size);
        boolean finite = sort != Sort.TEXT;
        switch (sort) {
            case NUMBER -> finite = readNumbers(from, column.numbers(), size);
            case WHOLE -> readDifferences(from, column.wholes(), size);
            case TRUTH -> Packed.read(from, column.wholes(), size);
            case TEXT -> readTexts(from, column.texts(), size);
        }
        int runs = from.getInt();
        int at = 0;
        int any = 0;
        for (int i = 0; i < runs; i++) {
            int count = from.getInt();
            int quality = from.getInt();
            any |= quality;
            Arrays.fill(column.qualities(), at, at + count, quality);
            at += count;
        }
        if (at != size) {
            throw new IllegalArgumentException("Not every value has a quality.");
        }
        column.filled(size, any, finite);
        return column;
    }

    private static void readTimes(ByteBuffer from, long[] times, int size) {
        long time = from.getLong();
        long step = from.getLong();
        Packed.read(from, times, size);
        for (int i = 0; i < size; i++) {
            if (i > 1) {
                step += Packed.back(times[i]);
            }
            time += i > 0 ? step : 0;
            times[i] = time;
        }
    }

    private static void readDifferences(ByteBuffer from, long[] values, int size) {
        long value = from.getLong();
        Packed.read(from, values, size);
        for (int i = 0; i < size; i++) {
            value += Packed.back(values[i]);
            values[i] = value;
        }
    }

    /** @return whether it is known, by how they were written, that each of them is a finite number */
    static boolean readNumbers(ByteBuffer from, double[] numbers, int size) {
        int stretches = from.getInt();
        int lengths = from.position();
        from.position(Math.addExact(lengths, Math.multiplyExact(4, stretches)));
        boolean finite = readBits(from, numbers, size);
        int at = 0;
        for (int i = 0; i < stretches; i++) {
            int length = from.getInt(lengths + 4 * i);
            if ((i & 1) == 1) {
                Arrays.fill(numbers, at, at + length, Double.NaN);
            }
            at += length;
        }
        return finite && stretches <= 1;
    }

    /** @return whether all are finite for sure: whole numbers of a decimal are */
    private static boolean readBits(ByteBuffer from, double[] numbers, int size) {
        int way = from.get();
        long[] values = new long[size];
        if (way != AS_BITS) {
            double ten = TENS[way];
            long value = from.getLong();
            Packed.read(from, values, size);
            for (int i = 0; i < size; i++) {
                value += Packed.back(values[i]);
                numbers[i] = value / ten;
            }
            return true;
        }
        int zeros = from.get();
        long bits = from.getLong();
        Packed.read(from, values, size);
        for (int i = 0; i < size; i++) {
            bits ^= values[i] << zeros;
            numbers[i] = Double.longBitsToDouble(bits);
        }
        return false;
    }

    private static void readTexts(ByteBuffer from, String[] values, int size) {
        int count = from.getInt();
        if (count < 0 || count > size) {
            throw new IllegalArgumentException("There are more texts than values.");
        }
        String[] list = new String[count];
        for (int i = 0; i < count; i++) {
            byte[] text = new byte[Math.min(from.getInt(), from.remaining())];
            from.get(text);
            list[i] = new String(text, StandardCharsets.UTF_8);
        }
        long[] numbers = new long[size];
        Packed.read(from, numbers, size);
        for (int i = 0; i < size; i++) {
            values[i] = list[Math.toIntExact(numbers[i])];
        }
    }
}
