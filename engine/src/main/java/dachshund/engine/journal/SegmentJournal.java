package dachshund.engine.journal;

import dachshund.engine.thread.Threads;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.stream.Stream;
import java.util.zip.CRC32C;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A journal in plain segment files. An entry is its length (4 bytes), CRC-32C of its bytes (4 bytes) and the bytes. A
 * file is named after the position it begins with. What was appended is written and forced in groups; a torn end, left
 * by a loss of power, is cut off when the journal is opened.
 */
public final class SegmentJournal implements Journal {

    private static final Logger LOG = LoggerFactory.getLogger(SegmentJournal.class);
    private static final int HEAD = 8;
    private static final int MAX_ENTRY = 16 << 20;
    private static final int MAX_PENDING = 32 << 20;
    /** So much is not kept waiting for the next time to force. */
    private static final int ENOUGH = 256 << 10;

    private static final String ENDING = ".rows";

    private final Path folder;
    private final Limits limits;
    private final Runnable onDurable;
    private final ConcurrentSkipListMap<Long, Segment> segments = new ConcurrentSkipListMap<>();
    private final Object appending = new Object();
    private final Threads.Worker syncer;
    private byte[] pending = new byte[1 << 16];
    private int pendingSize;
    private volatile long end;
    private volatile long durable;
    private volatile long neededFrom;
    private volatile long damaged;
    private volatile String trouble = "";

    /**
     * @param maxBytes    the journal takes no more beyond this
     * @param minFreeDisk nor when the disk has less than this left
     * @param segmentSize a new file begins beyond this
     * @param syncMillis  how often what was appended is forced to disk
     */
    public record Limits(long maxBytes, long minFreeDisk, long segmentSize, long syncMillis) {

        public static final Limits USUAL = new Limits(8L << 30, 512L << 20, 16L << 20, 100);
    }

    private record Segment(Path file, FileChannel channel) {}

    /** Opens the journal in a folder, which is made if it is not there. */
    public SegmentJournal(Path folder, Limits limits, Runnable onDurable) {
        this.folder = folder;
        this.limits = limits;
        this.onDurable = onDurable;
        try {
            Files.createDirectories(folder);
            openSegments();
        } catch (IOException e) {
            throw new UncheckedIOException("The journal in " + folder + " cannot be opened.", e);
        }
        this.syncer = Threads.start("journal-" + folder.getFileName(), this::syncStep);
    }

