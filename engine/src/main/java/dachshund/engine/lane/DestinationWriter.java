package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
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
    private final LaneFeed feed;
    private final TableKeeper tables;
    private final Cursors cursors;
    private volatile RowStore store;
    private volatile Batching batching;
    private final ExecutorService reader;
    private RowStore inUse;
    private volatile int awayInARow;
    private Instant awaySince = Instant.EPOCH;
    private Instant retryAt = Instant.EPOCH;

    public DestinationWriter(
            String destination,
            String destinationName,
            Journal journal,
            RowStore store,
            Batching batching,
            LocalStore local,
            CounterBook book,
            PlantClock clock) {
        this.destination = destination;
        this.destinationName = destinationName;
        this.journal = journal;
        this.store = store;
        this.inUse = store;
        this.batching = batching;
        this.local = local;
        this.book = book;
        this.clock = clock;
        this.tables = new TableKeeper(destinationName, local);
        this.reader = Threads.pool("reader-" + destination, 1);
        this.cursors = new Cursors(local, reader);
        this.feed = new LaneFeed(destination, journal, local, () -> this.batching, this::lane);
    }

    private Lane lane(String recorder) {
        return lanes.computeIfAbsent(
                recorder, id -> new Lane(id, destination, local.cursor(Lane.name(id, destination)), clock.now()));
    }

    /** The number under which rows of a recorder, with its one Where for this destination, are journalled. */
    public int design(RecorderDefinition recorder) {
        return feed.design(recorder);
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
    public void replaceStore(RowStore next, Batching nextBatching) {
        store = next;
        batching = nextBatching;
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

    /** Whether it did not answer when it was last asked. */
    public boolean away() {
        return awayInARow > 0;
    }

    /** Rows on disk that have not landed, all lanes together. */
    public long held() {
        return lanes.values().stream()
                .mapToLong(lane -> Math.max(0, lane.held.get()))
                .sum();
    }

    /** Sends what is ready. Returns how many nanoseconds to wait before the next step, 0 where there is more to do. */
    public long step() {
        if (inUse != store) {
            inUse.close();
            inUse = store;
            lanes.values().forEach(Lane::forgetTables);
            retryAt = Instant.EPOCH;
        }
        Instant now = clock.now();
        if (now.isBefore(retryAt)) {
            return IDLE_NANOS;
        }
        feed.fill();
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

    private boolean send(Instant now) throws StoreProblem {
        Map<String, List<Lane>> ready = new LinkedHashMap<>();
        for (Lane lane : lanes.values()) {
            if (now.isBefore(lane.retryAt)) {
                continue;
            }
            if (lane.queue.isEmpty() && lane.hasUnread()) {
                feed.catchUp(lane);
            }
            if (sure(lane, now)) {
                ready.computeIfAbsent(
                                Place.read(lane.queue.getFirst().place()).database(), database -> new ArrayList<>())
                        .add(lane);
            }
        }
        for (Map.Entry<String, List<Lane>> each : ready.entrySet()) {
            sendTogether(inUse.in(each.getKey()), each.getValue());
        }
        return !ready.isEmpty();
    }

    /** Whether the head of the lane is to be sent: ripe, its table seen to, and not landed already. */
    private boolean sure(Lane lane, Instant now) throws StoreProblem {
        while (ripe(lane, now) && prepared(lane)) {
            if (!lane.uncertain) {
                return true;
            }
            if (!dropLanded(lane)) {
                return false;
            }
        }
        return false;
    }

    /** The heads of lanes whose tables are in one database. */
    private void sendTogether(RowStore database, List<Lane> ready) throws StoreProblem {
        List<RowBatch> batches = ready.stream()
                .map(lane -> batch(lane, lane.head(batching.rows())))
                .toList();
        try {
            writeWhileReading(database, batches);
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
    }

    /** While the database works, the next rows are read; the queues are the reader's until both are done. */
    private void writeWhileReading(RowStore database, List<RowBatch> batches) throws StoreProblem {
        if (!feed.hasMore()) {
            database.write(batches);
            return;
        }
        int leaving = batches.stream().mapToInt(batch -> batch.rows().size()).sum();
        CompletableFuture<Void> reading = CompletableFuture.runAsync(() -> feed.fill(leaving), reader);
        try {
            database.write(batches);
        } finally {
            // What it could not read, the next step finds again and says.
            reading.exceptionally(failed -> null).join();
        }
    }

    /** Whether the lane has rows that need not wait for others. */
    private boolean ripe(Lane lane, Instant now) {
        if (lane.queue.isEmpty()) {
            return false;
        }
        return batching.patience().isZero()
                || lane.queue.size() >= batching.rows()
                || !now.isBefore(lane.queue.getFirst().row().recordTime().plus(batching.patience()));
    }

    private RowBatch batch(Lane lane, List<Lane.Waiting> rows) {
        RecorderDefinition design = feed.design(rows.get(0).design());
        RecorderDefinition.Where where = design.wheres().get(0);
        return new RowBatch(
                        lane.name,
                        Place.read(rows.get(0).place()),
                        design.layout(),
                        where.mark(),
                        where.mode(),
                        rows.stream().map(Lane.Waiting::row).toList())
                .without(lane.leftOut(rows.get(0).place()));
    }

    /** Sees to the table before the first row of a design; in lane order, so after the rows of older designs. */
    private boolean prepared(Lane lane) throws StoreProblem {
        while (!lane.queue.isEmpty() && !lane.prepared(lane.queue.getFirst())) {
            Lane.Waiting first = lane.queue.getFirst();
            TableKeeper.Seen seen;
            try {
                seen = tables.see(
                        inUse,
                        lane,
                        first.design(),
                        feed.design(first.design()),
                        Place.read(first.place()),
                        first.row().recordTime());
            } catch (StoreProblem problem) {
                if (problem.kind() == StoreProblem.Kind.AWAY) {
                    throw problem;
                }
                trouble(lane, problem);
                return false;
            }
            if (seen instanceof TableKeeper.Seen.Ready ready) {
                lane.prepared(first, ready.leftOut());
            } else if (seen instanceof TableKeeper.Seen.Refused refused) {
                refuse(lane, refused.sentence());
            } else {
                fault(lane, ((TableKeeper.Seen.Faulty) seen).sentence());
                return false;
            }
        }
        return !lane.queue.isEmpty();
    }

    /** Settles the rows at the head of a lane that landed although nobody could tell us so. False where that cannot be found out now. */
    private boolean dropLanded(Lane lane) throws StoreProblem {
        // A file is compared with all that may stand at its end, also where batches were longer before.
        RowBatch batch = batch(lane, lane.head(inUse.tellsOfAll() ? batching.rows() : lane.queue.size()));
        RowStore database = inUse.in(batch.place().database());
        int before = lane.queue.size();
        try {
            if (database.canFind(batch)) {
                Set<RowId> there = database.landed(batch);
                while (!lane.queue.isEmpty()
                        && there.contains(lane.queue.getFirst().row().id())) {
                    landed(lane, 1);
                }
            } else if (batch.mark()) {
                Optional<RowId> mark = database.mark(lane.name);
                while (mark.isPresent()
                        && !lane.queue.isEmpty()
                        && lane.queue.getFirst().row().id().compareTo(mark.get()) <= 0) {
                    landed(lane, 1);
                }
            }
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                throw problem;
            }
            trouble(lane, problem);
            return false;
        }
        // Rows land in order: once one has not landed, none after it has.
        lane.uncertain = before - lane.queue.size() >= batch.rows().size();
        return true;
    }

    private void sendAlone(Lane lane) throws StoreProblem {
        try {
            sendRows(lane, lane.head(batching.rows()));
        } catch (StoreProblem problem) {
            if (problem.kind() == StoreProblem.Kind.AWAY) {
                lane.uncertain = true;
                throw problem;
            }
            trouble(lane, problem);
        }
    }

    /** Writes rows from the head of the lane; a refused batch is halved until the refused row stands alone. */
    private void sendRows(Lane lane, List<Lane.Waiting> rows) throws StoreProblem {
        if (rows.isEmpty() || lane.queue.isEmpty()) {
            return;
        }
        RowBatch batch = batch(lane, rows);
        RowStore database = inUse.in(batch.place().database());
        try {
            database.write(List.of(batch));
            answered();
            landed(lane, rows.size());
        } catch (StoreProblem problem) {
            boolean aboutRows =
                    problem.kind() == StoreProblem.Kind.CONTENT || problem.kind() == StoreProblem.Kind.DUPLICATE;
            if (!aboutRows) {
                throw problem;
            }
            if (rows.size() > 1) {
                sendRows(lane, rows.subList(0, rows.size() / 2));
                sendRows(lane, rows.subList(rows.size() / 2, rows.size()));
            } else if (problem.kind() == StoreProblem.Kind.DUPLICATE
                    && database.canFind(batch)
                    && database.landed(batch).contains(batch.rows().get(0).id())) {
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
        List<String> values = Arrays.stream(row.cells())
                .map(cell -> cell == null ? "" : Conversion.plain(cell))
                .toList();
        local.setAside(lane.recorder, destination, row.id().toString(), row.recordTime(), values, reason, clock.now());
        book.count(lane.recorder, row.recordTime(), Outcome.SET_ASIDE, 1);
        lane.settleHead();
        settled(lane, 1);
        lane.publish();
    }

    private void landed(Lane lane, int rows) {
        Instant now = clock.now();
        List<Instant> due = new ArrayList<>(rows);
        for (int i = 0; i < rows; i++) {
            due.add(lane.queue.getFirst().row().recordTime());
            lane.settleHead();
        }
        book.landed(lane.recorder, due, now);
        lane.rowLanded(due.get(rows - 1));
        settled(lane, rows);
        lane.faultsInARow = 0;
        lane.refusedInARow = 0;
        Set<String> lost = lane.leftOut();
        lane.is(
                LaneState.RECORDING,
                lost.isEmpty() ? "" : "The table has lost " + String.join(", ", lost) + "; left out from now on.",
                now);
    }

    private void settled(Lane lane, int rows) {
        feed.settled(rows);
        cursors.moved(lane.name, lane.cursor);
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
                lane.is(
                        LaneState.HOLDING,
                        why + " Away for " + away + "; rows are safe on disk and will be sent when it is back.",
                        now);
            }
        }
    }

    /** Something stands in the way of this lane alone: another's use passes by itself, all else has to be mended. */
    private void trouble(Lane lane, StoreProblem problem) {
        if (problem.kind() != StoreProblem.Kind.BUSY) {
            fault(lane, problem.getMessage());
            return;
        }
        Instant now = clock.now();
        lane.retryAt = now.plus(pause(lane.faultsInARow++));
        lane.is(
                LaneState.HOLDING,
                problem.getMessage() + " Rows are safe on disk and will be written when it is free.",
                now);
    }

    private void fault(Lane lane, String why) {
        Instant now = clock.now();
        if (!lane.faulted()) {
            LOG.warn("{} into {}: {}", lane.recorder, destinationName, why);
        }
        feed.giveBack(lane);
        lane.forgetTables();
        lane.uncertain = true;
        lane.refusedInARow = 0;
        lane.retryAt = now.plus(pause(lane.faultsInARow++));
        lane.is(LaneState.FAULTED, why, now);
    }

    private static Duration pause(int failures) {
        Duration pause = FIRST_PAUSE.multipliedBy(1L << Math.min(failures, 10));
        return pause.compareTo(LONGEST_PAUSE) < 0 ? pause : LONGEST_PAUSE;
    }

    /** Where the store can tell of rows that landed long ago, the next rows are sent meanwhile: cursors are two batches behind at most then. */
    private void keepCursors() {
        cursors.keep();
        if (!inUse.tellsOfAll()) {
            cursors.kept();
        }
        long needed = feed.readUpTo();
        for (Lane lane : lanes.values()) {
            needed = Math.min(needed, lane.neededFrom(feed.readUpTo()));
        }
        journal.release(needed);
    }

    @Override
    public void close() {
        keepCursors();
        cursors.kept();
        reader.shutdown();
        journal.close();
        store.close();
    }
}
