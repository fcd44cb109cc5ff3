package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.local.LocalStore;
import java.util.Arrays;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Reads the journal of a destination into the queues of its lanes, as far as there is room. Belongs to the writer's thread,
 * but for {@link #design}, and for {@link #fill} while the writer waits for its database and touches no queue.
 */
final class LaneFeed {

    private static final Logger LOG = LoggerFactory.getLogger(LaneFeed.class);
    /** Rows that are read long before they are written cost more to keep than to read. */
    private static final int LEAST_LANE_ROOM = 2_000;

    private static final int ROOM = 50_000;

    private final String destination;
    private final Journal journal;
    private final LocalStore local;
    private final Supplier<Batching> batching;
    private final Function<String, Lane> lanes;
    private final Map<Integer, RecorderDefinition> designs = new ConcurrentHashMap<>();
    private final Map<Integer, RowId> identities = new ConcurrentHashMap<>();
    /** Where rows of a design go; none where each row says so itself. */
    private final Map<Integer, Optional<String>> places = new ConcurrentHashMap<>();

    private final Journal.Reader reader;
    private int queued;
    /** Read, but its lane had no room for it yet; the next to be handed out. */
    private Journal.Entry readAhead;

    /** @param lanes the lane of a recorder */
    LaneFeed(
            String destination,
            Journal journal,
            LocalStore local,
            Supplier<Batching> batching,
            Function<String, Lane> lanes) {
        this.destination = destination;
        this.journal = journal;
        this.local = local;
        this.batching = batching;
        this.lanes = lanes;
        local.laneDesigns(destination).forEach(this::know);
        this.reader = journal.read(0);
        countHeld();
    }

    private void know(int number, RecorderDefinition design) {
        designs.put(number, design);
        identities.put(number, new RowId(local.installation(), design.id(), 0, 0, 0));
        RecorderDefinition.Where where = design.wheres().get(0);
        places.put(
                number,
                where.place().dynamic()
                        ? Optional.empty()
                        : Optional.of(new Place(where.database(), where.table()).text()));
        lanes.apply(design.id());
    }

    /** The number under which rows of a recorder, with its one Where for this destination, are journalled. */
    int design(RecorderDefinition recorder) {
        int number = local.laneDesign(destination, recorder);
        if (!designs.containsKey(number)) {
            know(number, recorder);
        }
        return number;
    }

    RecorderDefinition design(int number) {
        return designs.get(number);
    }

    /** Rows of an earlier run that have not landed. */
    private void countHeld() {
        Journal.Reader all = journal.read(0);
        for (Journal.Entry entry = all.next(); entry != null; entry = all.next()) {
            RecorderDefinition design = designs.get(RowCodec.design(entry.bytes()));
            if (design != null && entry.position() >= lanes.apply(design.id()).cursor) {
                lanes.apply(design.id()).held.incrementAndGet();
            }
        }
    }

    /** A batch in writing and one ready. */
    private int laneRoom() {
        return Math.max(LEAST_LANE_ROOM, 2 * batching.get().rows());
    }

    /** Fills the queues from where it left off. */
    void fill() {
        fill(0);
    }

    /** @param leaving rows in the queues that are being written just now: others may take their room already */
    void fill(int leaving) {
        while (queued < ROOM + leaving) {
            Journal.Entry entry = readAhead == null ? reader.next() : readAhead;
            readAhead = null;
            if (entry == null) {
                return;
            }
            RecorderDefinition design = designs.get(RowCodec.design(entry.bytes()));
            if (design == null) {
                LOG.error("{}: a row in the journal belongs to no known recorder and is passed over.", destination);
                continue;
            }
            Lane lane = lanes.apply(design.id());
            if (entry.position() < lane.cursor || lane.hasUnread()) {
                continue;
            }
            boolean full = lane.queue.size() >= laneRoom() + leaving;
            // A lane that cannot go on does not stop the others.
            if (lane.faulted() || full && lane.faultsInARow > 0) {
                lane.unreadFrom = entry.position();
            } else if (full) {
                readAhead = entry;
                return;
            } else {
                enqueue(lane, entry);
            }
        }
    }

    /** Whether {@link #fill} would find something. */
    boolean hasMore() {
        return readUpTo() < journal.durable();
    }

    /** Everything before this place was handed to its lane. */
    long readUpTo() {
        return readAhead == null ? reader.position() : readAhead.position();
    }

    private void enqueue(Lane lane, Journal.Entry entry) {
        RowCodec.Decoded decoded = RowCodec.read(entry.bytes(), identities::get);
        Row row = decoded.row();
        String place = places.get(decoded.design()).orElse(null);
        if (place == null) {
            // The name that its pattern made stands behind the cells; see RecorderRun.
            Object[] cells = row.cells();
            place = (String) cells[cells.length - 1];
            row = new Row(row.id(), row.recordTime(), Arrays.copyOf(cells, cells.length - 1));
        }
        lane.queue.add(new Lane.Waiting(entry.position(), entry.next(), decoded.design(), place, row));
        queued++;
    }

    /** Reads the lane's rows that were passed over while it was faulted. */
    void catchUp(Lane lane) {
        Journal.Reader own = journal.read(lane.unreadFrom);
        while (lane.queue.size() < laneRoom()) {
            long before = own.position();
            Journal.Entry entry = before < readUpTo() ? own.next() : null;
            // Past a damaged stretch the own reader may come out where the common one has not been yet.
            if (entry == null || entry.position() >= readUpTo()) {
                lane.allRead();
                return;
            }
            RecorderDefinition design = designs.get(RowCodec.design(entry.bytes()));
            if (design != null && design.id().equals(lane.recorder) && entry.position() >= lane.cursor) {
                enqueue(lane, entry);
            }
        }
        lane.unreadFrom = own.position();
    }

    /** So many rows left their lane's queue. */
    void settled(int rows) {
        queued -= rows;
    }

    /** Gives the rows of a lane back to the journal, to be read again later. */
    void giveBack(Lane lane) {
        queued -= lane.queue.size();
        lane.unread();
    }
}
