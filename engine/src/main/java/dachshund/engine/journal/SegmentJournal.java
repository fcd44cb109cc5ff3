package dachshund.engine.journal;

import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Worker;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.LongSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A journal in plain segment files, see {@link SegmentFile} and {@link Frame}. What was appended is given to the system
 * within some milliseconds, so that it outlives this process, and forced in groups, so that it outlives the power, each by
 * a thread of its own: a forcing that takes long holds up no writing. An end torn by a loss of power is cut off when the
 * journal is opened, and what stands behind a damaged stretch is found again. A sealed file ends with what it holds, so
 * that opening reads the last one only.
 */
public final class SegmentJournal implements Journal {

    private static final Logger LOG = LoggerFactory.getLogger(SegmentJournal.class);
    private static final int MAX_PENDING = 32 << 20;
    /** A disk that takes longer than it should is not forced without a pause. */
    private static final long LEAST_PAUSE = 10_000_000;
    /** Between two times to write, in nanoseconds. */
    private static final long WRITE_PAUSE = 20_000_000;
    /** So much is not kept waiting for the next time to force. */
    private static final int ENOUGH = 256 << 10;

    private static final int DAMAGE_KEPT = 50;

    private final Path folder;
    private final Disk disk;
    private final Hands hands;
    private final Limits limits;
    private final String installation;
    private final Runnable onDurable;
    private final ConcurrentSkipListMap<Long, SegmentFile> segments = new ConcurrentSkipListMap<>();
    private final Map<String, AtomicLong> counters = new ConcurrentHashMap<>();
    private final Map<String, byte[]> names = new ConcurrentHashMap<>();
    private final List<String> damage = new ArrayList<>();
    private final Object appending = new Object();
    private final Object writing = new Object();
    private final Worker syncer;
    private final Worker writer;
    private final String id;
    private final Opened opened;
    private byte[] pending = new byte[1 << 16];
    private int pendingSize;
    /** Where designs stand that are not written yet. */
    private final Deque<Span> designs = new ArrayDeque<>();

    /** Files to begin at positions that are not written yet. */
    private final Deque<Roll> rolls = new ArrayDeque<>();

    private long openBase;
    private Summary openSummary;
    private volatile long end;
    /** Behind what the system was given. */
    private volatile long written;
    /** The writer found nothing and waits to be woken. */
    private volatile boolean writerIdle;

    private volatile long durable;
    private final AtomicLong neededFrom = new AtomicLong();
    private volatile String trouble = "";
    private volatile String remark = "";

    /**
     * @param maxBytes    the journal takes no more beyond this
     * @param minFreeDisk nor when the disk has less than this left
     * @param segmentSize a new file begins beyond this
     * @param syncMillis  how often what was appended is forced to disk
     */
    public record Limits(long maxBytes, long minFreeDisk, long segmentSize, long syncMillis) {

        public static final Limits USUAL = new Limits(8L << 30, 512L << 20, 16L << 20, 100);
    }

    /**
     * What is known of the journal elsewhere.
     *
     * @param id    empty where there was none
     * @param floor no entry may begin below: something may have been settled up to here
     */
    public record Known(String id, long floor) {
        public static final Known NOTHING = new Known("", 0);
    }

    /** What was found at opening. */
    public enum Opened {
        /** Nothing here, and nothing was known. */
        NEW,
        /** The journal that was known. */
        SAME,
        /** The journal that was known, but it ends before what was settled: an older copy, or its end is lost. */
        OLDER,
        /** A journal that nothing was known of. */
        UNKNOWN,
        /** Nothing here, though one was known. */
        LOST
    }

    private record Roll(long base, Summary summary) {}

    private record Span(long from, long to) {}

    /** Opens the journal in a folder, which is made if it is not there. */
    public SegmentJournal(Path folder, Limits limits, String installation, Known known, Runnable onDurable) {
        this(folder, Disk.OF_THE_MACHINE, Hands.THREADS, limits, installation, known, onDurable);
    }

