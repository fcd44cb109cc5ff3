package dachshund.engine.lane;

import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.time.PlantClock;
import dachshund.engine.thread.Hands;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;

/**
 * Tries lanes in whose way something stands, each on a thread and a connection of its own: a try that hangs delays neither
 * the lanes that are well nor the tries of others. As many are tried at once as the destination has connections beside the
 * one that its healthy lanes are written over; the one that has waited longest comes first.
 */
final class Trials {

    private static final Duration STOP_WITHIN = Duration.ofSeconds(3);

    /** A try of one lane, on a thread of its own. */
    interface Try {
        /** Writes the rows at the head; whether the destination was reached. */
        boolean of(RowStore store, Lane lane) throws StoreProblem;
    }

    private final ExecutorService threads;
    private final PlantClock clock;
    private final Consumer<Lane> before;
    private final Try attempt;
    private final AtomicInteger running = new AtomicInteger();
    private volatile boolean answered;

    /** @param before done with a lane that is about to be tried, by the thread that begins it */
    Trials(String destination, Hands hands, PlantClock clock, Consumer<Lane> before, Try attempt) {
        this.threads = hands.onDemand("trial-" + destination);
        this.clock = clock;
        this.before = before;
        this.attempt = attempt;
    }

    /** Begins to try the lanes whose turn it is; the others are asked for again at the next step. */
    void begin(RowStore store, List<Lane> waiting) {
        if (waiting.isEmpty()) {
            return;
        }
        waiting.stream()
                .sorted(Comparator.comparingLong(lane -> lane.retryAt))
                .limit(Math.max(0, free(store)))
                .forEach(lane -> begin(store, lane));
    }

    /** How many calls there may be beside the writer's and the tries that are under way. */
    int free(RowStore store) {
        return store.atOnceBeside() - running.get();
    }

    private void begin(RowStore store, Lane lane) {
        before.accept(lane);
        lane.triedFrom = lane.cursor();
        lane.tried = true;
        running.incrementAndGet();
        try {
            threads.execute(() -> {
                try {
                    onItsThread(store, lane);
                } finally {
                    ended(lane);
                }
            });
        } catch (RuntimeException | Error noThread) {
            ended(lane);
            lane.trouble(LaneWork.unknown(noThread), clock);
        }
    }

    private void ended(Lane lane) {
        running.decrementAndGet();
        lane.tried = false;
    }

    private void onItsThread(RowStore store, Lane lane) {
        lane.forgetTables();
        try {
            if (LaneGuard.on(lane, clock, () -> answered = true, () -> attempt.of(store, lane))) {
                answered = true;
            }
        } catch (StoreProblem away) {
            lane.trouble(away, clock); // whether all of the destination is away, the healthy lanes find out
        }
    }

    /** Whether the destination has answered a try since this was last asked. */
    boolean answeredSince() {
        boolean was = answered;
        answered = false;
        return was;
    }

    /** Breaks off what is being tried. False where it could not be. */
    boolean close() throws InterruptedException {
        threads.shutdownNow();
        return threads.awaitTermination(STOP_WITHIN.toMillis(), TimeUnit.MILLISECONDS);
    }
}
