package dachshund.engine.journal;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.zip.CRC32C;

/**
 * One entry as bytes: a mark to find it by, length, CRC-32C of all that follows, position, kind, version, lane, running
 * number, body. The position is part of it, so that an old block of a disk is never taken for a new one.
 */
final class Frame {

    static final int MARK = 0xD5AC_4E71;
    /** Mark, length, checksum. */
    static final int HEAD = 12;
    /** Position, kind, version, length of the lane's name, running number. */
    private static final int LEAST = 8 + 1 + 1 + 1 + 8;

    static final int LARGEST = 16 << 20;

    private Frame() {}

    static int size(byte[] lane, byte[] body) {
        return HEAD + LEAST + lane.length + body.length;
    }

    /** Writes a frame of {@link #size} bytes at an offset. */
    static void write(
            byte[] into, int offset, long position, char kind, int version, byte[] lane, long nth, byte[] body) {
        int payload = LEAST + lane.length + body.length;
        ByteBuffer out = ByteBuffer.wrap(into, offset, HEAD + payload);
        out.putInt(MARK).putInt(payload).putInt(0).putLong(position);
        out.put((byte) kind)
                .put((byte) version)
                .put((byte) lane.length)
                .put(lane)
                .putLong(nth)
                .put(body);
        CRC32C crc = new CRC32C();
        crc.update(into, offset + HEAD, payload);
        out.putInt(offset + 8, (int) crc.getValue());
    }

    /** Length of what follows the head that stands at an index, or -1 where none stands there. */
    static int length(ByteBuffer window, int at) {
        int length = window.getInt(at + 4);
        return window.getInt(at) == MARK && length >= LEAST && length <= LARGEST ? length : -1;
    }

    /** Whether the bytes behind a head are what was written. */
    static boolean whole(ByteBuffer window, int at, int length) {
        CRC32C crc = new CRC32C();
        crc.update(window.array(), window.arrayOffset() + at + HEAD, length);
        return (int) crc.getValue() == window.getInt(at + 8);
    }

    /** Reads a whole frame. */
    static Journal.Entry read(ByteBuffer window, int at, int length, String installation, Names names) {
        ByteBuffer in = window.duplicate().position(at + HEAD).limit(at + HEAD + length);
        long position = in.getLong();
        char kind = (char) in.get();
        int version = in.get();
        byte[] lane = new byte[Byte.toUnsignedInt(in.get())];
        in.get(lane);
        long nth = in.getLong();
        byte[] body = new byte[in.remaining()];
        in.get(body);
        return new Journal.Entry(
                position, position + HEAD + length, installation, names.of(lane), nth, kind, version, body);
    }

    /** Names of lanes from their bytes; the last one is remembered, because rows of a lane stand together. */
    static final class Names {
        private byte[] bytes = {};
        private String name = "";

        String of(byte[] wanted) {
            if (!java.util.Arrays.equals(bytes, wanted)) {
                bytes = wanted;
                name = new String(wanted, StandardCharsets.UTF_8);
            }
            return name;
        }
    }
}