    /**
     * Opens the journal in a folder, which is made if it is not there.
     *
     * @param hands write and force what was appended
     */
    public SegmentJournal(
            Path folder, Disk disk, Hands hands, Limits limits, String installation, Known known, Runnable onDurable) {
        this.folder = folder;
        this.disk = disk;
        this.hands = hands;
        this.limits = limits;
        this.installation = installation;
        this.onDurable = onDurable;
        try {
            disk.makeFolder(folder);
            Opening found = new Opening(disk, folder, installation, known, this::damaged);
            segments.putAll(found.segments());
            found.lasts().forEach(this::atLeast);
            id = found.id();
            opened = found.opened();
            openSummary = found.openSummary();
            openBase = segments.lastKey();
            end = found.end();
            durable = end;
            written = end;
        } catch (IOException e) {
            throw new UncheckedIOException("The journal in " + folder + " cannot be opened.", e);
        }
        checkRoom();
        this.syncer = hands.start("journal-" + folder.getFileName(), this::syncStep);
        this.writer = hands.start("journal-writes-" + folder.getFileName(), this::writeStep);
    }

    /** Who works for it, and for whoever reads it. */
    public Hands hands() {
        return hands;
    }

    String installation() {
        return installation;
    }

    /** Drawn when the journal began, 16 hexadecimal digits. */
    public String id() {
        return id;
    }

    public Opened opened() {
        return opened;
    }

    void damaged(String sentence) {
        LOG.error("{}: {}", folder, sentence);
        synchronized (damage) {
            if (damage.size() == DAMAGE_KEPT) {
                damage.remove(0);
            }
            if (!damage.contains(sentence)) {
                damage.add(sentence);
            }
        }
    }

    private AtomicLong counter(String lane) {
        return counters.computeIfAbsent(lane, name -> new AtomicLong());
    }

    @Override
    public long append(String lane, Kind kind, int version, Design design, byte[] body) throws Full {
        byte[] name = names.computeIfAbsent(lane, each -> each.getBytes(StandardCharsets.UTF_8));
        int size = Frame.size(name, body);
        if (size > Frame.LARGEST) {
            throw new Full("A row of " + (size >> 20) + " MB is larger than a journal takes (" + (Frame.LARGEST >> 20)
                    + " MB).");
        }
        AtomicLong counter = counter(lane);
        synchronized (appending) {
            if (!trouble.isEmpty()) {
                throw new Full(trouble);
            }
            if (pendingSize + size > MAX_PENDING) {
                throw new Full("The disk under " + folder + " is too slow: " + (pendingSize >> 20)
                        + " MB wait to be written.");
            }
            if (end - openBase >= limits.segmentSize()) {
                openBase = end;
                openSummary = new Summary();
                rolls.add(new Roll(end, openSummary));
            }
            if (!openSummary.hasDesign(design.key())) {
                openSummary.addDesign(design.key(), end);
                byte[] document = ByteBuffer.allocate(8 + design.document().length)
                        .putLong(design.key())
                        .put(design.document())
                        .array();
                long from = end;
                put(Kind.DESIGN.letter(), 1, name, 0, document);
                designs.add(new Span(from, end));
            }
            long nth = counter.incrementAndGet();
            openSummary.add(lane, end, nth);
            put(kind.letter(), version, name, nth, body);
            if (writerIdle) {
                writer.wake();
            }
            return nth;
        }
    }

    private void put(char kind, int version, byte[] name, long nth, byte[] body) {
        int size = Frame.size(name, body);
        int needed = pendingSize + size;
        if (needed > pending.length) {
            pending = Arrays.copyOf(pending, Math.max(needed, pending.length * 2));
        }
        Frame.write(pending, pendingSize, end, kind, version, name, nth, body);
        if (pendingSize < ENOUGH && needed >= ENOUGH) {
            syncer.wake();
        }
        pendingSize = needed;
        end += size;
    }

