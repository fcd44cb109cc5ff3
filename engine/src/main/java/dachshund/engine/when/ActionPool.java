package dachshund.engine.when;

import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executor;
import java.util.concurrent.ThreadPoolExecutor;

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

    private static final long LINGER_NANOS = 20_000;

    private final Executor executor;
    private final long linger;
    private final Optional<ThreadPoolExecutor> threads;
    private final Set<Strand> running = ConcurrentHashMap.newKeySet();

    public ActionPool() {
        ThreadPoolExecutor own = Threads.actions("action", THREADS);
        executor = own;
        linger = LINGER_NANOS;
        threads = Optional.of(own);
    }

    private ActionPool(Executor executor) {
        this.executor = executor;
        this.linger = 0;
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

    /** Looks for steps that have run for long, so that they do not take the threads of others. Called now and then. */
    public void lookAfter() {
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
            java.util.concurrent.locks.LockSupport.parkNanos(1_000_000);
        }
        return true;
    }

    @Override
    public void close() {
        threads.ifPresent(ThreadPoolExecutor::shutdownNow);
    }

    /** Steps in order, one at a time. Safe for many threads. */
    public final class Strand {

        private final Deque<Step> steps = new ArrayDeque<>();
        private long weight;
        private boolean scheduled;
        private volatile long stepSince;

        private record Step(Runnable work, int weight) {}

        private Strand() {}

        /**
         * Does the work after all that was submitted before. What it throws is its own affair.
         *
         * @param values how many values it keeps in memory until then
         * @return false where the strand is full; nothing was taken then
         */
        public boolean submit(int values, Runnable work) {
            synchronized (steps) {
                if (weight + values > ROOM) {
                    return false;
                }
                steps.addLast(new Step(work, values));
                weight += values;
                if (scheduled) {
                    return true;
                }
                scheduled = true;
            }
            running.add(this);
            executor.execute(this::turn);
            return true;
        }

        private void turn() {
            for (int i = 0; i < TURN; i++) {
                Step step = next();
                if (step == null) {
                    return;
                }
                stepSince = System.nanoTime();
                try {
                    step.work().run();
                } catch (RuntimeException | Error thrown) {
                    Threads.report(thrown);
                } finally {
                    stepSince = 0;
                }
            }
            executor.execute(this::turn);
        }

        /** The next step; null where none is left, and the strand is given back. */
        private Step next() {
            long until = 0;
            while (true) {
                synchronized (steps) {
                    Step step = steps.pollFirst();
                    if (step != null) {
                        weight -= step.weight();
                        return step;
                    }
                    long now = System.nanoTime();
                    if (until == 0) {
                        // Under load the next one is there at once: waiting for it costs less than being woken for it.
                        until = now + linger;
                    }
                    if (now >= until) {
                        scheduled = false;
                        running.remove(this);
                        return null;
                    }
                }
                Thread.onSpinWait();
            }
        }

        private long runsSince(long now) {
            long since = stepSince;
            return since == 0 ? 0 : now - since;
        }

        /** How long the present step has been running; zero where none is. */
        public Duration stuckFor() {
            return Duration.ofNanos(Math.max(0, runsSince(System.nanoTime())));
        }

        /** Steps that wait. */
        public int waiting() {
            synchronized (steps) {
                return steps.size();
            }
        }
    }
}
