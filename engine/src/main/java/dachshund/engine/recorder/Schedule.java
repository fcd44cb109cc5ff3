package dachshund.engine.recorder;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.function.Consumer;

/**
 * Which recorder is due next. {@link #runDue} belongs to one thread; the set of recorders may be changed from any, and a
 * change falls between two ticks.
 */
final class Schedule {

    private static final Duration LONGEST_WAIT = Duration.ofMillis(200);
    private static final Duration CLOCK_STEP = Duration.ofSeconds(1);

    private record Due(Instant at, RecorderRun run) {
    }

    private final PlantClock clock;
    private final Consumer<RecorderRun> stopItself;
    private final PriorityQueue<Due> queue = new PriorityQueue<>(Comparator.comparing(Due::at));
    private final Map<String, RecorderRun> runs = new HashMap<>();
    private Instant last = Instant.MIN;

    /** @param stopItself told of a recorder whose rows all are refused */
    Schedule(PlantClock clock, Consumer<RecorderRun> stopItself) {
        this.clock = clock;
        this.stopItself = stopItself;
    }

    /** Makes these recorders, and only these, run. One that is the same object keeps its place. */
    synchronized void changeover(Collection<RecorderRun> wanted) {
        runDue(); // a tick that is due already belongs to the design before
        queue.removeIf(due -> !wanted.contains(due.run()));
        Instant now = clock.now();
        for (RecorderRun run : wanted) {
            if (runs.get(run.definition().id()) != run) {
                // A recorder that changed goes on from the tick it would have had.
                queue.add(new Due(run.next(now), run));
            }
        }
        runs.clear();
        wanted.forEach(run -> runs.put(run.definition().id(), run));
    }

    /** Fires what is due and returns the nanoseconds until something is due again, 200 ms at most. */
    synchronized long runDue() {
        Instant now = clock.now();
        if (last != Instant.MIN && now.isBefore(last.minus(CLOCK_STEP))) {
            // The clock was set back: wait for the next tick by the new time, not for the old one to come round.
            queue.clear();
            for (RecorderRun run : runs.values()) {
                queue.add(new Due(run.next(now), run));
            }
        }
        last = now;
        while (!queue.isEmpty() && !queue.peek().at().isAfter(now)) {
            Due due = queue.poll();
            Instant tick = due.at();
            boolean goesOn = true;
            if (Duration.between(tick, now).compareTo(due.run().longestDelay()) > 0) {
                due.run().skip(tick);
            } else {
                goesOn = due.run().fire(tick, now);
            }
            if (goesOn) {
                queue.add(new Due(due.run().next(tick), due.run()));
            } else {
                runs.remove(due.run().definition().id());
                stopItself.accept(due.run());
            }
            now = clock.now();
        }
        return queue.isEmpty() ? LONGEST_WAIT.toNanos()
                : Math.max(1, Math.min(LONGEST_WAIT.toNanos(), Duration.between(now, queue.peek().at()).toNanos()));
    }
}
