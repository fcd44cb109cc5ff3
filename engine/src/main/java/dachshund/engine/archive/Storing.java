package dachshund.engine.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.ArchiveStore.Lane;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PlantClock;
import dachshund.engine.archive.ValueEntry.Value;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Brings values from the journal to the store: what has come since the last time goes there once a minute, a small block for
 * each tag, in one step with how far each rule's lane is. So values are stored once, whatever dies in between. After any
 * failure nothing is believed of what is in memory: it is read from the journal anew. One thread calls {@link #step}.
 */
final class Storing {

    static final long EVERY_NANOS = 60_000_000_000L;
    /** So many values are stored at once at the latest, and so many wait in memory. */
    static final int MOST = 400_000;

    private static final long LOOK_NANOS = 100_000_000L;
    /** What is heard comes to the disk some milliseconds later. */
    private static final long SOON_NANOS = 10_000_000L;

    private static final long FIRST_PAUSE_NANOS = 250_000_000L;
    private static final int MOST_DOUBLINGS = 7;

    /** So often the store may refuse everything before it is asked what of it it refuses. */
    private static final int PATIENCE = 4;

    /** The values of more tags than these are not set aside: it is the store then, and not they. */
    private static final int MOST_REFUSED = 10;

    private final SegmentJournal journal;
    private final RefusedValues refused;
    private final PlantClock clock;
    private final Said said;
    private final long every;
    private final Map<Long, KeptTags> designs = new HashMap<>();
    private final Map<String, LaneAt> lanes = new HashMap<>();
    private final Map<Place, Tail> tails = new LinkedHashMap<>();
    private final Holes holes = new Holes();
    private Journal.Reader reader;
    /** In the tails. */
    private long values;

    /** Whether anything was read that is not stored, and since when. */
    private boolean fresh;

    private long oldest;
    private int failures;
    private final Object reading = new Object();
    /** Up to where the journal was read, and up to where somebody waits for; guarded by the reading. */
    private long readTo;

    private long wanted;

    private volatile ArchiveStore store;
    private volatile boolean now;
    private volatile String trouble = "Our own database has not answered yet.";
    private volatile long stored;

    /** Of which rule and of which tag. */
    private record Place(String lane, long tag) {}

    /** What has been read of one tag and is not stored. */
    private static final class Tail {
        private final KeptTags.Tag tag;
        private final KeptFor lasting;
        private final Arrivals values = new Arrivals();
        private long read;

        private Tail(KeptTags.Tag tag, KeptFor lasting) {
            this.tag = tag;
            this.lasting = lasting;
        }

        private void put(long time, Object value, int mark) {
            values.add(time, value, mark);
            read += Marks.isGap(mark) ? 0 : 1;
        }
    }

    /** How far a lane was read. */
    private static final class LaneAt {
        /** Of this journal; 0 where the lane is new to it. */
        private long nth;

        private long settledNth;
        private long settledAt;
        private long run;
        private long at;
        private Counts counts = Counts.NONE;
        private Counts fresh = Counts.NONE;
        private boolean changed;
    }

    /** @param refused where values go that the store refuses */
    Storing(SegmentJournal journal, PlantClock clock, Said said, long every, RefusedValues refused) {
        this.journal = journal;
        this.refused = refused;
        this.clock = clock;
        this.said = said;
        this.every = every;
    }

    void storeIn(ArchiveStore where) {
        store = where;
    }

    /** Stores what is there as soon as it can. */
    void storeNow() {
        now = true;
    }

    /** Where the journal ends now: what is before it has been heard. */
    long heard() {
        long end = journal.end();
        synchronized (reading) {
            wanted = Math.max(wanted, end);
        }
        return end;
    }

    /** Waits until all before a position has been read; false where it has not within the limit. */
    boolean readUpTo(long position, Duration limit) {
        long until = System.nanoTime() + limit.toNanos();
        synchronized (reading) {
            while (readTo < position) {
                long left = until - System.nanoTime();
                if (left <= 0) {
                    return false;
                }
                try {
                    reading.wait(1 + left / 1_000_000);
                } catch (InterruptedException stopped) {
                    Thread.currentThread().interrupt();
                    return false;
                }
            }
            return true;
        }
    }

    /** Whether somebody waits for more than that. */
    private boolean readUpTo(long position) {
        synchronized (reading) {
            readTo = position;
            reading.notifyAll();
            return readTo < wanted;
        }
    }

    /** Why values do not come to the store; empty where they do. */
    String trouble() {
        return trouble;
    }

    /** How many values were stored since the start. */
    long stored() {
        return stored;
    }

    Holes holes() {
        return holes;
    }

    /** One step; how many nanoseconds to pause before the next. */
    long step() {
        ArchiveStore to = store;
        if (to == null) {
            return LOOK_NANOS;
        }
        try {
            if (reader == null) {
                begin(to.lanes());
            }
            boolean more = read();
            boolean waited = readUpTo(reader.position());
            boolean asked = now;
            if (values >= MOST || fresh && (asked || clock.nanos() - oldest >= every)) {
                store(to);
            }
            if (asked && !fresh) {
                now = false;
            }
            trouble = "";
            failures = 0;
            return more ? 0 : waited ? SOON_NANOS : LOOK_NANOS;
        } catch (Problem problem) {
            return anew(problem.getMessage());
        } catch (RuntimeException | Error defect) {
            Threads.report(defect);
            return anew("Unexpectedly: " + Threads.words(defect));
        }
    }

    private long anew(String why) {
        if (!why.equals(trouble)) {
            said.note(clock.now(), "Values are not stored; they wait in the journal. " + why);
        }
        trouble = why;
        synchronized (reading) {
            readTo = Long.MIN_VALUE;
        }
        synchronized (tails) {
            tails.clear();
        }
        lanes.clear();
        values = 0;
        fresh = false;
        reader = null;
        return FIRST_PAUSE_NANOS << Math.min(failures++, MOST_DOUBLINGS);
    }

    private void begin(List<Lane> known) {
        for (Lane each : known) {
            LaneAt lane = lanes.computeIfAbsent(each.lane(), name -> new LaneAt());
            if (each.journal().equals(journal.id())) {
                lane.settledNth = each.nth();
                lane.settledAt = each.at();
                lane.nth = each.nth();
                lane.counts = each.counts();
                // Where the journal is an older copy, or its end was lost, numbers that were given are not given again.
                journal.atLeast(each.lane(), each.nth());
            }
            if (each.at() > lane.at) {
                lane.at = each.at();
                lane.run = each.run();
            }
        }
        reader = journal.read(journal.first());
    }

    /** @return whether there may be more at once */
    private boolean read() {
        while (values < MOST) {
            Journal.Entry entry = reader.next();
            if (entry == null) {
                return false;
            }
            if (entry.kind() == Journal.Kind.VALUES.letter()) {
                take(entry);
            }
        }
        return true;
    }

    private void take(Journal.Entry entry) {
        ValueEntry read;
        KeptTags tags;
        try {
            read = ValueEntry.read(entry.body());
            tags = tags(read.design());
        } catch (IllegalArgumentException strange) {
            said.note(clock.now(), strange.getMessage() + " It is left out.");
            return; // its running number is missing behind it, which makes a gap
        }
        LaneAt lane = lanes.computeIfAbsent(entry.lane(), name -> new LaneAt());
        // An older copy of the journal gives numbers again that are settled; what was written later is none of them.
        if (entry.nth() <= lane.settledNth && read.at() <= lane.settledAt) {
            return;
        }
        synchronized (tails) {
            if (lane.nth > 0 && entry.nth() > lane.nth + 1) {
                said.note(
                        clock.now(),
                        (entry.nth() - lane.nth - 1) + " entries of a keeping rule are missing in the journal.");
                gap(entry.lane(), tags, lane.at, Gap.LOST);
            } else if (lane.run != 0 && lane.run != read.run()) {
                gap(entry.lane(), tags, lane.at, Gap.AWAY);
            }
            for (Value value : read.values()) {
                if (value.tag() >= 0 && value.tag() < tags.tags().size()) {
                    put(entry.lane(), tags, tags.tags().get(value.tag()), value.time(), value.value(), value.mark());
                }
            }
        }
        oldest = fresh ? oldest : clock.nanos();
        fresh = true;
        lane.changed = true;
        lane.nth = entry.nth();
        lane.run = read.run();
        lane.at = Math.max(lane.at, read.at());
        lane.fresh = lane.fresh.plus(read.counts());
    }

    private void gap(String lane, KeptTags tags, long after, Gap why) {
        for (KeptTags.Tag tag : tags.tags()) {
            put(lane, tags, tag, after + 1, null, Marks.of(why));
        }
    }

    private void put(String lane, KeptTags tags, KeptTags.Tag tag, long time, Object value, int mark) {
        long key = tag.key();
        tails.computeIfAbsent(new Place(lane, key), place -> new Tail(tag, tags.lasting()))
                .put(time, value, mark);
        holes.next(key, tag, time, mark);
        values++;
    }

    private KeptTags tags(long design) {
        return designs.computeIfAbsent(
                design,
                key -> KeptTags.read(
                        journal.design(key)
                                .orElseThrow(
                                        () -> new IllegalArgumentException(
                                                "The journal of the archive has lost the list of tags that an entry was made under."))));
    }

    private void store(ArchiveStore to) throws Problem {
        List<Block> blocks = new ArrayList<>();
        List<ArchiveStore.Tag> tags = new ArrayList<>();
        Map<String, Long> kept = new HashMap<>();
        Map<String, Long> replaced = new HashMap<>();
        tails.forEach((place, tail) -> {
            List<Block> of = Block.of(place.tag(), tail.values.series());
            blocks.addAll(of);
            long real = of.stream().mapToLong(Block::values).sum();
            kept.merge(place.lane(), real, Long::sum);
            replaced.merge(place.lane(), tail.read - real, Long::sum);
            tags.add(new ArchiveStore.Tag(place.tag(), tail.tag.ref(), tail.tag.name(), tail.lasting));
        });
        List<Lane> far = new ArrayList<>();
        lanes.forEach((name, lane) -> {
            if (lane.changed) {
                Counts counts = lane.counts
                        .plus(lane.fresh)
                        .plus(new Counts(0, kept.getOrDefault(name, 0L), replaced.getOrDefault(name, 0L), 0, 0));
                far.add(new Lane(journal.id(), name, lane.nth, lane.run, lane.at, counts));
            }
        });
        try {
            to.store(blocks, far, tags);
        } catch (Problem | RuntimeException problem) {
            if (failures < PATIENCE || !setAside(to)) {
                throw problem;
            }
            store(to);
            return;
        }
        stored += kept.values().stream().mapToLong(Long::longValue).sum();
        far.forEach(each -> {
            LaneAt lane = lanes.get(each.lane());
            lane.counts = each.counts();
            lane.fresh = Counts.NONE;
            lane.settledNth = each.nth();
            lane.settledAt = each.at();
            lane.changed = false;
        });
        synchronized (tails) {
            tails.clear();
        }
        values = 0;
        fresh = false;
        designs.clear();
        journal.release(reader.position());
    }

    /**
     * Where the store answers and refuses for a reason that nobody knows, the values of the tags that it refuses are set aside,
     * so that all others go on; whether there were such.
     */
    private boolean setAside(ArchiveStore to) throws Problem {
        to.lanes(); // away is not refusing
        List<Place> places = new ArrayList<>();
        find(to, List.copyOf(tails.keySet()), places);
        // Where nothing at all is taken it is the store, as when its disk is full.
        if (places.isEmpty() || places.size() > MOST_REFUSED || places.size() == tails.size()) {
            return false;
        }
        for (Place place : places) {
            Tail tail = tails.get(place);
            Series series = tail.values.series();
            Path file;
            try {
                file = refused.keep(tail.tag.name(), place.tag(), series, clock.now());
            } catch (IOException disk) {
                said.note(clock.now(), "Values that are refused could not be set aside: " + disk.getMessage());
                return false;
            }
            long real = Block.of(place.tag(), series).stream()
                    .mapToLong(Block::values)
                    .sum();
            LaneAt lane = lanes.get(place.lane());
            lane.fresh = lane.fresh.plus(new Counts(0, 0, tail.read - real, 0, real));
            said.note(
                    clock.now(),
                    "Our own database takes everything but " + real + " values of " + tail.tag.name()
                            + ", for a reason that is not known. They are set aside in " + file
                            + " and can be brought in from there.");
            Tail gap = new Tail(tail.tag, tail.lasting);
            gap.put(series.time(0), null, Marks.of(Gap.SET_ASIDE));
            synchronized (tails) {
                tails.put(place, gap);
            }
            if (!takes(to, List.of(place))) {
                synchronized (tails) {
                    tails.remove(place);
                }
            }
        }
        return true;
    }

    private void find(ArchiveStore to, List<Place> some, List<Place> into) {
        if (into.size() > MOST_REFUSED || takes(to, some)) {
            return;
        }
        if (some.size() == 1) {
            into.add(some.get(0));
            return;
        }
        find(to, some.subList(0, some.size() / 2), into);
        find(to, some.subList(some.size() / 2, some.size()), into);
    }

    private boolean takes(ArchiveStore to, List<Place> some) {
        List<Block> blocks = new ArrayList<>();
        List<ArchiveStore.Tag> tags = new ArrayList<>();
        for (Place place : some) {
            Tail tail = tails.get(place);
            blocks.addAll(Block.of(place.tag(), tail.values.series()));
            tags.add(new ArchiveStore.Tag(place.tag(), tail.tag.ref(), tail.tag.name(), tail.lasting));
        }
        try {
            to.offer(blocks, tags);
            return true;
        } catch (Problem | RuntimeException problem) {
            return false;
        }
    }

    /** What of a tag has been read and is not stored; each piece in the order of its times, the later made one last. */
    List<Column> tail(TagRef tag) {
        long key = TagKey.of(tag);
        List<Column> pieces = new ArrayList<>();
        synchronized (tails) {
            tails.forEach((place, tail) -> {
                if (place.tag() == key) {
                    pieces.addAll(tail.values.copies());
                }
            });
        }
        return pieces;
    }
}
