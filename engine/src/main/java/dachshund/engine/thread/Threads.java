package dachshund.engine.thread;

import java.time.Duration;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.ThreadFactory;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Consumer;
import java.util.function.LongSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Makes every thread of the engine; none of them has the lower share of the processor of a page, whoever begins it. A worker repeats one step until it is stopped; a step that throws is logged and
 * the worker goes on after a pause, because a recorder must outlive a defect.
 */
public final class Threads {

    private static final Logger LOG = LoggerFactory.getLogger(Threads.class);
    private static final long PAUSE_AFTER_ERROR_NANOS = 1_000_000_000L;

    private Threads() {}

    /** A few daemon threads for work that comes now and then or after a pause, such as connecting to a source. */
    public static ScheduledExecutorService pool(String name, int threads) {
        return pool(name, threads, Threads::report);
    }

    /** @param thrown told of whatever a task throws, also one whose result nobody asks for */
    public static ScheduledExecutorService pool(String name, int threads, Consumer<Throwable> thrown) {
        AtomicInteger number = new AtomicInteger();
        ScheduledThreadPoolExecutor pool =
                new ScheduledThreadPoolExecutor(
                        threads, task -> new RecordingThread(task, name + "-" + number.incrementAndGet())) {
                    @Override
                    protected void afterExecute(Runnable task, Throwable direct) {
                        super.afterExecute(task, direct);
                        Throwable problem = direct;
                        if (problem == null
                                && task instanceof Future<?> future
                                && future.isDone()
                                && !future.isCancelled()) {
                            try {
                                future.get();
                            } catch (ExecutionException failed) {
                                problem = failed.getCause();
                            } catch (InterruptedException interrupted) {
                                Thread.currentThread().interrupt();
                            }
                        }
                        if (problem != null) {
                            thrown.accept(problem);
                        }
                    }
                };
        pool.setKeepAliveTime(30, TimeUnit.SECONDS);
        pool.allowCoreThreadTimeOut(true);
        pool.setRemoveOnCancelPolicy(true);
        return pool;
    }

    /** Threads that do short steps as they come, in any order; as many as are asked for. */
    public static ThreadPoolExecutor actions(String name, int threads) {
        AtomicInteger number = new AtomicInteger();
        return new ThreadPoolExecutor(
                threads,
                threads,
                10,
                TimeUnit.SECONDS,
                new LinkedBlockingQueue<>(),
                task -> new RecordingThread(task, name + "-" + number.incrementAndGet()));
    }

    /** A thread for each task that comes while the others are busy; whoever gives the tasks bounds them. */
    public static ThreadPoolExecutor onDemand(String name) {
        AtomicInteger number = new AtomicInteger();
        return onDemand(task -> new RecordingThread(task, name + "-" + number.incrementAndGet()));
    }

    /** The same, for what people ask: such a thread has the share of the processor of the one that makes the page. */
    public static ThreadPoolExecutor onDemandOfPages(String name) {
        AtomicInteger number = new AtomicInteger();
        return onDemand(task -> {
            Thread thread = new Thread(task, name + "-" + number.incrementAndGet());
            thread.setDaemon(true);
            return thread;
        });
    }

    private static ThreadPoolExecutor onDemand(ThreadFactory factory) {
        return new ThreadPoolExecutor(0, Integer.MAX_VALUE, 10, TimeUnit.SECONDS, new SynchronousQueue<>(), factory);
    }

    /** Does something once, on a thread of its own. */
    public static Thread once(String name, Runnable work) {
        Thread thread = new Thread(
                () -> {
                    try {
                        work.run();
                    } catch (RuntimeException | Error thrown) {
                        report(thrown);
                    }
                },
                name);
        thread.setDaemon(true);
        thread.start();
        return thread;
    }

    /** Something threw where nobody is left who could say so to a person. */
    public static void report(Throwable thrown) {
        LOG.error("A defect: {}", words(thrown), thrown);
    }

    /** What was thrown, in words. */
    public static String words(Throwable thrown) {
        String message = thrown.getMessage();
        return thrown.getClass().getSimpleName() + (message == null || message.isBlank() ? "" : ": " + message);
    }

    /** Does the work when the process is asked to end, beside whatever else is done then. */
    public static void atEnd(String name, Runnable work) {
        Runtime.getRuntime().addShutdownHook(new Thread(work, name));
    }

    /** A thread that does the step over and over. */
    private static final class Repeating implements Worker {

        private final Thread thread;
        private volatile boolean stopped;

        private Repeating(String name, LongSupplier step) {
            thread = new RecordingThread(() -> run(step), name);
        }

        private void run(LongSupplier step) {
            while (!stopped) {
                long pause;
                try {
                    pause = step.getAsLong();
                } catch (RuntimeException | Error defect) {
                    LOG.error("A step of {} failed and is repeated.", thread.getName(), defect);
                    pause = PAUSE_AFTER_ERROR_NANOS;
                }
                if (pause > 0 && !stopped) {
                    LockSupport.parkNanos(this, pause);
                }
            }
        }

        @Override
        public void wake() {
            LockSupport.unpark(thread);
        }

        @Override
        public boolean close(Duration limit) {
            stopped = true;
            wake();
            try {
                thread.join(limit.toMillis());
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
            return !thread.isAlive();
        }
    }

    /**
     * Starts a worker.
     *
     * @param step does one step and returns how many nanoseconds to pause before the next; 0 for none
     */
    public static Worker start(String name, LongSupplier step) {
        Repeating worker = new Repeating(name, step);
        worker.thread.start();
        return worker;
    }
}
