package dachshund.engine.lane;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.time.PlantClock;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Hands;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.function.IntSupplier;

/**
 * Writes the heads of lanes in whose way nothing stands: few rows in one transaction, many in a few transactions at once, each
 * with tables of its own, while the next rows are read. Belongs to the writer's thread.
 */
final class Together implements AutoCloseable {

    /** Transactions at once; more of them wait for each other at the database's disk. */
    private static final int MOST_AT_ONCE = 3;
    /** A transaction of fewer rows is not worth its commit. */
    static final int LEAST_ROWS = 200;

    private final LaneFeed feed;
    private final LaneWork work;
    private final PlantClock clock;
    private final Said said;
    private final IntSupplier free;
    private final Runnable answered;
    private final ExecutorService helpers;

    /**
     * @param free     how many transactions there may be beside one just now
     * @param answered told when it is clear that the destination was reached
     */
    Together(
            String destination,
            Hands hands,
            LaneFeed feed,
            LaneWork work,
            PlantClock clock,
            Said said,
            IntSupplier free,
            Runnable answered) {
        this.feed = feed;
        this.work = work;
        this.clock = clock;
        this.said = said;
        this.free = free;
        this.answered = answered;
        this.helpers = hands.few("writes-" + destination, MOST_AT_ONCE);
    }

    /** What goes out in one transaction, and what came of it. */
    private static final class Share {

        private final List<Lane> lanes = new ArrayList<>();
        private final List<List<Lane.Waiting>> heads = new ArrayList<>();
        private int rows;
        /** What was thrown; null where it is written. */
        private Throwable thrown;

        private void add(Lane lane, List<Lane.Waiting> head) {
            lanes.add(lane);
            heads.add(head);
            rows += head.size();
        }

        private void write(RowStore destination, String database) {
            try {
                List<RowBatch> batches = new ArrayList<>();
                for (int i = 0; i < heads.size(); i++) {
                    batches.add(LaneWork.batch(lanes.get(i), heads.get(i)));
                }
                destination.in(database).write(batches);
            } catch (StoreProblem | RuntimeException | Error problem) {
                thrown = problem;
            }
        }
    }

    /**
     * The heads of lanes whose tables are in one database.
     *
     * @throws StoreProblem only where the destination is away
     */
    void send(RowStore destination, String database, List<Lane> ready) throws StoreProblem {
        if (!destination.allOrNothing()) {
            for (Lane lane : ready) {
                alone(destination, lane);
            }
            return;
        }
        List<Share> shares = shares(destination, ready);
        write(destination, database, shares);
        StoreProblem away = null;
        for (Share share : shares) {
            try {
                settle(destination, share);
            } catch (StoreProblem gone) {
                away = gone; // what the others have written is known all the same
            }
        }
        if (away != null) {
            throw away;
        }
    }

    /** Lanes into one table stay together, so that nobody waits for himself. */
    private List<Share> shares(RowStore destination, List<Lane> ready) {
        Map<String, Share> byTable = new LinkedHashMap<>();
        int rows = 0;
        for (Lane lane : ready) {
            List<Lane.Waiting> head = work.head(destination, lane);
            byTable.computeIfAbsent(head.get(0).place(), place -> new Share()).add(lane, head);
            rows += head.size();
        }
        int count = Math.min(MOST_AT_ONCE, Math.min(byTable.size(), rows / LEAST_ROWS));
        count = count > 1 && destination.writesAtOnce() ? Math.min(count, 1 + Math.max(0, free.getAsInt())) : 1;
        List<Share> shares = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            shares.add(new Share());
        }
        byTable.values().stream()
                .sorted(Comparator.comparingInt((Share table) -> table.rows).reversed())
                .forEach(table -> {
                    Share least = shares.stream()
                            .min(Comparator.comparingInt(share -> share.rows))
                            .orElseThrow();
                    for (int i = 0; i < table.lanes.size(); i++) {
                        least.add(table.lanes.get(i), table.heads.get(i));
                    }
                });
        return shares;
    }

    /** While the database works, the next rows are read; the queues are the reader's until all are done. */
    private void write(RowStore destination, String database, List<Share> shares) {
        boolean reads = feed.hasMore();
        List<CompletableFuture<Void>> others = new ArrayList<>();
        if (reads) {
            shares.forEach(share -> feed.leaving(share.lanes, share.heads));
            // What it could not read, the next step finds again and says.
            others.add(onAnother(feed::fill));
        }
        shares.stream().skip(1).forEach(share -> others.add(onAnother(() -> share.write(destination, database))));
        shares.get(0).write(destination, database);
        others.forEach(other -> other.exceptionally(failed -> null).join());
        if (reads) {
            shares.forEach(share -> feed.left(share.lanes));
        }
    }

    private CompletableFuture<Void> onAnother(Runnable piece) {
        try {
            return CompletableFuture.runAsync(piece, helpers);
        } catch (RuntimeException | Error noThread) {
            return CompletableFuture.completedFuture(null).thenAccept(now -> piece.run());
        }
    }

    private void settle(RowStore destination, Share share) throws StoreProblem {
        if (share.thrown == null) {
            answered.run();
            for (int i = 0; i < share.lanes.size(); i++) {
                work.landed(share.lanes.get(i), share.heads.get(i).size());
                share.lanes.get(i).wrote(clock.now());
            }
        } else if (share.thrown instanceof StoreProblem problem) {
            boolean away = problem.kind() == StoreProblem.Kind.AWAY;
            share.lanes.forEach(lane -> lane.uncertain |= away || problem.kind() == StoreProblem.Kind.UNKNOWN);
            if (away) {
                throw problem;
            }
            eachAlone(destination, waitedFor(problem, share.lanes));
        } else {
            said.note(clock.now(), LaneWork.unknown(share.thrown).getMessage());
            share.lanes.forEach(lane -> lane.uncertain = true);
            eachAlone(destination, share.lanes);
        }
    }

    /** A lane whose table somebody else uses has been waited for once; the others do not wait for it a second time. */
    private List<Lane> waitedFor(StoreProblem problem, List<Lane> lanes) {
        if (problem.kind() != StoreProblem.Kind.BUSY || problem.batch() < 0 || problem.batch() >= lanes.size()) {
            return lanes;
        }
        answered.run();
        Lane busy = lanes.get(problem.batch());
        busy.trouble(problem, clock);
        return lanes.stream().filter(lane -> lane != busy).toList();
    }

    /** Whose rows they are that were refused: the others' land. */
    private void eachAlone(RowStore destination, List<Lane> lanes) throws StoreProblem {
        for (Lane lane : lanes) {
            if (sure(destination, lane)) {
                alone(destination, lane);
            }
        }
    }

    /** Whether the head of the lane is to be sent; what stands in its way is its own affair. */
    boolean sure(RowStore destination, Lane lane) throws StoreProblem {
        return LaneGuard.on(lane, clock, answered, () -> work.sure(destination, lane));
    }

    private void alone(RowStore destination, Lane lane) throws StoreProblem {
        LaneGuard.on(lane, clock, answered, () -> {
            work.sendRows(destination, lane, work.head(destination, lane));
            answered.run();
            lane.wrote(clock.now());
            return true;
        });
    }

    @Override
    public void close() {
        helpers.shutdown();
    }
}
