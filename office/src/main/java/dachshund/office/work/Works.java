package dachshund.office.work;

import dachshund.core.time.PlantClock;
import dachshund.core.work.Progress;
import dachshund.engine.thread.Threads;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** Long work goes on by itself, on few threads of its own, whoever leaves the page; it is found again here. */
@Component
public class Works {

    /** How the names of its threads begin. */
    public static final String THREADS = "work";

    /** So many go on at once: each may want all that pages may have of the processor and of our own database. */
    private static final int AT_ONCE = 2;

    private static final Logger LOG = LoggerFactory.getLogger(Works.class);
    private static final long LAST_MILLIS = 3_000;

    private static final int WAITING = 20;
    private static final int REMEMBERED = 100;

    private final PlantClock clock;
    private final ThreadPoolExecutor threads = Threads.actions(THREADS, AT_ONCE);
    private final Deque<Work> newest = new ArrayDeque<>();

    /** What is done. */
    @FunctionalInterface
    public interface Body {
        /** @throws Exception what went wrong; a person is told */
        Work.Outcome run(Progress progress) throws Exception;
    }

    /** Too much waits; nothing was begun. */
    public static final class Full extends RuntimeException {
        private static final long serialVersionUID = 1;

        private Full() {
            super("Too much long work waits already. Nothing was begun; try it again when some of it is done.");
        }
    }

    Works(PlantClock clock) {
        this.clock = clock;
        threads.allowCoreThreadTimeOut(true);
    }

    /**
     * Begins it and waits a little for its end.
     *
     * @param title  what it is, for a list
     * @param page   where it is begun
     * @param within so long at most
     * @throws Full where too much waits already
     */
    public Work begin(String title, String by, String page, Duration within, Body body) {
        Work work = new Work(Definitions.newId(), title, by, page, clock.now());
        synchronized (newest) {
            if (newest.stream().filter(each -> !each.state().over()).count() >= AT_ONCE + WAITING) {
                throw new Full();
            }
            newest.addFirst(work);
            forget();
        }
        try {
            CompletableFuture.runAsync(() -> work.run(body), threads).get(within.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException goesOn) {
            return work;
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        } catch (RejectedExecutionException ends) {
            work.end(); // the application ends
        } catch (ExecutionException defect) {
            throw new IllegalStateException(defect.getCause());
        }
        return work;
    }

    /** The application ends: what may end does, what may not is waited for a little, and nothing begins any more. */
    @EventListener(ContextClosedEvent.class)
    public void close() {
        newest().forEach(Work::end);
        threads.shutdown();
        try {
            if (!threads.awaitTermination(LAST_MILLIS, TimeUnit.MILLISECONDS)) {
                LOG.warn("Long work goes on while the application ends: {}", goingOn());
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
    }

    private String goingOn() {
        return newest().stream()
                .filter(work -> !work.state().over())
                .map(Work::title)
                .collect(Collectors.joining(", "));
    }

    /** What is over goes first, the oldest of it. */
    private void forget() {
        List<Work> oldest = new ArrayList<>(newest);
        Collections.reverse(oldest);
        for (Work each : oldest) {
            if (newest.size() > REMEMBERED && each.state().over()) {
                newest.remove(each);
            }
        }
    }

    public Optional<Work> find(String id) {
        return newest().stream().filter(work -> work.id().equals(id)).findFirst();
    }

    /** The newest first. */
    public List<Work> newest() {
        synchronized (newest) {
            return List.copyOf(newest);
        }
    }

    /** Of a person: what goes on, and what is over without their having seen its end. */
    public List<Work> open(String by) {
        return newest().stream()
                .filter(work -> work.by().equals(by) && !work.looked())
                .toList();
    }
}
