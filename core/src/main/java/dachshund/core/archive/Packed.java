package dachshund.core.archive;

import java.nio.ByteBuffer;
import java.util.Arrays;

/**
 * Whole numbers in few bits: groups of 64, each with as many bits a number as its widest one needs. Negative ones are zigzag
 * coded by the caller where they are to be narrow. No number costs more than 64 bits and its share of a byte.
 */
final class Packed {

    static final int GROUP = 64;

    private Packed() {}

    static long zigzag(long value) {
        return value << 1 ^ value >> 63;
    }

    static long back(long zigzag) {
        return zigzag >>> 1 ^ -(zigzag & 1);
    }

    /** So many bytes at most. */
    static int most(int size) {
        return (size + GROUP - 1) / GROUP + 8 * (size + GROUP);
    }

    static void write(long[] values, int size, ByteBuffer to) {
        for (int from = 0; from < size; from += GROUP) {
            int count = Math.min(GROUP, size - from);
            long any = 0;
            for (int i = 0; i < count; i++) {
                any |= values[from + i];
            }
            int width = 64 - Long.numberOfLeadingZeros(any);
            to.put((byte) width);
            long word = 0;
            int used = 0;
            for (int i = 0; i < count && width > 0; i++) {
                long value = values[from + i];
                word |= value << used;
                used += width;
                if (used >= 64) {
                    to.putLong(word);
                    used -= 64;
                    word = used == 0 ? 0 : value >>> (width - used);
                }
            }
            for (int left = used; left > 0; left -= 8) {
                to.put((byte) word);
                word >>>= 8;
            }
        }
    }

    /** @throws java.nio.BufferUnderflowException where there are fewer */
    static void read(ByteBuffer from, long[] values, int size) {
        for (int at = 0; at < size; at += GROUP) {
            int count = Math.min(GROUP, size - at);
            int width = from.get();
            if (width < 0 || width > 64) {
                throw new IllegalArgumentException("A width of " + width + " bits.");
            }
            if (width == 0) {
                Arrays.fill(values, at, at + count, 0);
                continue;
            }
            long mask = width == 64 ? -1L : (1L << width) - 1;
            int bits = count * width;
            long word = 0;
            int have = 0;
            for (int i = 0; i < count; i++) {
                if (have >= width) {
                    values[at + i] = word & mask;
                    word = width == 64 ? 0 : word >>> width;
                    have -= width;
                    continue;
                }
                long next;
                int fresh;
                if (bits >= 64) {
                    next = from.getLong();
                    fresh = 64;
                } else {
                    next = 0;
                    fresh = (bits + 7) / 8 * 8;
                    for (int b = 0; b < fresh; b += 8) {
                        next |= (from.get() & 0xFFL) << b;
                    }
                }
                bits -= 64;
                values[at + i] = (word | next << have) & mask;
                int taken = width - have;
                word = taken == 64 ? 0 : next >>> taken;
                have = fresh - taken;
            }
        }
    }
}
