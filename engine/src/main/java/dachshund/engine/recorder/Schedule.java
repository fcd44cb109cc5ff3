package dachshund.engine.recorder;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.function.Consumer;

/**
 * Which recorder is due next. {@link #runDue} belongs to one thread; the set of recorders may be changed from any, and a
 * change falls between two ticks.
 */
@SuppressWarnings("ReferenceEquality") // a run is itself, whatever it holds
final class Schedule {

    private static final Duration LONGEST_WAIT = Duration.ofMillis(200);
    private static final Duration CLOCK_STEP = Duration.ofSeconds(1);

    private record Due(Instant at, RecorderRun run) {}

    private final PlantClock clock;
    private final Consumer<RecorderRun> stopItself;
    private final Runnable wake;
    private final PriorityQueue<Due> queue = new PriorityQueue<>(Comparator.comparing(Due::at));
    /** The one entry of each run that counts; others of it in the queue are left over. */
    private final Map<RecorderRun, Due> counts = new IdentityHashMap<>();

    private final Map<String, RecorderRun> runs = new HashMap<>();
    private Instant last = Instant.MIN;

    /**
     * @param stopItself told of a recorder whose rows all are refused
     * @param wake       makes {@link #runDue} be called soon
     */
    Schedule(PlantClock clock, Consumer<RecorderRun> stopItself, Runnable wake) {
        this.clock = clock;
        this.stopItself = stopItself;
        this.wake = wake;
    }

    /** Makes these recorders, and only these, run. One that is the same object keeps its place. */
    synchronized void changeover(Collection<RecorderRun> wanted) {
        runDue(); // a tick that is due already belongs to the design before
        for (RecorderRun run : runs.values()) {
            if (!wanted.contains(run)) {
                run.end();
                counts.remove(run);
            }
        }
        Instant now = clock.now();
        for (RecorderRun run : wanted) {
            if (runs.get(run.definition().id()) != run) {
                // A recorder that changed goes on from the tick it would have had.
                run.begin(now, this::sooner, this::stop);
                put(run);
            }
        }
        runs.clear();
        wanted.forEach(run -> runs.put(run.definition().id(), run));
        queue.removeIf(due -> counts.get(due.run()) != due);
    }

    private void put(RecorderRun run) {
        Due due = new Due(run.next(), run);
        counts.put(run, due);
        if (!due.at().equals(Instant.MAX)) {
            queue.add(due);
        }
    }

    /** The run has something to do sooner than it had said. */
    private void sooner(RecorderRun run) {
        synchronized (this) {
            Due known = counts.get(run);
            if (known == null || !run.next().isBefore(known.at())) {
                return;
            }
            put(run);
        }
        wake.run();
    }

    private void stop(RecorderRun run) {
        synchronized (this) {
            run.end();
            counts.remove(run);
            runs.remove(run.definition().id(), run);
        }
        stopItself.accept(run);
    }

    /** Fires what is due and returns the nanoseconds until something is due again, 200 ms at most. */
    synchronized long runDue() {
        Instant now = clock.now();
        if (last != Instant.MIN && now.isBefore(last.minus(CLOCK_STEP))) {
            // The clock was set back: wait for the next tick by the new time, not for the old one to come round.
            queue.clear();
            for (RecorderRun run : runs.values()) {
                run.clockSetBack(now);
                put(run);
            }
        }
        last = now;
        while (!queue.isEmpty() && !queue.peek().at().isAfter(now)) {
            Due due = queue.poll();
            RecorderRun run = due.run();
            if (counts.get(run) == due) {
                if (run.time(now)) {
                    put(run);
                } else {
                    stop(run);
                }
                now = clock.now();
            }
        }
        return queue.isEmpty()
                ? LONGEST_WAIT.toNanos()
                : Math.max(
                        1,
                        Math.min(
                                LONGEST_WAIT.toNanos(),
                                Duration.between(now, queue.peek().at()).toNanos()));
    }
}
