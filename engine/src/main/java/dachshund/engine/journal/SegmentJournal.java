package dachshund.engine.journal;

import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Worker;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.SecureRandom;
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
 * A journal in plain segment files, see {@link SegmentFile} and {@link Frame}. What was appended is written and forced in
 * groups; an end torn by a loss of power is cut off when the journal is opened, and what stands behind a damaged stretch is
 * found again. A sealed file ends with what it holds, so that opening reads the last one only.
 */
public final class SegmentJournal implements Journal {

    private static final Logger LOG = LoggerFactory.getLogger(SegmentJournal.class);
    private static final int MAX_PENDING = 32 << 20;
    /** A disk that takes longer than it should is not forced without a pause. */
    private static final long LEAST_PAUSE = 10_000_000;
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
    private final Worker syncer;
    private String id = "";
    private Opened opened = Opened.NEW;
    private byte[] pending = new byte[1 << 16];
    private int pendingSize;
    /** Files to begin at positions that are not written yet. */
    private final Deque<Roll> rolls = new ArrayDeque<>();

    private long openBase;
    private Summary openSummary = new Summary();
    private volatile long end;
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
            openSegments(known);
        } catch (IOException e) {
            throw new UncheckedIOException("The journal in " + folder + " cannot be opened.", e);
        }
        checkRoom();
        this.syncer = hands.start("journal-" + folder.getFileName(), this::syncStep);
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

    private void openSegments(Known known) throws IOException {
        for (Path path : SegmentFile.in(disk, folder)) {
            SegmentFile file = SegmentFile.open(disk, path);
            if (file.bytes() < SegmentFile.HEAD) {
                file.remove(); // begun, and the power went
                continue;
            }
            segments.put(file.base(), file);
        }
        disk.forceFolder(folder); // a process may have been killed before it had forced what it had begun
        segments.values().stream()
                .map(SegmentFile::journal)
                .filter(each -> !each.isEmpty())
                .reduce((a, b) -> b)
                .ifPresent(each -> id = each);
        boolean any = !segments.isEmpty();
        if (id.isEmpty() && any) {
            id = known.id(); // no head can be read, so it is taken for the one that was here
        }
        if (id.isEmpty()) {
            id = String.format("%016x", new SecureRandom().nextLong());
        }
        // A damaged head says nothing of who made its rows: those around it do.
        for (SegmentFile file : List.copyOf(segments.values())) {
            if (file.installation().isEmpty()) {
                SegmentFile beside = segments.values().stream()
                        .filter(each -> !each.installation().isEmpty())
                        .findFirst()
                        .orElse(null);
                segments.put(file.base(), file.of(beside == null ? installation : beside.installation(), id));
                damaged(file.path().getFileName()
                        + ": its head was altered on disk; its entries are read all the same.");
            }
        }
        if (any) {
            segments.lastEntry().getValue().force(); // what a killed process wrote is durable only now
        }
        for (SegmentFile file : segments.values()) {
            if (!file.sealed()) {
                take(file);
            }
            end = Math.max(end, file.end()); // also behind a sealed one that no other was begun after
            file.summary().lanes().forEach((lane, each) -> atLeast(lane, each.lastNth()));
        }
        long floor = known.id().isEmpty() || known.id().equals(id) || !any ? known.floor() : 0;
        opened = !any
                ? known.id().isEmpty() ? Opened.NEW : Opened.LOST
                : !known.id().equals(id) ? Opened.UNKNOWN : end < floor ? Opened.OLDER : Opened.SAME;
        SegmentFile last = any ? segments.lastEntry().getValue() : null;
        if (last == null || last.sealed() || end < floor) {
            if (last != null && !last.sealed()) {
                last.seal(end, SegmentFile.HEAD + end - last.base());
            }
            end = Math.max(end, floor);
            openSummary = new Summary();
            segments.put(end, SegmentFile.begin(disk, folder, end, installation, id, openSummary));
        } else if (!last.installation().equals(installation)) {
            last.seal(end, SegmentFile.HEAD + end - last.base());
            openSummary = new Summary();
            segments.put(end, SegmentFile.begin(disk, folder, end, installation, id, openSummary));
        } else {
            openSummary = last.summary();
        }
        openBase = segments.lastKey();
        durable = end;
    }

    /** Takes stock of a file that was not sealed: the open one, or one that was cut off before its summary was written. */
    private void take(SegmentFile file) throws IOException {
        file.force();
        boolean last = segments.higherKey(file.base()) == null;
        long length = file.bytes();
        FrameScanner scanner = file.scan(file.base(), new Frame.Names());
        for (Entry entry = scanner.next(length); entry != null; entry = scanner.next(length)) {
            if (scanner.skipped() > 0) {
                damaged(file.path().getFileName() + ": bytes before position " + entry.position()
                        + " were altered on disk.");
            }
            file.summary().add(entry);
        }
        long behind = file.base() + scanner.offset() - SegmentFile.HEAD;
        if (length > scanner.offset()) {
            LOG.warn("{}: {} bytes at the end were not whole and are cut off.", file.path(), length - scanner.offset());
            file.cut(scanner.offset());
        }
        end = Math.max(end, behind);
        if (!last) {
            file.seal(behind, scanner.offset());
        }
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
                put(Kind.DESIGN.letter(), 1, name, 0, document);
            }
            long nth = counter.incrementAndGet();
            openSummary.add(lane, end, nth);
            put(kind.letter(), version, name, nth, body);
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

    /**
     * Writes and forces what was appended when it was called, to the end of the open file at most: then the room is looked at
     * before the next one. After a failure the same bytes are written again at the same place.
     *
     * @return whether another file was begun, and more may wait for it
     */
    private synchronized boolean sync() throws IOException {
        byte[] group;
        Roll roll;
        synchronized (appending) {
            roll = rolls.peek();
            group = Arrays.copyOf(pending, (int) ((roll == null ? end : roll.base()) - durable));
        }
        SegmentFile open = segments.lastEntry().getValue();
        if (group.length > 0) {
            open.write(group, group.length, durable);
            synchronized (appending) {
                pendingSize -= group.length;
                System.arraycopy(pending, group.length, pending, 0, pendingSize);
                durable += group.length;
            }
            onDurable.run();
        }
        if (roll == null) {
            return false;
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

    private long entriesEnd(SegmentFile file) {
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
        return new SegmentReader(Math.max(from, first()));
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

    private final class SegmentReader implements Reader {

        private final Frame.Names lanes = new Frame.Names();
        private long position;
        private SegmentFile in;
        private FrameScanner scanner;

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
                Map.Entry<Long, SegmentFile> at = segments.floorEntry(position);
                if (at == null) {
                    position = segments.firstKey(); // what was here is released
                    continue;
                }
                try {
                    SegmentFile file = at.getValue();
                    if (file.sealed() && position >= file.end()) {
                        Long following = segments.higherKey(file.base());
                        if (following == null) {
                            return null;
                        }
                        position = following;
                        continue;
                    }
                    if (!file.equals(in)) {
                        in = file;
                        scanner = file.scan(position, lanes);
                    }
                    Entry entry = scanner.next(entriesEnd(file));
                    if (entry != null) {
                        if (scanner.skipped() > 0) {
                            damaged(file.path().getFileName() + ": bytes before position " + entry.position()
                                    + " were altered on disk.");
                        }
                        position = entry.next();
                        return entry;
                    }
                    if (!file.sealed()) {
                        return null;
                    }
                    damaged(file.path().getFileName() + ": bytes from position " + position
                            + " to its end were altered on disk.");
                    position = file.end();
                } catch (IOException e) {
                    throw new UncheckedIOException("The journal in " + folder + " cannot be read.", e);
                }
            }
            return null;
        }
    }
}
