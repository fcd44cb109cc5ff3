package dachshund.engine.when;

import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.Executor;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;

/**
 * The threads that actions run on. Each action has a strand: one step at a time, in order, with a bound. A step that hangs
 * keeps its own strand only: the pool gets another thread for each that has run for long.
 */
public final class ActionPool implements AutoCloseable {

    private static final int THREADS = 4;
    private static final int MOST_THREADS = 64;
    private static final long LONG_NANOS = Duration.ofSeconds(1).toNanos();
    /** Values that may wait in one strand. */
    private static final long ROOM = 1_000_000;
    /** Steps a strand does before it lets others have the thread. */
    private static final int TURN = 200;

    private static final long LINGER_NANOS = 300_000;
    /** So long a step that is under way may take at the end. */
    private static final long END_NANOS = Duration.ofMillis(500).toNanos();

    private final Executor executor;
    private final Optional<ThreadPoolExecutor> threads;
    private final Set<Strand> running = ConcurrentHashMap.newKeySet();
    private volatile boolean closed;

    public ActionPool() {
        ThreadPoolExecutor own = Threads.actions("action", THREADS);
        executor = own;
        threads = Optional.of(own);
    }

    /** On whatever carries tasks out; it may throw, as threads do where there is no memory for one more. */
    ActionPool(Executor executor) {
        this.executor = executor;
        this.threads = Optional.empty();
    }

    /** Without threads: whoever hands a step on carries it out, if nobody does already. */
    public static ActionPool onCaller() {
        return new ActionPool(Runnable::run);
    }

    /** A strand of its own. */
    public Strand strand() {
        return new Strand();
    }

    /**
     * Looks for steps that have run for long, so that they do not take the threads of others, and for strands that no thread
     * could be had for. Called now and then.
     */
    public void lookAfter() {
        running.forEach(Strand::beginAgain);
        long now = System.nanoTime();
        long stuck = running.stream()
                .filter(strand -> strand.runsSince(now) > LONG_NANOS)
                .count();
        int wanted = (int) Math.min(MOST_THREADS, THREADS + stuck);
        threads.filter(pool -> pool.getCorePoolSize() != wanted).ifPresent(pool -> {
            pool.setMaximumPoolSize(MOST_THREADS);
            pool.setCorePoolSize(wanted);
        });
    }

    /** Waits until nothing is left to do, so long at most. False where something is. */
    public boolean drain(Duration limit) {
        long until = System.nanoTime() + limit.toNanos();
        while (!running.isEmpty()) {
            if (System.nanoTime() > until) {
                return false;
            }
            LockSupport.parkNanos(1_000_000);
        }
        return true;
    }

    /** Begins no further step; those that are under way end, if they do so soon. What waits stays where it is. */
    @Override
    public void close() {
        closed = true;
        threads.ifPresent(pool -> {
            pool.shutdown();
            try {
                pool.awaitTermination(END_NANOS, TimeUnit.NANOSECONDS);
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
            pool.shutdownNow();
        });
    }

    /** Steps in order, one at a time. Safe for many threads. */
    public final class Strand {

        private final Queue<Step> steps = new ConcurrentLinkedQueue<>();
        /**
         * Values in memory, above; steps that are not done, below: one word, because every change of a tag passes here on two
         * threads. Whoever makes the steps more than none sees to it that they are carried out.
         */
        private final AtomicLong load = new AtomicLong();

        private volatile long stepSince;
        /** When nothing was left to do the last time; of the thread alone whose turn it is. */
        private long idleSince = System.nanoTime() - LINGER_NANOS;
        /** There are steps, and no thread could be had for them. */
        private final AtomicBoolean threadless = new AtomicBoolean();
        /** Steps that are counted and will never come. */
        private final AtomicInteger missing = new AtomicInteger();

        private static final Step NOTHING = new Step(() -> {}, 0);

        private record Step(Runnable work, int values) {
            long load() {
                return ((long) values << 32) + 1;
            }
        }

        private Strand() {}

        /**
         * Does the work after all that was submitted before. What it throws is its own affair.
         *
         * @param values how many values it keeps in memory until then
         * @return false where the strand is full, or there is no memory for another step; nothing was taken then
         */
        public boolean submit(int values, Runnable work) {
            Step step = new Step(work, values);
            long before;
            do {
                before = load.get();
                if ((before >>> 32) + values > ROOM) {
                    return false;
                }
            } while (!load.compareAndSet(before, before + step.load()));
            boolean taken = added(step);
            if (before == 0) {
                begin();
            } else {
                beginAgain();
            }
            return taken;
        }

        /** It is counted already: where there is no memory for it, one that does nothing takes its place. */
        private boolean added(Step step) {
            try {
                steps.add(step);
                return true;
            } catch (OutOfMemoryError none) {
                load.addAndGet(-((long) step.values() << 32));
                missing.incrementAndGet();
                return false;
            }
        }

        private void begin() {
            running.add(this);
            schedule();
        }

        private void beginAgain() {
            if (threadless.get() && threadless.compareAndSet(true, false)) {
                schedule();
            }
        }

        private void schedule() {
            try {
                executor.execute(this::turn);
            } catch (RuntimeException | Error noThread) {
                threadless.set(true);
                if (threads.stream().noneMatch(ThreadPoolExecutor::isShutdown)) {
                    Threads.report(noThread);
                }
            }
        }

        private Step next() {
            for (; ; ) {
                Step step = steps.poll();
                if (step != null) {
                    return step;
                }
                if (missing.get() > 0) {
                    missing.decrementAndGet();
                    return NOTHING;
                }
                // Counted before it is added: it comes in a moment.
                Thread.onSpinWait();
            }
        }

        private void turn() {
            for (int i = 0; !closed && (i < TURN || nobodyWaits()); i++) {
                Step step = next();
                stepSince = System.nanoTime();
                try {
                    step.work().run();
                } catch (RuntimeException | Error thrown) {
                    Threads.report(thrown);
                } finally {
                    stepSince = 0;
                }
                if (!more(step)) {
                    return;
                }
            }
            if (!closed) {
                schedule();
            }
        }

        /** Whether there is another step after this one, which is done. */
        private boolean more(Step done) {
            if (waiting() > 1) {
                load.addAndGet(-done.load());
                return true;
            }
            linger();
            running.remove(this);
            if (load.addAndGet(-done.load()) == 0) {
                return false;
            }
            running.add(this);
            return true;
        }

        /** Where steps follow each other closely, one short sleep for several costs less than being woken for each. */
        private void linger() {
            if (System.nanoTime() - idleSince < LINGER_NANOS && nobodyWaits()) {
                LockSupport.parkNanos(LINGER_NANOS);
            }
            idleSince = System.nanoTime();
        }

        /** Whether no other strand waits for a thread. */
        private boolean nobodyWaits() {
            return threads.isPresent() && threads.get().getQueue().isEmpty();
        }

        private long runsSince(long now) {
            long since = stepSince;
            return since == 0 ? 0 : now - since;
        }

        /** How long the present step has been running; zero where none is. */
        public Duration stuckFor() {
            return Duration.ofNanos(Math.max(0, runsSince(System.nanoTime())));
        }

        /** Steps that are not done. */
        public int waiting() {
            return (int) load.get();
        }
    }
}
