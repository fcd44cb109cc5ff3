package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.Column;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.time.PlantClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.ObjIntConsumer;
import java.util.function.Supplier;

/**
 * What is done with the rows at the head of one lane: its table seen to, rows that have landed dropped, the rest written,
 * a refused batch halved until the refused row stands alone. Used by whichever thread has the lane.
 */
final class LaneWork {

    private static final int FAULT_AFTER_REFUSALS = 100;
    /** A row that fails so often for a reason that nobody knows is set aside. */
    private static final int UNKNOWN_TRIES = 3;

    private final String destination;
    private final TableKeeper tables;
    private final LocalStore local;
    private final CounterBook book;
    private final PlantClock clock;
    private final Supplier<Batching> batching;
    private final long begun;
    private final ObjIntConsumer<Lane> settled;
    private final Landings landings;

    /**
     * @param begun   position in the journal before which rows are of an earlier life
     * @param settled told how many rows of a lane are settled
     */
    LaneWork(
            String destination,
            TableKeeper tables,
            LocalStore local,
            CounterBook book,
            PlantClock clock,
            Supplier<Batching> batching,
            long begun,
            ObjIntConsumer<Lane> settled,
            Landings landings) {
        this.destination = destination;
        this.tables = tables;
        this.local = local;
        this.book = book;
        this.clock = clock;
        this.batching = batching;
        this.begun = begun;
        this.settled = settled;
        this.landings = landings;
    }

    /** Waiting alone will not mend it; a sentence. */
    static final class Faulty extends RuntimeException {
        private static final long serialVersionUID = 1;

        Faulty(String sentence) {
            super(sentence, null, false, false);
        }
    }

    /** What a store or driver threw that it should not, as a problem of the lane it was thrown at. */
    static StoreProblem unknown(Throwable thrown) {
        String own = thrown.getMessage() == null || thrown.getMessage().isBlank() ? "" : ": " + thrown.getMessage();
        return new StoreProblem(
                StoreProblem.Kind.UNKNOWN,
                -1,
                "Writing failed for a reason that is not known here ("
                        + thrown.getClass().getSimpleName() + own + ").",
                thrown);
    }

    /** Whether the head of the lane is to be sent: ripe, its table seen to, and not landed already. */
    boolean sure(RowStore store, Lane lane) throws StoreProblem {
        if (lane.decisionWaits) {
            lookUpBefore(store, lane);
            return false;
        }
        decided(lane);
        while (ripe(lane) && prepared(store, lane)) {
            if (!lane.uncertain) {
                return true;
            }
            int before = lane.queue.size();
            dropLanded(store, lane);
            setAsideBefore(lane);
            decided(lane);
            if (lane.queue.size() < before && !store.tellsOfAll()) {
                return false; // what was found is known on the local disk before more is written
            }
        }
        return false;
    }

    /**
     * What was decided about rows holds for those that have not landed: before it does they are looked up as they were made.
     * Where the destination cannot be asked, or they cannot be found there, it holds all the same.
     */
    private void lookUpBefore(RowStore store, Lane lane) {
        try {
            while (lane.uncertain && !lane.queue.isEmpty()) {
                int before = lane.queue.size();
                dropLanded(store, lane);
                setAsideBefore(lane);
                if (lane.uncertain && lane.queue.size() == before) {
                    break;
                }
            }
            if (lane.uncertain && lane.queue.isEmpty() && lane.waiting() > 0) {
                return; // all that was read has landed: more is read, and looked up
            }
        } catch (StoreProblem | RuntimeException | Error unasked) {
            lane.said()
                    .note(
                            clock.now(),
                            "What was decided about held rows holds for all of them: which of them have landed already could not be asked ("
                                    + Threads.words(unasked) + ").");
        }
        // What was given to another design may have landed as that in an earlier life: it is looked up once more.
        lane.uncertain |= lane.decision.filter(Decision::gives).isPresent();
        lane.carryOut(local);
    }

    /** A row that an earlier life set aside is not tried a second time: it may be taken now, behind those that followed it. */
    private void setAsideBefore(Lane lane) {
        while (!lane.queue.isEmpty()
                && lane.queue.getFirst().position() < begun
                && lane.queue.getFirst().row() != null
                && local.aside()
                        .holds(destination, lane.queue.getFirst().row().id().toString())) {
            passesOver(lane, Settled.As.ASIDE);
        }
    }

