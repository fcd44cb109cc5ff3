package dachshund.engine.journal;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.MappedByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/**
 * How many rows each lane was offered and had to refuse, in a file that is mapped into memory: counted before anything can
 * fail, and right after a process was killed. After a loss of power it may be as old as the system's last writing of it.
 */
public final class Offered implements AutoCloseable {

    private static final VarHandle LONG = MethodHandles.byteBufferViewVarHandle(long[].class, ByteOrder.BIG_ENDIAN);
    private static final int NAME = 40;
    private static final int SLOT = NAME + 8 + 8 + 8;
    private static final int SLOTS = 1 << 15;
    private static final long SIZE = (long) SLOT * SLOTS;

    private final FileChannel channel;
    private final MappedByteBuffer map;
    private final Map<String, Integer> slots = new HashMap<>();
    private int used;

    /** The two counters of one lane. Safe for many threads. */
    public final class OfLane {

        private final int at;

        private OfLane(int at) {
            this.at = at;
        }

        public long offered() {
            return (long) LONG.getVolatile(map, at + NAME);
        }

        public long refused() {
            return (long) LONG.getVolatile(map, at + NAME + 8);
        }

        public void offer() {
            LONG.getAndAdd(map, at + NAME, 1L);
        }

        /** Rows that did not fit their layout and were set aside before they were journalled. */
        public long aside() {
            return (long) LONG.getVolatile(map, at + NAME + 16);
        }

        public void setAside() {
            LONG.getAndAdd(map, at + NAME + 16, 1L);
        }

        public void refuse() {
            LONG.getAndAdd(map, at + NAME + 8, 1L);
        }

        /** What is known otherwise to have been offered at least. */
        public void atLeast(long offered) {
            long seen = offered();
            while (seen < offered && !LONG.compareAndSet(map, at + NAME, seen, offered)) {
                seen = offered();
            }
        }
    }

    public Offered(Path file) {
        try {
            Files.createDirectories(file.getParent());
            channel = FileChannel.open(
                    file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
            allocate(channel);
            map = channel.map(FileChannel.MapMode.READ_WRITE, 0, SIZE);
        } catch (IOException e) {
            throw new UncheckedIOException("The counts in " + file + " cannot be opened.", e);
        }
        while (used < SLOTS && map.get(used * SLOT) != 0) {
            byte[] name = new byte[NAME];
            map.get(used * SLOT, name);
            slots.put(new String(name, StandardCharsets.UTF_8).replace("\0", ""), used * SLOT);
            used++;
        }
    }

    /** All of it is written once: a disk that is full later has its place, where one that was only promised would be missed while it is counted in. */
    private static void allocate(FileChannel channel) throws IOException {
        ByteBuffer zeros = ByteBuffer.allocate(1 << 16);
        for (long at = channel.size(); at < SIZE; at += zeros.limit()) {
            zeros.clear().limit((int) Math.min(zeros.capacity(), SIZE - at));
            while (zeros.hasRemaining()) {
                channel.write(zeros, at + zeros.position());
            }
        }
    }

    /** The counters of a lane that is counted here already; nothing is written. */
    public synchronized Optional<OfLane> find(String lane) {
        return Optional.ofNullable(slots.get(lane)).map(OfLane::new);
    }

    /** The counters of a lane; lanes beyond what the file has room for share the last ones. */
    public synchronized OfLane of(String lane) {
        Integer known = slots.get(lane);
        if (known == null) {
            int slot = Math.min(used, SLOTS - 1);
            if (used < SLOTS) {
                used++;
            }
            known = slot * SLOT;
            ByteBuffer name = ByteBuffer.allocate(NAME).put(lane.getBytes(StandardCharsets.UTF_8));
            map.put(known, name.array());
            slots.put(lane, known);
        }
        return new OfLane(known);
    }

    @Override
    public void close() {
        try {
            map.force();
            channel.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
