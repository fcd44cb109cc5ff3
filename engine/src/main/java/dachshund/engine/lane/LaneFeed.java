package dachshund.engine.lane;

import dachshund.core.destination.Batching;
import dachshund.core.row.Row;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.OwnRoom;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;

/**
 * Reads the journal of a destination into the queues of its lanes. Each lane has room of its own, so a full one is passed
 * over and read again when it has room: the others go on. Belongs to the writer's thread, but for {@link #fill} while the
 * writer waits for its database and touches no queue.
 */
final class LaneFeed {

    /** Rows that are read long before they are written cost more to keep than to read. */
    private static final int LEAST_LANE_ROOM = 2_000;
    /** What every lane may have in memory, however many others there are. */
    static final int ALWAYS = 500;

    private static final int ROOM = 100_000;
    /** So far the common reader goes on past the rows of a lane that is full. */
    private static final long AHEAD = 16L << 20;
    /** Over so many bytes of the journal at most reaches a batch for a store that can tell of its last batch only. */
    static final long SPAN = 16L << 20;

    private final SegmentJournal journal;
    private final LocalStore local;
    private final Supplier<Batching> batching;
    private final Function<String, Lane> byRecorder;
    private final Supplier<Collection<Lane>> lanes;
    private final Predicate<Lane> onDisk;
    private final Map<Long, Optional<LaneDesign>> designs = new ConcurrentHashMap<>();
    private final AtomicInteger queued = new AtomicInteger();
    private Journal.Reader reader;
    /** Rows that are being written, all lanes together. */
    private int leaving;

    /**
     * @param byRecorder the lane of a recorder, made if it is new
     * @param onDisk     whether it is on disk how far a lane is
     */
    LaneFeed(
            SegmentJournal journal,
            LocalStore local,
            Supplier<Batching> batching,
            Function<String, Lane> byRecorder,
            Supplier<Collection<Lane>> lanes,
            Predicate<Lane> onDisk) {
        this.journal = journal;
        this.local = local;
        this.batching = batching;
        this.byRecorder = byRecorder;
        this.lanes = lanes;
        this.onDisk = onDisk;
        this.reader = journal.read(0);
    }

    /** Also where rows of it were met before, and it could not be found. */
    void know(LaneDesign design) {
        know(design.key(), Optional.of(design));
    }

    private void know(long key, Optional<LaneDesign> design) {
        designs.merge(key, design, (known, told) -> known.isPresent() ? known : told);
    }

    /** The design of a key, also of an earlier run; empty where it is lost or none that this version can read. */
    private Optional<LaneDesign> design(long key) {
        return designs.computeIfAbsent(key, each -> journal.design(each)
                .or(() -> local.designs().find(each))
                .flatMap(LaneFeed::read));
    }

    private static Optional<LaneDesign> read(byte[] document) {
        try {
            return Optional.of(LaneDesign.read(document));
        } catch (RuntimeException strange) {
            return Optional.empty(); // its lane says so
        }
    }

    private int laneRoom() {
        return Math.max(LEAST_LANE_ROOM, 2 * batching.get().rows());
    }

    private boolean wantsMore(Lane lane) {
        int size = lane.queue.size();
        return !lane.tried
                && !lane.blocked
                && !(lane.faulted() && size > 0)
                && (size < ALWAYS || queued.get() < ROOM + leaving && size < laneRoom() + lane.leaving);
    }

    /** Rows at the heads of these lanes are being written until {@link #left}: others may take their room already. */
    void leaving(List<Lane> writing, List<List<Lane.Waiting>> heads) {
        for (int i = 0; i < heads.size(); i++) {
            writing.get(i).leaving = heads.get(i).size();
            leaving += heads.get(i).size();
        }
    }

    /** Nothing is being written any more. */
    void left(List<Lane> writing) {
        writing.forEach(lane -> lane.leaving = 0);
        leaving = 0;
    }