    /**
     * A row at the head will not land. In an earlier life it may have been passed over just so, and those behind it have
     * landed: that it has not says nothing of them.
     */
    private void passesOver(Lane lane, Settled.As as) {
        lane.uncertain |= lane.queue.getFirst().position() < begun;
        lane.settleHead(1, as);
        settled.accept(lane, 1);
    }

    /** Rows at the head that are not to be written: discarded by somebody, or without a place in the design they were given to. */
    private void decided(Lane lane) {
        while (!lane.queue.isEmpty()
                && !lane.decisionWaits
                && lane.decision.isPresent()
                && lane.decision.get().discards(lane.queue.getFirst().nth())) {
            Row row = lane.queue.getFirst().row();
            if (row != null) {
                book.count(lane.recorder, row.recordTime(), Outcome.SKIPPED, 1);
            }
            passesOver(lane, Settled.As.DISCARDED);
        }
        while (!lane.queue.isEmpty() && !lane.queue.getFirst().aside().isEmpty()) {
            refuse(lane, lane.queue.getFirst().aside());
        }
    }

    /** Whether the lane has rows that need not wait for others. */
    boolean ripe(Lane lane) {
        if (lane.queue.isEmpty()) {
            return false;
        }
        Batching now = batching.get();
        return now.patience().isZero()
                || lane.waiting() >= now.rows() && lane.queue.size() >= Math.min(now.rows(), LaneFeed.ALWAYS)
                || !clock.now()
                        .isBefore(lane.queue.getFirst().row().recordTime().plus(now.patience()))
                // Whatever the clock on the wall says by now, no row waits longer than that.
                || lane.headFor(clock.nanos()) >= now.patience().toNanos();
    }

    /** The rows at the head of a lane that go out in one batch. */
    List<Lane.Waiting> head(RowStore store, Lane lane) {
        return lane.head(batching.get().rows(), store.tellsOfAll() ? Long.MAX_VALUE : LaneFeed.SPAN);
    }

    static RowBatch batch(Lane lane, List<Lane.Waiting> rows) {
        Lane.Waiting first = rows.get(0);
        RecorderDefinition.Where where = first.design().where();
        // Each installation has a delivery mark of its own: its row ids are no one else's.
        String mark = first.row().id().installation() + ":" + lane.name;
        return new RowBatch(
                        mark,
                        Place.read(first.place()),
                        first.design().recorder().layout(),
                        where.mark(),
                        where.mode(),
                        rows.stream().map(Lane.Waiting::row).toList())
                .without(lane.leftOut(first.place()));
    }

    /** Sees to the table before the first row of a design; in lane order, so after the rows of older designs. */
    private boolean prepared(RowStore store, Lane lane) throws StoreProblem {
        while (!lane.queue.isEmpty() && !lane.prepared(lane.queue.getFirst())) {
            Lane.Waiting first = lane.queue.getFirst();
            TableKeeper.Seen seen = tables.see(
                    store,
                    lane,
                    first.design(),
                    Place.read(first.place()),
                    first.row().recordTime());
            if (seen instanceof TableKeeper.Seen.Ready ready) {
                lane.prepared(first, ready.leftOut());
            } else if (seen instanceof TableKeeper.Seen.Refused refused) {
                refuse(lane, refused.sentence());
            } else {
                throw new Faulty(((TableKeeper.Seen.Faulty) seen).sentence());
            }
        }
        return !lane.queue.isEmpty();
    }

    /** Settles the rows at the head of a lane that landed although nobody could tell us so. */
    private void dropLanded(RowStore store, Lane lane) throws StoreProblem {
        // A file is compared with all that may stand at its end, also where batches were longer before.
        RowBatch batch =
                batch(lane, store.tellsOfAll() ? head(store, lane) : lane.head(Batching.MOST_ROWS, Long.MAX_VALUE));
        RowStore database = store.in(batch.place().database());
        int before = lane.queue.size();
        if (database.canFind(batch)) {
            Set<RowId> there = database.landed(batch);
            while (!lane.queue.isEmpty()
                    && there.contains(lane.queue.getFirst().row().id())) {
                landed(lane, 1);
            }
        } else if (batch.mark()) {
            Optional<RowId> mark = database.mark(batch.lane());
            while (mark.isPresent()
                    && lane.queue.size() > before - batch.rows().size()
                    && lane.queue.getFirst().row().id().compareTo(mark.get()) <= 0) {
                passed(lane);
            }
        }
        // Rows land in order: once one has not landed, none after it has.
        lane.uncertain = before - lane.queue.size() >= batch.rows().size();
    }

