package dachshund.bench;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.atomic.AtomicReference;
import java.util.concurrent.locks.LockSupport;

/** How often something is done in a second, by several at once; and how long it takes at a steady rate. */
final class Rates {

    private Rates() {}

    /** What is done. */
    @FunctionalInterface
    interface Doing {
        void once(int who, long nth) throws Exception;
    }

    /** What is done by one. */
    @FunctionalInterface
    interface Alone {
        void once(long nth) throws Exception;
    }

    /** Each does it again as soon as it is done, for so long; how often in a second all together. */
    static double of(int many, Duration length, Doing doing) throws InterruptedException {
        long[] done = new long[many];
        AtomicReference<Exception> failed = new AtomicReference<>();
        List<Thread> threads = new ArrayList<>();
        long from = System.nanoTime();
        long until = from + length.toNanos();
        for (int i = 0; i < many; i++) {
            int who = i;
            threads.add(new Thread(() -> {
                try {
                    while (System.nanoTime() < until && failed.get() == null) {
                        doing.once(who, done[who]);
                        done[who]++;
                    }
                } catch (Exception no) {
                    failed.compareAndSet(null, no);
                }
            }));
        }
        threads.forEach(Thread::start);
        for (Thread each : threads) {
            each.join();
        }
        if (failed.get() != null) {
            throw new IllegalStateException(failed.get());
        }
        return Arrays.stream(done).sum() * 1e9 / (System.nanoTime() - from);
    }

    /** So often in a second; how long each took from when it was due, in nanoseconds, the shortest first. */
    static long[] steady(int aSecond, Duration length, Alone doing) throws InterruptedException {
        long[] took = new long[(int) (aSecond * length.toSeconds())];
        long from = System.nanoTime();
        for (int i = 0; i < took.length; i++) {
            long due = from + i * 1_000_000_000L / aSecond;
            while (System.nanoTime() < due) {
                LockSupport.parkNanos(due - System.nanoTime());
            }
            try {
                doing.once(i);
            } catch (InterruptedException stopped) {
                throw stopped;
            } catch (Exception no) {
                throw new IllegalStateException(no);
            }
            took[i] = System.nanoTime() - due;
        }
        Arrays.sort(took);
        return took;
    }
}