    /**
     * Entries at the end of a lane that were altered on disk come never, and no later one shows their gap: once everything up
     * to there was read, nobody waits for them.
     *
     * @return the lanes that are settled further now
     */
    List<Lane> passOverAltered() {
        List<Lane> further = new ArrayList<>();
        for (Lane lane : lanes.get()) {
            if (lane.tried || lane.blocked || !lane.queue.isEmpty() || lane.waiting() == 0) {
                continue;
            }
            long upTo = 0;
            if (lane.room != null) {
                upTo = lane.readsRoom() ? 0 : lane.room.lastNth();
            }
            if (!lane.readsRoom() && !lane.behind) {
                for (Journal.Stretch stretch : journal.stretches(lane.recorder)) {
                    upTo = stretch.last() < reader.position() ? stretch.lastNth() : upTo;
                }
            }
            if (upTo > lane.settled().nth()) {
                lane.altered(upTo);
                further.add(lane);
            }
        }
        return further;
    }

    /** Fills the queues from where it left off. */
    void fill() {
        lanes.get().forEach(this::fillFromRoom);
        goBack();
        int seeking = 0;
        long full = Long.MAX_VALUE;
        for (Lane each : lanes.get()) {
            if (seeks(each)) {
                seeking++;
            } else if (each.behind && !each.apart) {
                full = Math.min(full, each.readTo);
            }
        }
        Lane lane = null;
        while (seeking > 0 && (full == Long.MAX_VALUE || reader.position() - full < AHEAD)) {
            Journal.Entry entry = reader.next();
            if (entry == null) {
                return;
            }
            if (entry.kind() == Journal.Kind.DESIGN.letter()) {
                know(entry);
                continue;
            }
            lane = lane != null && lane.recorder.equals(entry.lane()) ? lane : byRecorder.apply(entry.lane());
            if (entry.position() < lane.readTo || lane.behind) {
                continue;
            }
            if (lane.readsRoom() || !wantsMore(lane)) {
                lane.behind = true;
                full = lane.apart ? full : Math.min(full, entry.position());
                continue;
            }
            if (!enqueue(lane, entry)) {
                lane.behind = true;
                seeking--;
            } else if (!seeks(lane)) {
                seeking--;
                if (lane.unread() > 0) {
                    lane.behind = true;
                    full = lane.apart ? full : Math.min(full, lane.readTo);
                }
            }
        }
        if (full != Long.MAX_VALUE) {
            lanes.get().forEach(this::lookAhead);
        }
    }

    /** Whether the common reader may find something for the lane. */
    private boolean seeks(Lane lane) {
        return !lane.behind && !lane.readsRoom() && lane.unread() > 0 && wantsMore(lane);
    }

    /** Begins again at the first place that a lane which has room now was passed over at. */
    private void goBack() {
        long from = Long.MAX_VALUE;
        for (Lane lane : lanes.get()) {
            // Half empty, so that not every row costs a way back.
            boolean wants = lane.behind
                    && !lane.readsRoom()
                    && lane.queue.size() - lane.leaving <= laneRoom() / 2
                    && wantsMore(lane);
            from = wants ? Math.min(from, lane.readTo) : from;
        }
        if (from < reader.position()) {
            reader = journal.read(from);
        }
        if (from != Long.MAX_VALUE) {
            long at = from;
            lanes.get().forEach(lane -> lane.behind = lane.behind && (lane.readTo < at || lane.readsRoom()));
        }
    }

    /**
     * Reads on, whatever others have in memory, until the lane has all that one batch may have held ({@link #SPAN}): what may
     * stand at the end of a file is compared with it.
     */
    void lengthen(Lane lane) {
        BooleanSupplier misses = () -> lane.queue.size() < Batching.MOST_ROWS
                && (lane.queue.isEmpty() || lane.readTo - lane.queue.getFirst().position() < SPAN);
        fillFromRoom(lane, misses);
        if (!lane.readsRoom() && !lane.blocked && lane.unread() > 0 && misses.getAsBoolean()) {
            readOwn(lane, lane.readTo, Batching.MOST_ROWS, SPAN);
        }
    }

    /** Gives up what the lane has in memory beyond its room. */
    void shorten(Lane lane) {
        if (lane.queue.size() > laneRoom()) {
            readAgain(lane);
        }
    }

    /** A lane whose rows stand far behind those of full ones does not wait for these: its own next rows are looked up. */
    private void lookAhead(Lane lane) {
        if (seeks(lane) && lane.queue.isEmpty()) {
            readOwn(lane, Math.max(lane.readTo, reader.position()), ALWAYS, AHEAD);
        }
    }

