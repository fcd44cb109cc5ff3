package dachshund.engine.journal;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.zip.CRC32C;

/** What a segment holds: of each lane first and last entry and how many, and where its designs stand. Safe for many threads. */
final class Summary {

    private static final long END = 0x4441_4348_5345_414CL;
    /** Length, checksum, mark, at the very end of a sealed file. */
    private static final int TAIL = 4 + 4 + 8;

    private final Map<String, OfLane> lanes = new ConcurrentHashMap<>();
    /** Position of each design's entry, by its key. */
    private final Map<Long, Long> designs = new ConcurrentHashMap<>();

    /** Of one lane. Changed under the appending lock only. */
    record OfLane(long first, long last, long firstNth, long lastNth, long entries) {

        OfLane and(long position, long nth) {
            return new OfLane(first, position, firstNth, Math.max(lastNth, nth), entries + 1);
        }
    }

    void add(Journal.Entry entry) {
        if (entry.kind() == Journal.Kind.DESIGN.letter()) {
            designs.put(ByteBuffer.wrap(entry.body()).getLong(), entry.position());
        } else {
            add(entry.lane(), entry.position(), entry.nth());
        }
    }

    void add(String lane, long position, long nth) {
        OfLane known = lanes.get(lane);
        lanes.put(lane, known == null ? new OfLane(position, position, nth, nth, 1) : known.and(position, nth));
    }

    void addDesign(long key, long position) {
        designs.put(key, position);
    }

    boolean hasDesign(long key) {
        return designs.containsKey(key);
    }

    Map<Long, Long> designs() {
        return designs;
    }

    Map<String, OfLane> lanes() {
        return lanes;
    }

    Optional<OfLane> of(String lane) {
        return Optional.ofNullable(lanes.get(lane));
    }

    /**
     * As the end of a file.
     *
     * @param entriesEnd length of the file up to here
     * @param next position behind the last entry
     */
    byte[] seal(long entriesEnd, long next) {
        Map<String, OfLane> all = new LinkedHashMap<>(lanes);
        Map<Long, Long> allDesigns = new LinkedHashMap<>(designs);
        Map<String, byte[]> names = new HashMap<>();
        all.keySet().forEach(lane -> names.put(lane, lane.getBytes(StandardCharsets.UTF_8)));
        int size = 8
                + 8
                + 4
                + 4
                + allDesigns.size() * 16
                + all.size() * (2 + 5 * 8)
                + names.values().stream().mapToInt(name -> name.length).sum();
        ByteBuffer out = ByteBuffer.allocate(size + TAIL);
        out.putLong(entriesEnd).putLong(next).putInt(all.size()).putInt(allDesigns.size());
        all.forEach((lane, each) -> {
            byte[] name = names.get(lane);
            out.putShort((short) name.length).put(name);
            out.putLong(each.first())
                    .putLong(each.last())
                    .putLong(each.firstNth())
                    .putLong(each.lastNth());
            out.putLong(each.entries());
        });
        allDesigns.forEach((key, position) -> out.putLong(key).putLong(position));
        CRC32C crc = new CRC32C();
        crc.update(out.array(), 0, size);
        out.putInt(size).putInt((int) crc.getValue()).putLong(END);
        return out.array();
    }

    /** A sealed file's end, read back. */
    record Sealed(long entriesEnd, long next, Summary summary) {}

    /** @return empty where the file does not end with a summary that can be trusted */
    static Optional<Sealed> read(java.nio.channels.FileChannel file) throws java.io.IOException {
        long length = file.size();
        ByteBuffer tail = ByteBuffer.allocate(TAIL);
        if (length < TAIL || !fill(file, tail, length - TAIL)) {
            return Optional.empty();
        }
        int size = tail.getInt();
        int crc = tail.getInt();
        if (tail.getLong() != END || size < 24 || size > length - TAIL) {
            return Optional.empty();
        }
        ByteBuffer in = ByteBuffer.allocate(size);
        if (!fill(file, in, length - TAIL - size)) {
            return Optional.empty();
        }
        CRC32C found = new CRC32C();
        found.update(in.array());
        if ((int) found.getValue() != crc) {
            return Optional.empty();
        }
        long entriesEnd = in.getLong();
        long next = in.getLong();
        int lanes = in.getInt();
        int designs = in.getInt();
        Summary summary = new Summary();
        for (int i = 0; i < lanes; i++) {
            byte[] name = new byte[Short.toUnsignedInt(in.getShort())];
            in.get(name);
            summary.lanes.put(
                    new String(name, StandardCharsets.UTF_8),
                    new OfLane(in.getLong(), in.getLong(), in.getLong(), in.getLong(), in.getLong()));
        }
        for (int i = 0; i < designs; i++) {
            summary.designs.put(in.getLong(), in.getLong());
        }
        return Optional.of(new Sealed(entriesEnd, next, summary));
    }

    static boolean fill(java.nio.channels.FileChannel file, ByteBuffer into, long from) throws java.io.IOException {
        while (into.hasRemaining()) {
            if (file.read(into, from + into.position()) < 0) {
                return false;
            }
        }
        into.flip();
        return true;
    }
}
