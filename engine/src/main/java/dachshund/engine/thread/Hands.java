package dachshund.engine.thread;

import java.time.Duration;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.function.LongSupplier;

/** Who does the work of the path of rows: threads, or in a simulation one who chooses whose turn it is. */
public interface Hands {

    /** Threads of this process. */
    Hands THREADS = new Hands() {
        @Override
        public Worker start(String name, LongSupplier step) {
            return Threads.start(name, step);
        }

        @Override
        public ExecutorService few(String name, int threads) {
            return Threads.pool(name, threads);
        }

        @Override
        public ExecutorService onDemand(String name) {
            return Threads.onDemand(name);
        }

        @Override
        public boolean await(BooleanSupplier done, Duration limit) {
            long until = System.nanoTime() + limit.toNanos();
            while (!done.getAsBoolean()) {
                if (System.nanoTime() > until) {
                    return false;
                }
                LockSupport.parkNanos(LOOKS_EVERY_NANOS);
            }
            return true;
        }
    };

    long LOOKS_EVERY_NANOS = 5_000_000;

    /** @param step does one step and returns how many nanoseconds to pause before the next; 0 for none */
    Worker start(String name, LongSupplier step);

    /** For work that comes now and then, so many pieces at once. */
    ExecutorService few(String name, int threads);

    /** For work that may hang: none waits for another. Whoever gives it bounds it. */
    ExecutorService onDemand(String name);

    /** Waits for what others do, so long at most; whether it is done. */
    boolean await(BooleanSupplier done, Duration limit);
}
