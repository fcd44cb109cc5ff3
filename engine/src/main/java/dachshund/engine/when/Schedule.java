package dachshund.engine.when;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.PriorityQueue;

/**
 * Which run is due next. {@link #runDue} belongs to one thread and only hands on; the set of runs may be changed from any,
 * and a change falls between two ticks.
 */
@SuppressWarnings("ReferenceEquality") // a run is itself, whatever it holds
public final class Schedule {

    private static final Duration LONGEST_WAIT = Duration.ofMillis(200);
    private static final Duration CLOCK_STEP = Duration.ofSeconds(1);

    private record Due(Instant at, WhenRun run) {}

    private final PlantClock clock;
    private final Runnable wake;
    private final PriorityQueue<Due> queue = new PriorityQueue<>(Comparator.comparing(Due::at));
    /** The one entry of each run that counts; others of it in the queue are left over. */
    private final Map<WhenRun, Due> counts = new IdentityHashMap<>();

    private final Map<String, WhenRun> runs = new HashMap<>();
    private Instant last = Instant.MIN;

    /** @param wake makes {@link #runDue} be called soon */
    public Schedule(PlantClock clock, Runnable wake) {
        this.clock = clock;
        this.wake = wake;
    }

    /** Makes these runs, and only these, run. One that is the same object keeps its place. */
    public synchronized void changeover(Collection<WhenRun> wanted) {
        runDue(); // a tick that is due already belongs to the design before
        Map<String, WhenRun> next = new HashMap<>();
        wanted.forEach(run -> next.put(run.id(), run));
        for (WhenRun run : runs.values()) {
            if (next.get(run.id()) != run) {
                counts.remove(run);
                if (!next.containsKey(run.id())) {
                    run.end();
                }
            }
        }
        Instant now = clock.now();
        for (WhenRun run : wanted) {
            WhenRun before = runs.get(run.id());
            if (before != run) {
                counts.put(run, new Due(Instant.MAX, run));
                run.begin(now, Optional.ofNullable(before), this::told);
            }
        }
        runs.clear();
        runs.putAll(next);
        queue.removeIf(due -> counts.get(due.run()) != due);
    }

    /** Takes a run out; what it has heard is not carried out any more. */
    public synchronized void remove(WhenRun run) {
        if (runs.remove(run.id(), run)) {
            counts.remove(run);
            run.end();
            run.forget();
        }
    }

    /** The run says when it wants to be woken. */
    private void told(WhenRun run) {
        synchronized (this) {
            if (!counts.containsKey(run)) {
                return;
            }
            Due due = new Due(run.next(), run);
            counts.put(run, due);
            if (!due.at().equals(Instant.MAX)) {
                queue.add(due);
            }
            if (queue.peek() != due) {
                return;
            }
        }
        wake.run();
    }

    /** Hands on what is due and returns the nanoseconds until something is due again, 200 ms at most. */
    public synchronized long runDue() {
        Instant now = clock.now();
        if (last != Instant.MIN && now.isBefore(last.minus(CLOCK_STEP))) {
            // The clock was set back: wait for the next tick by the new time, not for the old one to come round.
            queue.clear();
            for (WhenRun run : runs.values()) {
                counts.put(run, new Due(Instant.MAX, run));
                run.clockSetBack(now);
            }
        }
        last = now;
        while (!queue.isEmpty() && !queue.peek().at().isAfter(now)) {
            Due due = queue.poll();
            WhenRun run = due.run();
            if (counts.get(run) == due) {
                counts.put(run, new Due(Instant.MAX, run)); // it says itself when it is done
                run.time(now);
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