    /** The mark stands behind the row at the head: it has landed, or it was refused and set aside before the mark went on. */
    private void passed(Lane lane) {
        if (local.aside().holds(destination, lane.queue.getFirst().row().id().toString())) {
            lane.settleHead(1, Settled.As.ASIDE);
            settled.accept(lane, 1);
        } else {
            landed(lane, 1);
        }
    }

    /** Writes rows from the head of the lane; a refused batch is halved until the refused row stands alone. */
    void sendRows(RowStore store, Lane lane, List<Lane.Waiting> rows) throws StoreProblem {
        if (rows.isEmpty() || lane.queue.isEmpty()) {
            return;
        }
        RowBatch batch = batch(lane, rows);
        RowStore database = store.in(batch.place().database());
        StoreProblem problem = write(database, batch);
        if (problem == null) {
            landed(lane, rows.size());
            return;
        }
        boolean unknown = problem.kind() == StoreProblem.Kind.UNKNOWN;
        if (!unknown && problem.kind() != StoreProblem.Kind.CONTENT && problem.kind() != StoreProblem.Kind.DUPLICATE) {
            throw problem;
        }
        if (unknown && wroteAfterAll(store, lane)) {
            throw problem; // part of it is settled: what is left is tried anew
        }
        if (rows.size() > 1) {
            sendRows(store, lane, rows.subList(0, rows.size() / 2));
            if (store.tellsOfAll()) {
                sendRows(store, lane, rows.subList(rows.size() / 2, rows.size()));
            }
            // Else what landed has to be known on the local disk before more is written: the rest waits for the next
            // step.
        } else if (problem.kind() == StoreProblem.Kind.DUPLICATE
                && database.canFind(batch)
                && database.landed(batch).contains(batch.rows().get(0).id())) {
            landed(lane, 1);
        } else if (unknown && ++lane.unknownInARow < UNKNOWN_TRIES) {
            throw problem;
        } else {
            refuse(lane, problem.getMessage());
        }
    }

    /** Nobody knows whether a call that broke off has written something: what can be found is settled. */
    private boolean wroteAfterAll(RowStore store, Lane lane) throws StoreProblem {
        int before = lane.queue.size();
        lane.uncertain = true;
        dropLanded(store, lane);
        return lane.queue.size() < before;
    }

    private static StoreProblem write(RowStore database, RowBatch batch) {
        try {
            database.write(List.of(batch));
            return null;
        } catch (StoreProblem problem) {
            return problem;
        } catch (RuntimeException | Error thrown) {
            return unknown(thrown);
        }
    }

    private void refuse(Lane lane, String reason) {
        if (++lane.refusedInARow > FAULT_AFTER_REFUSALS) {
            throw new Faulty(
                    FAULT_AFTER_REFUSALS + " rows in a row were refused and set aside; the last reason: " + reason);
        }
        String full = local.aside().full(lane.recorder);
        if (!full.isEmpty()) {
            throw new Faulty(full + " The next one was refused because: " + reason);
        }
        Row row = lane.queue.getFirst().row();
        List<Column> columns =
                lane.queue.getFirst().design().recorder().layout().written();
        List<String> values = Arrays.stream(row.cells())
                .map(cell -> cell == null ? null : Conversion.plain(cell))
                .toList();
        local.aside()
                .keep(
                        lane.recorder,
                        destination,
                        row.id().toString(),
                        row.recordTime(),
                        columns.stream().map(Column::name).toList(),
                        values,
                        reason,
                        clock.now(),
                        Map.of(lane.name, lane.withHeadAside()));
        lane.said().note(clock.now(), "Set aside: " + reason);
        book.count(lane.recorder, row.recordTime(), Outcome.SET_ASIDE, 1);
        passesOver(lane, Settled.As.ASIDE);
    }

    /** So many rows at the head have landed. */
    void landed(Lane lane, int rows) {
        Instant[] due = new Instant[rows];
        List<Lane.Waiting> these = new ArrayList<>(rows);
        Iterator<Lane.Waiting> head = lane.queue.iterator();
        for (int i = 0; i < rows; i++) {
            these.add(head.next());
            due[i] = these.get(i).row().recordTime();
        }
        long before = lane.settled().landed();
        lane.settleHead(rows, Settled.As.LANDED);
        settled.accept(lane, rows);
        landings.landed(lane, these, before);
        book.landed(lane.recorder, due, clock.now());
        lane.rowLanded(due[rows - 1]);
        lane.refusedInARow = 0;
    }
}
