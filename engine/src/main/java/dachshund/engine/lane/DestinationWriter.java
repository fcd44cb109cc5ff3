package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TablePlan;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.time.PlantClock;
import dachshund.core.time.PeriodText;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.local.LocalStore;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Takes rows of one destination from its journal to its tables, lane by lane in order. {@link #take} may be called from
 * any thread; {@link #step} belongs to one.
 * <p>
 * Rows that may have landed already (after a broken connection or a start) are looked up before they are sent again:
 * by row identity, else by delivery mark; where a table allows neither they are sent again, and the page says so.
 */
public final class DestinationWriter implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(DestinationWriter.class);
    private static final int BATCH = 1000;
    private static final int LANE_ROOM = 4000;
    private static final int ROOM = 50_000;
    private static final int FAULT_AFTER_REFUSALS = 100;
    private static final Duration FIRST_PAUSE = Duration.ofMillis(500);
    private static final Duration LONGEST_PAUSE = Duration.ofSeconds(10);
    private static final long IDLE_NANOS = 200_000_000L;

    private final String destination;
    private final String destinationName;
    private final Journal journal;
    private final LocalStore local;
    private final CounterBook book;
    private final PlantClock clock;
    private final Map<String, Lane> lanes = new ConcurrentHashMap<>();
    private final Map<Integer, RecorderDefinition> designs = new ConcurrentHashMap<>();
    private final Map<Integer, RowId> identities = new ConcurrentHashMap<>();
    private final Journal.Reader reader;
    private final Map<String, Long> movedCursors = new HashMap<>();
    private volatile RowStore store;
    private RowStore inUse;
    private int awayInARow;
    private Instant awaySince = Instant.EPOCH;
    private Instant retryAt = Instant.EPOCH;
    private int queued;
    /** Read, but its lane had no room for it yet; the next to be handed out. */
    private Journal.Entry readAhead;

    public DestinationWriter(String destination, String destinationName, Journal journal, RowStore store, LocalStore local,
                             CounterBook book, PlantClock clock) {
        this.destination = destination;
        this.destinationName = destinationName;
        this.journal = journal;
        this.store = store;
        this.inUse = store;
        this.local = local;
        this.book = book;
        this.clock = clock;
        local.laneDesigns(destination).forEach(this::know);
        this.reader = journal.read(0);
        countHeld();
    }

    private void know(int number, RecorderDefinition design) {
        designs.put(number, design);
        identities.put(number, new RowId(local.installation(), design.id(), 0, 0, 0));
        lane(design.id());
    }

    private Lane lane(String recorder) {
        return lanes.computeIfAbsent(recorder, id -> new Lane(id, destination, local.cursor(Lane.name(id, destination)), clock.now()));
    }

    /** Rows of an earlier run that have not landed. */
    private void countHeld() {
        Journal.Reader all = journal.read(0);
        for (Journal.Entry entry = all.next(); entry != null; entry = all.next()) {
            RecorderDefinition design = designs.get(RowCodec.design(entry.bytes()));
            if (design != null && entry.position() >= lane(design.id()).cursor) {
                lane(design.id()).held.incrementAndGet();
            }
        }
    }

    /** The number under which rows of a recorder, with its one Where for this destination, are journalled. */
    public int design(RecorderDefinition recorder) {
        int number = local.laneDesign(destination, recorder);
        if (!designs.containsKey(number)) {
            know(number, recorder);
        }
        return number;
    }

    /** Puts a row on disk for this destination. */
    public void take(int design, Row row) throws Journal.Full {
        Lane lane = lane(row.id().recorder());
        lane.held.incrementAndGet();
        try {
            journal.append(RowCodec.write(design, row));
        } catch (Journal.Full full) {
            lane.held.decrementAndGet();
            throw full;
        }
    }

    /** Sends what follows to another address of the same destination. */
    public void replaceStore(RowStore next) {
        store = next;
    }

    public List<LaneStatus> status() {
        return lanes.values().stream().map(Lane::status).toList();
    }

    public Optional<LaneStatus> status(String recorder) {
        return Optional.ofNullable(lanes.get(recorder)).map(Lane::status);
    }

    public RowStore store() {
        return store;
    }

    /** Rows on disk that have not landed, all lanes together. */
    public long held() {
        return lanes.values().stream().mapToLong(lane -> Math.max(0, lane.held.get())).sum();
    }

    /** Sends what is ready. Returns how many nanoseconds to wait before the next step, 0 where there is more to do. */
    public long step() {
        if (inUse != store) {
            inUse.close();
            inUse = store;
            lanes.values().forEach(lane -> lane.preparedDesign = -1);
            retryAt = Instant.EPOCH;
        }
        Instant now = clock.now();
        if (now.isBefore(retryAt)) {
            return IDLE_NANOS;
        }
        fill();
        boolean progressed;
        try {
            progressed = send(now);
        } catch (StoreProblem away) {
            hold(away.getMessage());
            return IDLE_NANOS;
        } finally {
            keepCursors();
        }
        return progressed ? 0 : IDLE_NANOS;
    }

    private void fill() {
        while (queued < ROOM) {
            Journal.Entry entry = readAhead == null ? reader.next() : readAhead;
            readAhead = null;
            if (entry == null) {
                return;
            }
            RecorderDefinition design = designs.get(RowCodec.design(entry.bytes()));
            if (design == null) {
                LOG.error("{}: a row in the journal belongs to no known recorder and is passed over.", destinationName);
                continue;
            }
            Lane lane = lane(design.id());
            if (entry.position() < lane.cursor || lane.hasUnread()) {
                continue;
            }
            if (lane.faulted()) {
                lane.unreadFrom = entry.position();
            } else if (lane.queue.size() >= LANE_ROOM) {
                readAhead = entry;
                return;
            } else {
                enqueue(lane, entry);
            }
        }
    }

    /** Everything before this place was handed to its lane. */
    private long readUpTo() {
        return readAhead == null ? reader.position() : readAhead.position();
    }

    private void enqueue(Lane lane, Journal.Entry entry) {
        RowCodec.Decoded decoded = RowCodec.read(entry.bytes(), identities::get);
        lane.queue.add(new Lane.Waiting(entry.position(), entry.next(), decoded.design(), decoded.row()));
        queued++;
    }

    /** Reads the lane's rows that were passed over while it was faulted. */
    private void catchUp(Lane lane) {
        Journal.Reader own = journal.read(lane.unreadFrom);
        while (lane.queue.size() < LANE_ROOM) {
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

    private boolean send(Instant now) throws StoreProblem {
        List<Lane> ready = new ArrayList<>();
        List<RowBatch> batches = new ArrayList<>();
        for (Lane lane : lanes.values()) {
            if (now.isBefore(lane.retryAt)) {
                continue;
            }
            if (lane.queue.isEmpty() && lane.hasUnread()) {
                catchUp(lane);
            }
            if (lane.queue.isEmpty() || !prepared(lane)) {
                continue;
            }
            if (lane.uncertain) {
                dropLanded(lane);
            }
            if (!lane.queue.isEmpty()) {
                ready.add(lane);
                batches.add(batch(lane, lane.head(BATCH)));
            }
        }
        if (batches.isEmpty()) {
            return false;
        }
        try {
            inUse.write(batches);
            answered();
            for (int i = 0; i < batches.size(); i++) {
                landed(ready.get(i), batches.get(i).rows().size());
            }
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                ready.forEach(lane -> lane.uncertain = true);
                throw problem;
            }
            for (Lane lane : ready) {
                sendAlone(lane);
            }
        }
        return true;
    }

    private RowBatch batch(Lane lane, List<Lane.Waiting> rows) {
        RecorderDefinition design = designs.get(rows.get(0).design());
        RecorderDefinition.Where where = design.wheres().get(0);
        return new RowBatch(lane.name, where.table(), design.layout(), where.mark(), rows.stream().map(Lane.Waiting::row).toList());
    }

    /** Sees to the table before the first row of a design; in lane order, so after the rows of older designs. */
    private boolean prepared(Lane lane) throws StoreProblem {
        int number = lane.queue.getFirst().design();
        if (lane.preparedDesign == number) {
            return true;
        }
        RecorderDefinition design = designs.get(number);
        RecorderDefinition.Where where = design.wheres().get(0);
        try {
            TablePlan plan = TablePlan.of(inUse.dialect(), where.table(), design.layout(), where.upkeep(), inUse.describe(where.table()));
            if (!plan.problems().isEmpty()) {
                fault(lane, String.join(" ", plan.problems()));
                return false;
            }
            if (!plan.statements().isEmpty()) {
                inUse.apply(plan.statements());
                LOG.info("{}: upkeep ran {}", destinationName, plan.statements());
            }
            lane.preparedDesign = number;
            return true;
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                throw problem;
            }
            fault(lane, problem.getMessage());
            return false;
        }
    }

    /** Settles the rows at the head of a lane that landed although nobody could tell us so. */
    private void dropLanded(Lane lane) throws StoreProblem {
        RowBatch batch = batch(lane, lane.head(BATCH));
        int before = lane.queue.size();
        try {
            if (batch.layout().rowIdColumn().isPresent()) {
                Set<RowId> there = inUse.landed(batch);
                while (!lane.queue.isEmpty() && there.contains(lane.queue.getFirst().row().id())) {
                    landed(lane, 1);
                }
            } else if (batch.mark()) {
                Optional<RowId> mark = inUse.mark(lane.name);
                while (mark.isPresent() && !lane.queue.isEmpty() && lane.queue.getFirst().row().id().compareTo(mark.get()) <= 0) {
                    landed(lane, 1);
                }
            }
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                throw problem;
            }
            fault(lane, problem.getMessage());
            return;
        }
        // Rows land in order: once one has not landed, none after it has.
        lane.uncertain = lane.queue.isEmpty() && before > 0;
    }

    private void sendAlone(Lane lane) throws StoreProblem {
        try {
            sendRows(lane, lane.head(BATCH));
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                lane.uncertain = true;
                throw problem;
            }
            fault(lane, problem.getMessage());
        }
    }

    /** Writes rows from the head of the lane; a refused batch is halved until the refused row stands alone. */
    private void sendRows(Lane lane, List<Lane.Waiting> rows) throws StoreProblem {
        if (rows.isEmpty() || lane.queue.isEmpty()) {
            return;
        }
        RowBatch batch = batch(lane, rows);
        try {
            inUse.write(List.of(batch));
            answered();
            landed(lane, rows.size());
        } catch (StoreProblem problem) {
            boolean aboutRows = problem.kind() == StoreProblem.Kind.CONTENT || problem.kind() == StoreProblem.Kind.DUPLICATE;
            if (!aboutRows) {
                throw problem;
            }
            if (rows.size() > 1) {
                sendRows(lane, rows.subList(0, rows.size() / 2));
                sendRows(lane, rows.subList(rows.size() / 2, rows.size()));
            } else if (problem.kind() == StoreProblem.Kind.DUPLICATE && batch.layout().rowIdColumn().isPresent()
                    && inUse.landed(batch).contains(batch.rows().get(0).id())) {
                landed(lane, 1);
            } else {
                refuse(lane, problem.getMessage());
            }
        }
    }

    private void refuse(Lane lane, String reason) {
        if (++lane.refusedInARow > FAULT_AFTER_REFUSALS) {
            fault(lane, FAULT_AFTER_REFUSALS + " rows in a row were refused and set aside; the last reason: " + reason);
            return;
        }
        Row row = lane.queue.getFirst().row();
        List<String> values = Arrays.stream(row.cells()).map(cell -> cell == null ? "" : Conversion.plain(cell)).toList();
        local.setAside(lane.recorder, destination, row.id().toString(), row.recordTime(), values, reason, clock.now());
        book.count(lane.recorder, row.recordTime(), Outcome.SET_ASIDE, 1);
        settle(lane);
        lane.publish();
    }

    private void landed(Lane lane, int rows) {
        Instant now = clock.now();
        for (int i = 0; i < rows; i++) {
            Row row = lane.queue.getFirst().row();
            book.landed(lane.recorder, row.recordTime(), now);
            lane.rowLanded(row.recordTime());
            settle(lane);
        }
        lane.faultsInARow = 0;
        lane.refusedInARow = 0;
        lane.is(LaneState.RECORDING, "", now);
    }

    private void settle(Lane lane) {
        lane.settleHead();
        queued--;
        movedCursors.put(lane.name, lane.cursor);
    }

    private void answered() {
        if (awayInARow > 0) {
            LOG.info("{} is back.", destinationName);
            lanes.values().forEach(lane -> lane.back(clock.now()));
        }
        awayInARow = 0;
    }

    /** The destination is away: every lane with rows waits. */
    private void hold(String why) {
        Instant now = clock.now();
        if (awayInARow == 0) {
            awaySince = now;
            LOG.warn("{} is away: {}", destinationName, why);
        }
        retryAt = now.plus(pause(awayInARow++));
        String away = PeriodText.roughly(Duration.between(awaySince, now));
        for (Lane lane : lanes.values()) {
            lane.uncertain = true;
            if (!lane.faulted()) {
                lane.is(LaneState.HOLDING, why + " Away for " + away + "; rows are safe on disk and will be sent when it is back.", now);
            }
        }
    }

    private void fault(Lane lane, String why) {
        Instant now = clock.now();
        if (!lane.faulted()) {
            LOG.warn("{} into {}: {}", lane.recorder, destinationName, why);
        }
        queued -= lane.queue.size();
        lane.unread();
        lane.preparedDesign = -1;
        lane.uncertain = true;
        lane.refusedInARow = 0;
        lane.retryAt = now.plus(pause(lane.faultsInARow++));
        lane.is(LaneState.FAULTED, why, now);
    }

    private static Duration pause(int failures) {
        Duration pause = FIRST_PAUSE.multipliedBy(1L << Math.min(failures, 10));
        return pause.compareTo(LONGEST_PAUSE) < 0 ? pause : LONGEST_PAUSE;
    }

    private void keepCursors() {
        if (!movedCursors.isEmpty()) {
            local.moveCursors(movedCursors);
            movedCursors.clear();
        }
        long needed = readUpTo();
        for (Lane lane : lanes.values()) {
            needed = Math.min(needed, lane.neededFrom(readUpTo()));
        }
        journal.release(needed);
    }

    @Override
    public void close() {
        keepCursors();
        journal.close();
        store.close();
    }
}
