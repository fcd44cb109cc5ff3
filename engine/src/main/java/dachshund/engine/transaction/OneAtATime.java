package dachshund.engine.transaction;

import dachshund.engine.thread.Threads;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A piece of equipment at which one run at a time is under way, whichever transaction it is of. From any thread. */
final class OneAtATime {

    private final Map<Turns, Runnable> waiting = new LinkedHashMap<>();
    private OneRun under;

    /**
     * @param of    the transaction whose turn it is
     * @param again called from any thread when it may be free, as often as that is; asks anew
     * @return whether it may begin now
     */
    synchronized boolean enter(OneRun run, Turns of, Runnable again) {
        if (under != null) {
            waiting.putIfAbsent(of, again);
            return false;
        }
        under = run;
        waiting.remove(of);
        return true;
    }

    /** Those who have waited longest are asked first. Nothing where the run is not there any more. */
    void leave(OneRun run) {
        List<Runnable> next;
        synchronized (this) {
            if (under != run) {
                return;
            }
            under = null;
            next = List.copyOf(waiting.values());
        }
        for (Runnable each : next) {
            try {
                each.run();
            } catch (RuntimeException | Error defect) {
                Threads.report(defect); // of one transaction; the others are asked all the same
            }
        }
    }

    /** A transaction that ends waits no more. */
    synchronized void forget(Turns of) {
        waiting.remove(of);
    }

    synchronized boolean busy() {
        return under != null;
    }

    /** The transaction that is under way, by name, where one waits for it. */
    synchronized Optional<String> waitsFor(Turns of) {
        return under == null || !waiting.containsKey(of) ? Optional.empty() : Optional.of(under.name());
    }
}
