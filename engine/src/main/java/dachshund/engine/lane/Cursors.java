package dachshund.engine.lane;

import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;

/**
 * Keeps how far the lanes of a destination are, on disk, on a thread of its own while the writer goes on. What moved may be
 * told by any thread; keeping belongs to the writer's. A local disk that does not answer makes nobody wait here for longer
 * than he says.
 */
final class Cursors {

    /** A local disk that takes longer is in trouble. */
    static final Duration LATE = Duration.ofSeconds(2);

    private static final CompletableFuture<Void> NOTHING = CompletableFuture.completedFuture(null);

    private final LocalStore local;
    private final PlantClock clock;
    private final Executor thread;
    private final Map<String, Settled> moved = new HashMap<>();
    private Map<String, Settled> beingKept = Map.of();
    private CompletableFuture<Void> keeping = NOTHING;
    private long begun;
    private String refused = "";
    private long keepingUpTo;
    private long keptUpTo;

    Cursors(LocalStore local, PlantClock clock, Executor thread) {
        this.local = local;
        this.clock = clock;
        this.thread = thread;
        this.begun = clock.nanos() - LATE.toNanos();
    }

    synchronized void moved(String lane, Settled settled) {
        moved.put(lane, settled);
    }

    /**
     * Begins to keep what has moved, unless what moved before is still on its way to the disk.
     *
     * @param needed everything before it in the journal is settled by what was told so far
     * @param pause  so long nothing is begun after it was begun last
     * @return everything before it in the journal is settled by what is on disk: nobody needs it any more
     */
    long keep(long needed, Duration pause) {
        boolean free = kept(Duration.ZERO);
        synchronized (this) {
            if (!free) {
                return keptUpTo;
            }
            if (moved.isEmpty()) {
                keptUpTo = Math.max(keptUpTo, needed);
            } else if (clock.nanos() - begun >= pause.toNanos()) {
                beingKept = Map.copyOf(moved);
                moved.clear();
                keepingUpTo = needed;
                begun = clock.nanos();
                Map<String, Settled> now = beingKept;
                keeping = CompletableFuture.runAsync(() -> local.settle(now), thread);
            }
            return keptUpTo;
        }
    }

    /** Waits so long until what was begun is on disk; whether it is. What could not be kept is kept with the next. */
    boolean kept(Duration within) {
        CompletableFuture<Void> underWay;
        synchronized (this) {
            underWay = keeping;
        }
        try {
            underWay.get(within.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException notYet) {
            return false;
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return false;
        } catch (ExecutionException failed) {
            synchronized (this) {
                beingKept.forEach(moved::putIfAbsent);
                keepingUpTo = keptUpTo;
                keeping = NOTHING;
                refused = Threads.words(failed.getCause());
            }
            return false;
        }
        synchronized (this) {
            keptUpTo = Math.max(keptUpTo, keepingUpTo);
            refused = underWay == NOTHING ? refused : "";
        }
        return true;
    }

    /** Whether how far a lane is is on disk, as it was told last. */
    boolean keeps(String lane) {
        boolean free = kept(Duration.ZERO);
        synchronized (this) {
            return !moved.containsKey(lane) && (free || !beingKept.containsKey(lane));
        }
    }

    /** What is wrong with the local disk, in a sentence; empty where nothing is. */
    synchronized String trouble() {
        if (!refused.isEmpty()) {
            return "The local disk refuses to keep how far the rows are: " + refused;
        }
        boolean late = !keeping.isDone() && clock.nanos() - begun > LATE.toNanos();
        return late ? "The local disk has not answered for more than " + PeriodText.roughly(LATE) + "." : "";
    }
}