    private long syncStep() {
        long begun = System.nanoTime();
        boolean more;
        try {
            more = sync();
            removeReleased();
            checkRoom();
        } catch (IOException e) {
            LOG.error("{} cannot be written.", folder, e);
            trouble = "The disk under " + folder + " cannot be written: " + e.getMessage();
            return limits.syncMillis() * 1_000_000;
        }
        return more || end - durable >= ENOUGH ? 0 : pause(System.nanoTime() - begun);
    }

    /**
     * What came right after one forcing had begun is on disk when the next one ends: the pause between them is shorter by what
     * both take, so that no more than the promised time lies between.
     */
    private long pause(long forcing) {
        long promised = limits.syncMillis() * 1_000_000;
        return Math.max(Math.min(LEAST_PAUSE, promised), promised - 2 * forcing);
    }

    private void checkRoom() {
        // 0 is also what is said where nobody knows; a disk that is really full says so when it is written.
        long free = disk.room(folder);
        remark = free == 0 ? "How much room the disk under " + folder + " has left is not known." : "";
        if (size() > limits.maxBytes()) {
            trouble = "The journal in " + folder + " is full (" + (limits.maxBytes() >> 20)
                    + " MB): new rows cannot be kept.";
        } else if (free > 0 && free < limits.minFreeDisk()) {
            trouble = "The disk under " + folder + " has only " + (free >> 20) + " MB left: new rows cannot be kept.";
        } else {
            trouble = "";
        }
    }

    /** What is not known of its disk, in a sentence; empty where all is. */
    public String remark() {
        return remark;
    }

    private long writeStep() {
        writerIdle = true;
        if (end == written) {
            return limits.syncMillis() * 1_000_000;
        }
        writerIdle = false;
        try {
            write();
        } catch (IOException e) {
            LOG.debug("{} is written again when it is forced.", folder, e); // which says what it is
        }
        return WRITE_PAUSE;
    }

    /**
     * Gives what was appended to the system, to the end of the open file at most. After a failure the same bytes are written
     * again at the same place. Designs are forced before anything else is written: what a loss of power leaves of the rest in
     * whatever order, no row is without its design.
     *
     * @return the position up to which it was given
     */
    private long write() throws IOException {
        synchronized (writing) {
            byte[] group;
            SegmentFile open;
            List<Span> first;
            long from = written;
            synchronized (appending) {
                Roll roll = rolls.peek();
                long upTo = roll == null ? end : roll.base();
                open = segments.lastEntry().getValue();
                group = Arrays.copyOfRange(pending, (int) (from - durable), (int) (upTo - durable));
                first = designs.stream().filter(each -> each.to() <= upTo).toList();
            }
            for (Span each : first) {
                open.write(group, (int) (each.from() - from), (int) (each.to() - each.from()), each.from());
            }
            if (!first.isEmpty()) {
                force(open);
                synchronized (appending) {
                    designs.removeAll(first);
                }
            }
            open.write(group, 0, group.length, from);
            written = from + group.length;
            return written;
        }
    }

    /**
     * Writes and forces what was appended when it was called, to the end of the open file at most: then the room is looked at
     * before the next one. After a failure all that was not forced is written again: nobody knows what became of it.
     *
     * @return whether another file was begun, and more may wait for it
     */
    private synchronized boolean sync() throws IOException {
        SegmentFile open = segments.lastEntry().getValue();
        long upTo = write();
        if (upTo > durable) {
            force(open);
            synchronized (appending) {
                int settled = (int) (upTo - durable);
                pendingSize -= settled;
                System.arraycopy(pending, settled, pending, 0, pendingSize);
                durable = upTo;
            }
            onDurable.run();
        }
        Roll roll;
        synchronized (appending) {
            roll = rolls.peek();
        }
        if (roll == null || roll.base() > durable) {
            return roll != null;
        }
        if (!open.sealed()) {
            open.seal(durable, SegmentFile.HEAD + durable - open.base());
        }
        segments.put(durable, SegmentFile.begin(disk, folder, durable, installation, id, roll.summary()));
        synchronized (appending) {
            rolls.poll();
        }
        return true;
    }

