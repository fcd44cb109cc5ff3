package dachshund.engine.lane;

import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.Executor;

/** Keeps how far the lanes of a destination are, on disk, on a thread of its own while the writer goes on. What moved may be told by any thread; keeping belongs to the writer's. */
final class Cursors {

    private final LocalStore local;
    private final Executor thread;
    private final Map<String, Settled> moved = new HashMap<>();
    private Map<String, Settled> beingKept = Map.of();
    private CompletableFuture<Void> keeping = CompletableFuture.completedFuture(null);

    Cursors(LocalStore local, Executor thread) {
        this.local = local;
        this.thread = thread;
    }

    synchronized void moved(String lane, Settled settled) {
        moved.put(lane, settled);
    }

    /** Begins to keep what has moved, once what moved before is on disk: never more than one step is under way. */
    synchronized void keep() {
        kept();
        if (!moved.isEmpty()) {
            Map<String, Settled> now = Map.copyOf(moved);
            moved.clear();
            beingKept = now;
            keeping = CompletableFuture.runAsync(() -> local.settle(now), thread);
        }
    }

    /** Waits until it is on disk; what could not be kept is kept with the next. */
    synchronized void kept() {
        try {
            keeping.join();
        } catch (CompletionException failed) {
            beingKept.forEach(moved::putIfAbsent);
            keeping = CompletableFuture.completedFuture(null);
            throw failed;
        }
    }
}
