package dachshund.core.archive;

import java.nio.ByteBuffer;

/**
 * Whole numbers in few bits: groups of 64, each with as many bits a number as its widest one needs. Negative ones are zigzag
 * coded by the caller where they are to be narrow. No number costs more than 64 bits and its share of a byte.
 */
final class Packed {

    static final int GROUP = 64;

    /** A number of so many bits lies within eight bytes, wherever in a byte it begins. */
    private static final int NARROW = 57;

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

    /**
     * @param from   little endian
     * @param values zeros: where all of a group are zero nothing is written
     * @throws java.nio.BufferUnderflowException where there are fewer
     */
    static void read(ByteBuffer from, long[] values, int size) {
        long[] words = new long[GROUP + 1];
        for (int at = 0; at < size; at += GROUP) {
            int count = Math.min(GROUP, size - at);
            int width = from.get();
            if (width < 0 || width > 64) {
                throw new IllegalArgumentException("A width of " + width + " bits.");
            }
            if (width == 0) {
                continue; // as they are
            }
            int start = from.position();
            int bytes = (count * width + 7) >>> 3;
            long mask = (1L << width) - 1;
            if (width <= NARROW && start + bytes + Long.BYTES <= from.limit()) {
                // Nearly all there are: each lies within eight bytes, and these lie within what there is.
                for (int i = 0, bit = 0; i < count; i++, bit += width) {
                    values[at + i] = from.getLong(start + (bit >>> 3)) >>> (bit & 7) & mask;
                }
                from.position(start + bytes);
                continue;
            }
            words(from, words, count * width);
            if (width == 64) {
                System.arraycopy(words, 0, values, at, count);
                continue;
            }
            for (int i = 0, bit = 0; i < count; i++, bit += width) {
                int word = bit >>> 6;
                int off = bit & 63;
                // What of the next word belongs to it: nothing where the mask cuts it off, and shifted in two steps,
                // since one of 64 is one of 0.
                values[at + i] = (words[word] >>> off | words[word + 1] << 1 << (63 - off)) & mask;
            }
        }
    }

    /** So many bits; a word that is not full ends with its last byte. */
    private static void words(ByteBuffer from, long[] words, int bits) {
        int full = bits >>> 6;
        for (int i = 0; i < full; i++) {
            words[i] = from.getLong();
        }
        long last = 0;
        for (int b = 0; b < (bits & 63); b += 8) {
            last |= (from.get() & 0xFFL) << b;
        }
        words[full] = last;
    }
}
