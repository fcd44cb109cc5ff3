package dachshund.engine.thread;

import java.util.concurrent.ExecutorService;
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
    };

    /** @param step does one step and returns how many nanoseconds to pause before the next; 0 for none */
    Worker start(String name, LongSupplier step);

    /** For work that comes now and then, so many pieces at once. */
    ExecutorService few(String name, int threads);

    /** For work that may hang: none waits for another. Whoever gives it bounds it. */
    ExecutorService onDemand(String name);
}
