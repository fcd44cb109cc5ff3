package dachshund.core.audit;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.stream.Stream;

/**
 * One thing that somebody did, or tried.
 *
 * @param number its place, from 1 without gaps
 * @param at     when, to the millisecond
 * @param who    the person's name, or what acted
 * @param what   the deed, in a few words
 * @param detail on what, and how; may be empty
 */
public record AuditEntry(long number, Instant at, String who, String what, String detail) {

    /** What a checksum is made over: the one before, and every part led by its length, so that no two entries read alike. */
    byte[] after(String before) {
        byte[][] parts = Stream.of(before, Long.toString(number), Long.toString(at.toEpochMilli()), who, what, detail)
                .map(part -> part.getBytes(StandardCharsets.UTF_8))
                .toArray(byte[][]::new);
        int size = 0;
        for (byte[] part : parts) {
            size += Integer.BYTES + part.length;
        }
        ByteBuffer all = ByteBuffer.allocate(size);
        for (byte[] part : parts) {
            all.putInt(part.length).put(part);
        }
        return all.array();
    }
}