    /** Reads rows of one lane alone, so many at most in its queue, and so many bytes far. */
    private void readOwn(Lane lane, long from, int most, long far) {
        for (Journal.Stretch stretch : journal.stretches(lane.recorder)) {
            if (stretch.lastNth() <= lane.lastQueued()) {
                continue;
            }
            Journal.Reader own = journal.read(Math.max(from, stretch.first()));
            long beginning = lane.queue.isEmpty()
                    ? stretch.first()
                    : lane.queue.getFirst().position();
            for (Journal.Entry entry = own.next(); entry != null && lane.queue.size() < most; entry = own.next()) {
                boolean next = entry.lane().equals(lane.recorder) && entry.nth() > lane.lastQueued();
                if (next && !enqueue(lane, entry)) {
                    lane.behind = true;
                    return;
                }
                if (own.position() - beginning > far) {
                    break;
                }
            }
            return;
        }
    }

    private void fillFromRoom(Lane lane) {
        fillFromRoom(lane, () -> wantsMore(lane));
    }

    private void fillFromRoom(Lane lane, BooleanSupplier more) {
        if (lane.room == null || lane.tried) {
            return;
        }
        if (!lane.readsRoom()) {
            // Until it is on disk that they are settled, a loss of power would leave nothing to look them up by.
            if (lane.settled().nth() >= lane.room.lastNth() && onDisk.test(lane)) {
                lane.room.release(Long.MAX_VALUE);
                lane.room = null;
                lane.roomReader = null;
            }
            return;
        }
        if (lane.roomReader == null) {
            lane.roomReader = lane.room.read(lane.readTo);
        }
        while (more.getAsBoolean()) {
            Journal.Entry entry = lane.roomReader.next();
            if (entry == null) {
                // What stands behind it is in the journal.
                lane.readTo = Math.max(lane.readTo, lane.room.end());
                lane.roomRead = true;
                lane.behind = true;
                return;
            }
            if (entry.kind() == Journal.Kind.DESIGN.letter()) {
                know(entry);
            } else if (entry.position() >= lane.readTo && !enqueue(lane, entry)) {
                lane.roomReader = null; // it is tried again from there
                return;
            }
        }
    }

    private void know(Journal.Entry entry) {
        byte[] document = java.util.Arrays.copyOfRange(entry.body(), 8, entry.body().length);
        long key = java.nio.ByteBuffer.wrap(entry.body()).getLong();
        if (designs.getOrDefault(key, Optional.empty()).isEmpty()) {
            know(key, read(document));
        }
    }

    /** False where the entry is none that can be given out: the lane stands, and says why. */
    private boolean enqueue(Lane lane, Journal.Entry entry) {
        Optional<Decision> decision = lane.decisionWaits ? Optional.empty() : lane.decision;
        if (decision.isPresent() && decision.get().discards(entry.nth())) {
            // Also one that nobody can read.
            Row row = HeldRow.read(entry, this::design).row().orElse(null);
            add(
                    lane,
                    new Lane.Waiting(
                            entry.position(), entry.next(), entry.nth(), entry.installation(), null, "", row, ""));
            return true;
        }
        try {
            RowCodec.Decoded decoded = RowCodec.read(entry, lane.lastPlace);
            Optional<LaneDesign> design = design(decoded.design());
            if (design.isEmpty()) {
                stands(lane, "The design under which rows were made cannot be read; they stay on disk.");
                return false;
            }
            lane.lastPlace = decoded.place();
            Lane.Waiting row = new Lane.Waiting(
                    entry.position(),
                    entry.next(),
                    entry.nth(),
                    entry.installation(),
                    design.get(),
                    decoded.place(),
                    decoded.row(),
                    "");
            add(lane, decision.isEmpty() ? row : decision.get().about(row));
            return true;
        } catch (RowCodec.Unreadable strange) {
            stands(lane, strange.getMessage() + " The rows of this recorder stay on disk.");
            return false;
        } catch (RuntimeException | Error unknown) {
            // Whatever a row or what was decided about it does, the rows of others are read on.
            lane.blocked("A row on disk cannot be given out (" + Threads.words(unknown)
                    + "). The rows of this recorder stay on disk.");
            return false;
        }
    }

    /** What nobody can read cannot be looked up either: what was decided about it holds without that. */
    private void stands(Lane lane, String why) {
        lane.blocked(why);
        try {
            lane.carryOut(local);
        } catch (RuntimeException unnoted) {
            lane.problem = why + " What was decided about them could not be noted: " + Threads.words(unnoted);
        }
    }

