package dachshund.engine.thread;

import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.function.LongSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Makes every thread of the engine. A worker repeats one step until it is stopped; a step that throws is logged and
 * the worker goes on after a pause, because a recorder must outlive a defect.
 */
public final class Threads {

    private static final Logger LOG = LoggerFactory.getLogger(Threads.class);
    private static final long PAUSE_AFTER_ERROR_NANOS = 1_000_000_000L;

    private Threads() {}

    /** A few daemon threads for work that comes now and then or after a pause, such as connecting to a source. */
    public static ScheduledExecutorService pool(String name, int threads) {
        AtomicInteger number = new AtomicInteger();
        return Executors.newScheduledThreadPool(threads, task -> {
            Thread thread = new Thread(task, name + "-" + number.incrementAndGet());
            thread.setDaemon(true);
            return thread;
        });
    }

    /** A running worker. */
    public static final class Worker implements AutoCloseable {

        private final Thread thread;
        private volatile boolean stopped;

        private Worker(String name, LongSupplier step) {
            thread = new Thread(() -> run(step), name);
            thread.setDaemon(true);
        }

        private void run(LongSupplier step) {
            while (!stopped) {
                long pause;
                try {
                    pause = step.getAsLong();
                } catch (RuntimeException defect) {
                    LOG.error("A step of {} failed and is repeated.", thread.getName(), defect);
                    pause = PAUSE_AFTER_ERROR_NANOS;
                }
                if (pause > 0 && !stopped) {
                    LockSupport.parkNanos(this, pause);
                }
            }
        }

        /** Ends the pause between two steps. */
        public void wake() {
            LockSupport.unpark(thread);
        }

        /** Lets the present step end and waits for it, 10 s at most. */
        @Override
        public void close() {
            stopped = true;
            wake();
            try {
                thread.join(10_000);
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
        }
    }

    /**
     * Starts a worker.
     *
     * @param step does one step and returns how many nanoseconds to pause before the next; 0 for none
     */
    public static Worker start(String name, LongSupplier step) {
        Worker worker = new Worker(name, step);
        worker.thread.start();
        return worker;
    }
}