    /** After a failure everything that was not forced is written again, whoever wrote it. */
    private void force(SegmentFile open) throws IOException {
        try {
            open.forceEntries();
        } catch (IOException | RuntimeException | Error e) {
            synchronized (writing) {
                written = durable;
            }
            throw e;
        }
    }

    @Override
    public LongSupplier lastOf(String lane) {
        return counter(lane)::get;
    }

    @Override
    public long last(String lane) {
        return counter(lane).get();
    }

    @Override
    public void atLeast(String lane, long nth) {
        counter(lane).accumulateAndGet(nth, Math::max);
    }

    @Override
    public List<String> lanes() {
        return segments.values().stream()
                .flatMap(file -> file.summary().lanes().keySet().stream())
                .distinct()
                .toList();
    }

    @Override
    public List<Stretch> stretches(String lane) {
        List<Stretch> found = new ArrayList<>();
        segments.values().forEach(file -> file.summary()
                .of(lane)
                .ifPresent(each -> found.add(
                        new Stretch(each.first(), each.last(), each.firstNth(), each.lastNth(), each.entries()))));
        return found;
    }

    /** The document of a design that entries were made under; empty where it is not here any more. */
    public Optional<byte[]> design(long key) {
        for (SegmentFile file : segments.descendingMap().values()) {
            Long at = file.summary().designs().get(key);
            if (at == null || at >= durable) {
                continue;
            }
            try {
                Entry entry = file.scan(at, new Frame.Names()).next(entriesEnd(file));
                if (entry != null && entry.position() == at) {
                    return Optional.of(Arrays.copyOfRange(entry.body(), 8, entry.body().length));
                }
            } catch (IOException e) {
                LOG.error("{} cannot be read.", file.path(), e);
            }
        }
        return Optional.empty();
    }

    /** Offset in the file behind what may be read of it. */
    long entriesEnd(SegmentFile file) {
        return SegmentFile.HEAD + (file.sealed() ? file.end() : durable) - file.base();
    }

    /** Position behind all that was appended. */
    public long end() {
        return end;
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
        return new SegmentReader(this, segments, Math.max(from, first()));
    }

    /** The finished files that end at a position or before, oldest first. */
    List<SegmentFile> finished(long upTo) {
        return segments.values().stream()
                .filter(file -> file.sealed() && file.end() <= upTo)
                .toList();
    }

    /** Position behind the oldest file; the largest number while only one is there. */
    public long oldestEnd() {
        SegmentFile oldest = segments.firstEntry().getValue();
        return oldest.sealed() ? oldest.end() : Long.MAX_VALUE;
    }

    Path folder() {
        return folder;
    }

    Disk disk() {
        return disk;
    }

    /** Asked after every batch, so files are removed by the thread that forces them. */
    @Override
    public void release(long upTo) {
        neededFrom.accumulateAndGet(upTo, Math::max);
    }

    private void removeReleased() {
        Long second = segments.higherKey(segments.firstKey());
        while (second != null && second <= neededFrom.get()) {
            SegmentFile oldest = segments.pollFirstEntry().getValue();
            try {
                oldest.remove();
            } catch (IOException e) {
                LOG.warn("{} could not be removed.", oldest.path(), e);
            }
            second = segments.higherKey(second);
        }
    }

    /** Whether it is more than half full. */
    public boolean fills() {
        return size() > limits.maxBytes() / 2;
    }

    @Override
    public long size() {
        return end - first();
    }

    @Override
    public List<String> damage() {
        synchronized (damage) {
            return List.copyOf(damage);
        }
    }

    @Override
    public void close() {
        writer.close();
        syncer.close();
        synchronized (appending) {
            trouble = "The application is being stopped: the journal in " + folder + " takes no more rows.";
        }
        try {
            while (sync()) {
                // the next file
            }
            removeReleased();
            for (SegmentFile segment : segments.values()) {
                segment.close();
            }
        } catch (IOException e) {
            LOG.error("{} could not be closed cleanly.", folder, e);
        }
    }
}