    private void add(Lane lane, Lane.Waiting row) {
        lane.queue.add(row);
        queued.incrementAndGet();
        lane.readTo = row.next();
    }

    /** Reads the lane's rows again from its first one that is not settled. */
    void readAgain(Lane lane) {
        settled(lane.queue.size());
        lane.queue.clear();
        lane.readTo = lane.cursor();
        lane.roomReader = null;
        lane.roomRead = false;
        lane.behind = true;
        lane.blocked = false;
    }

    /**
     * Rows that the lane holds, in order, as they were made. Reads files only, and leaves the lane as it is.
     *
     * @param after only such of a higher running number
     */
    List<HeldRow> held(Lane lane, long after, int most) {
        List<HeldRow> rows = new ArrayList<>();
        long from = Math.max(after, lane.settled().nth());
        OwnRoom room = lane.room;
        if (room != null) {
            collect(lane, room.read(room.behind(from, lane.cursor())), from, most, rows);
        }
        long seen = rows.isEmpty() ? from : rows.get(rows.size() - 1).nth();
        for (Journal.Stretch stretch : journal.stretches(lane.recorder)) {
            if (rows.size() < most && stretch.lastNth() > seen) {
                collect(lane, journal.read(stretch.first()), seen, most, rows);
                break;
            }
        }
        return rows;
    }

    private void collect(Lane lane, Journal.Reader own, long after, int most, List<HeldRow> rows) {
        long last = lane.waiting() + lane.settled().nth();
        long nth = after;
        while (rows.size() < most && nth < last) {
            Journal.Entry entry = own.next();
            if (entry == null) {
                return;
            }
            if (entry.kind() == Journal.Kind.DESIGN.letter()) {
                know(entry);
            } else if (entry.lane().equals(lane.recorder) && entry.nth() > nth) {
                nth = entry.nth();
                rows.add(HeldRow.read(entry, this::design));
            }
        }
    }

    /** Whether {@link #fill} would find something. */
    boolean hasMore() {
        return reader.position() < journal.durable() || lanes.get().stream().anyMatch(lane -> lane.behind);
    }

    /** So many rows left their lane's queue. */
    void settled(int rows) {
        queued.addAndGet(-rows);
    }

    /** Where the first entry stands that the lane still needs from the common journal. */
    private long neededFrom(Lane lane) {
        if (lane.waiting() == 0) {
            return Long.MAX_VALUE;
        }
        long first = lane.queue.isEmpty()
                ? firstWaiting(lane)
                : lane.queue.getFirst().position();
        return lane.room == null ? first : Math.max(first, lane.room.end());
    }

    private long firstWaiting(Lane lane) {
        return journal.stretches(lane.recorder).stream()
                .filter(stretch -> stretch.lastNth() > lane.settled().nth())
                .mapToLong(stretch -> Math.max(lane.cursor(), stretch.first()))
                .findFirst()
                .orElse(lane.cursor());
    }

    /**
     * Before which position no lane needs anything of the journal. Rows of lanes that cannot go on get room of their own,
     * where they alone keep its oldest file.
     */
    long needed() {
        long all = journal.durable(); // read first: what is appended meanwhile stands behind it
        long others = all;
        for (Lane lane : lanes.get()) {
            others = lane.apart ? others : Math.min(others, neededFrom(lane));
        }
        long needed = others;
        for (Lane lane : lanes.get()) {
            if (!lane.apart) {
                continue;
            }
            // A lane that is being tried is left as it is; it is asked again at the next step. What it had settled when
            // its
            // room begins is on disk: after a loss of power nothing before the room is looked for.
            if (!lane.tried && onDisk.test(lane) && neededFrom(lane) < others && journal.oldestEnd() <= others) {
                giveRoom(lane, others);
            }
            needed = Math.min(needed, lane.tried ? lane.triedFrom : neededFrom(lane));
        }
        return needed;
    }

    private void giveRoom(Lane lane, long others) {
        OwnRoom room = lane.room == null ? OwnRoom.of(journal, lane.recorder) : lane.room;
        long before = room.end();
        room.take(journal, lane.cursor(), others);
        if (!room.isEmpty() && (lane.room == null || room.end() > before)) {
            lane.room = room;
            lane.roomReader = null;
            lane.roomRead = false;
        }
    }
}