    private void openSegments() throws IOException {
        List<Path> files;
        try (Stream<Path> all = Files.list(folder)) {
            files = all.filter(file -> file.getFileName().toString().endsWith(ENDING))
                    .sorted()
                    .toList();
        }
        for (Path file : files) {
            String name = file.getFileName().toString();
            long base = Long.parseLong(name.substring(0, name.length() - ENDING.length()));
            segments.put(
                    base, new Segment(file, FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE)));
        }
        if (segments.isEmpty()) {
            begin(0);
        }
        Map.Entry<Long, Segment> last = segments.lastEntry();
        end = last.getKey() + last.getValue().channel().size();
        durable = end;
        SegmentReader reader = new SegmentReader(last.getKey());
        while (reader.next() != null) {
            // runs to the last whole entry
        }
        if (reader.position < end) {
            LOG.warn("{}: {} bytes at the end were not whole and are cut off.", folder, end - reader.position);
            last.getValue().channel().truncate(reader.position - last.getKey());
            end = reader.position;
            durable = end;
        }
        damaged = 0;
    }

    private Segment begin(long base) throws IOException {
        Path file = folder.resolve(String.format("%019d%s", base, ENDING));
        Segment segment = new Segment(
                file,
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE));
        segments.put(base, segment);
        try (FileChannel directory = FileChannel.open(folder, StandardOpenOption.READ)) {
            directory.force(true);
        }
        return segment;
    }

    @Override
    public long append(byte[] bytes) throws Full {
        CRC32C crc = new CRC32C();
        crc.update(bytes);
        synchronized (appending) {
            if (!trouble.isEmpty()) {
                throw new Full(trouble);
            }
            int needed = pendingSize + HEAD + bytes.length;
            if (needed > MAX_PENDING || bytes.length > MAX_ENTRY) {
                throw new Full("The disk under " + folder + " is too slow: " + (pendingSize >> 20)
                        + " MB wait to be written.");
            }
            if (needed > pending.length) {
                pending = Arrays.copyOf(pending, Math.max(needed, pending.length * 2));
            }
            ByteBuffer.wrap(pending, pendingSize, HEAD + bytes.length)
                    .putInt(bytes.length)
                    .putInt((int) crc.getValue())
                    .put(bytes);
            if (pendingSize < ENOUGH && needed >= ENOUGH) {
                syncer.wake();
            }
            pendingSize = needed;
            long position = end;
            end += HEAD + bytes.length;
            return position;
        }
    }

    private long syncStep() {
        try {
            sync();
            removeReleased();
            checkRoom();
        } catch (IOException e) {
            LOG.error("{} cannot be written.", folder, e);
            trouble = "The disk under " + folder + " cannot be written: " + e.getMessage();
        }
        return limits.syncMillis() * 1_000_000;
    }

    private void checkRoom() throws IOException {
        long free = Files.getFileStore(folder).getUsableSpace();
        if (size() > limits.maxBytes()) {
            trouble = "The journal in " + folder + " is full (" + (limits.maxBytes() >> 20)
                    + " MB): new rows cannot be kept.";
        } else if (free < limits.minFreeDisk()) {
            trouble = "The disk under " + folder + " has only " + (free >> 20) + " MB left: new rows cannot be kept.";
        } else {
            trouble = "";
        }
    }

    /** Writes and forces what was appended. After a failure the same bytes are written again at the same place. */
    private synchronized void sync() throws IOException {
        byte[] group;
        synchronized (appending) {
            if (pendingSize == 0) {
                return;
            }
            group = Arrays.copyOf(pending, pendingSize);
        }
        Map.Entry<Long, Segment> last = segments.lastEntry();
        long inFile = durable - last.getKey();
        Segment segment = last.getValue();
        if (inFile >= limits.segmentSize()) {
            segment = begin(durable);
            inFile = 0;
        }
        ByteBuffer bytes = ByteBuffer.wrap(group);
        while (bytes.hasRemaining()) {
            segment.channel().write(bytes, inFile + bytes.position());
        }
        segment.channel().force(false);
        synchronized (appending) {
            pendingSize -= group.length;
            System.arraycopy(pending, group.length, pending, 0, pendingSize);
            if (pendingSize >= ENOUGH) {
                syncer.wake();
            }
            durable += group.length;
        }
        onDurable.run();
    }

    @Override
    public long durable() {
        return durable;
    }

    @Override
    public long first() {
        return segments.firstKey();
    }

    @Override
    public Reader read(long from) {
        return new SegmentReader(Math.max(from, first()));
    }

    /** Asked after every batch, so files are removed by the thread that forces them. */
    @Override
    public void release(long upTo) {
        neededFrom = Math.max(neededFrom, upTo);
    }

    private void removeReleased() {
        Long second = segments.higherKey(segments.firstKey());
        while (second != null && second <= neededFrom) {
            Segment oldest = segments.pollFirstEntry().getValue();
            try {
                oldest.channel().close();
                Files.deleteIfExists(oldest.file());
            } catch (IOException e) {
                LOG.warn("{} could not be removed.", oldest.file(), e);
            }
            second = segments.higherKey(second);
        }
    }

    @Override
    public long size() {
        return end - first();
    }

    @Override
    public long damaged() {
        return damaged;
    }

    @Override
    public void close() {
        syncer.close();
        try {
            sync();
            removeReleased();
            for (Segment segment : segments.values()) {
                segment.channel().close();
            }
        } catch (IOException e) {
            LOG.error("{} could not be closed cleanly.", folder, e);
        }
    }

    private final class SegmentReader implements Reader {

        private long position;
        private ByteBuffer window = ByteBuffer.allocate(0);
        private long windowFrom;

        private SegmentReader(long position) {
            this.position = position;
        }

        @Override
        public long position() {
            return position;
        }

        @Override
        public Entry next() {
            while (position < durable) {
                Map.Entry<Long, Segment> at = segments.floorEntry(position);
                Long following = segments.higherKey(at.getKey());
                long segmentEnd = following == null ? durable : following;
                try {
                    Entry entry = entryAt(at.getKey(), at.getValue(), segmentEnd);
                    if (entry != null) {
                        position = entry.next();
                        return entry;
                    }
                } catch (IOException e) {
                    throw new UncheckedIOException("The journal in " + folder + " cannot be read.", e);
                }
                if (following == null) {
                    return null;
                }
                damaged++;
                LOG.error(
                        "{}: an entry at {} was altered on disk; what follows in that file is passed over.",
                        folder,
                        position);
                position = following;
            }
            return null;
        }

        /** The entry at the position, or null where there is no whole and unaltered one. */
        private Entry entryAt(long base, Segment segment, long segmentEnd) throws IOException {
            if (!load(base, segment, HEAD, segmentEnd)) {
                return null;
            }
            int at = (int) (position - windowFrom);
            int length = window.getInt(at);
            int crc = window.getInt(at + 4);
            if (length < 0 || length > MAX_ENTRY || !load(base, segment, HEAD + length, segmentEnd)) {
                return null;
            }
            byte[] bytes = new byte[length];
            window.get((int) (position - windowFrom) + HEAD, bytes);
            CRC32C found = new CRC32C();
            found.update(bytes);
            return (int) found.getValue() == crc ? new Entry(position, position + HEAD + length, bytes) : null;
        }

        /** Sees to it that so many bytes from the position on are in the window. */
        private boolean load(long base, Segment segment, int bytes, long segmentEnd) throws IOException {
            if (position + bytes > segmentEnd) {
                return false;
            }
            if (position >= windowFrom && position + bytes <= windowFrom + window.limit()) {
                return true;
            }
            int size = (int) Math.min(Math.max(bytes, 1 << 18), segmentEnd - position);
            window = ByteBuffer.allocate(size);
            windowFrom = position;
            while (window.hasRemaining()) {
                if (segment.channel().read(window, position - base + window.position()) < 0) {
                    break;
                }
            }
            window.flip();
            return window.limit() >= bytes;
        }
    }
}
