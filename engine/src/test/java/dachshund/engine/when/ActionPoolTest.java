package dachshund.engine.when;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Strands: one step at a time, in order, whatever the others do. */
class ActionPoolTest {

    @Test
    void stepsOfAStrandFollowEachOtherAndNoneIsLostWhoeverSubmitsThem() throws Exception {
        int threads = 4, each = 20_000;
        try (ActionPool pool = new ActionPool()) {
            ActionPool.Strand strand = pool.strand();
            AtomicInteger at = new AtomicInteger();
            AtomicBoolean together = new AtomicBoolean();
            List<int[]> done = Collections.synchronizedList(new ArrayList<>());
            List<Thread> submitters = IntStream.range(0, threads)
                    .mapToObj(by -> new Thread(() -> {
                        for (int n = 0; n < each; n++) {
                            int[] mark = {by, n};
                            while (!strand.submit(1, () -> {
                                together.compareAndSet(false, at.incrementAndGet() > 1);
                                done.add(mark);
                                at.decrementAndGet();
                            })) {
                                Thread.onSpinWait();
                            }
                        }
                    }))
                    .toList();
            submitters.forEach(Thread::start);
            for (Thread submitter : submitters) {
                submitter.join();
            }
            assertThat(pool.drain(Duration.ofSeconds(30))).isTrue();
            assertThat(together).as("two steps of one strand at once").isFalse();
            assertThat(done).hasSize(threads * each);
            for (int by = 0; by < threads; by++) {
                int submitter = by;
                assertThat(done.stream().filter(mark -> mark[0] == submitter).map(mark -> mark[1]))
                        .isSorted();
            }
        }
    }

    @Test
    void stepsThatHangKeepTheirOwnStrandsOnly() throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        try (ActionPool pool = new ActionPool()) {
            for (int hanging = 0; hanging < 10; hanging++) {
                pool.strand().submit(0, () -> waitFor(go));
            }
            AtomicBoolean done = new AtomicBoolean();
            pool.strand().submit(0, () -> done.set(true));
            soon(() -> {
                pool.lookAfter();
                return done.get();
            });
            go.countDown();
        }
    }

    @Test
    void atTheEndTheStepThatIsUnderWayEndsAndNoFurtherOneBegins() throws Exception {
        ActionPool pool = new ActionPool();
        ActionPool.Strand strand = pool.strand();
        CountDownLatch begun = new CountDownLatch(1);
        AtomicInteger done = new AtomicInteger();
        strand.submit(0, () -> {
            begun.countDown();
            LockSupport.parkNanos(100_000_000);
            done.incrementAndGet();
        });
        for (int i = 0; i < 10; i++) {
            strand.submit(0, done::incrementAndGet);
        }
        begun.await();
        pool.close();
        assertThat(done).as("the one that was under way").hasValue(1);
        assertThat(strand.waiting()).isEqualTo(10);
    }

    @Test
    void aFullStrandRefusesAndTakesAgainWhenItHasRoom() throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        try (ActionPool pool = new ActionPool()) {
            ActionPool.Strand strand = pool.strand();
            assertThat(strand.submit(900_000, () -> waitFor(go))).isTrue();
            assertThat(strand.submit(200_000, () -> {})).isFalse();
            assertThat(strand.submit(100_000, () -> {})).isTrue();
            go.countDown();
            assertThat(pool.drain(Duration.ofSeconds(10))).isTrue();
            assertThat(strand.submit(900_000, () -> {})).isTrue();
        }
    }

    /** The machine had no memory for a thread at the moment in which a strand needed one. */
    @Test
    void aStrandThatNoThreadCouldBeHadForGoesOnLater() {
        ExecutorService threads = Executors.newSingleThreadExecutor();
        AtomicBoolean none = new AtomicBoolean(true);
        try (ActionPool pool = new ActionPool(task -> {
            if (none.get()) {
                throw new OutOfMemoryError("unable to create native thread");
            }
            threads.execute(task);
        })) {
            List<Integer> done = Collections.synchronizedList(new ArrayList<>());
            ActionPool.Strand strand = pool.strand();
            assertThat(strand.submit(1, () -> done.add(1))).isTrue();
            assertThat(strand.submit(1, () -> done.add(2))).isTrue();
            assertThat(done).isEmpty();
            none.set(false);
            pool.lookAfter();
            soon(() -> done.size() == 2);
            assertThat(strand.submit(1, () -> done.add(3))).isTrue();
            soon(() -> done.equals(List.of(1, 2, 3)));
        } finally {
            threads.shutdownNow();
        }
    }

    private static void waitFor(CountDownLatch latch) {
        try {
            latch.await();
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
        }
    }
}
