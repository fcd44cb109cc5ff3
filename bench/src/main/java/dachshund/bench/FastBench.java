package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.outcome.Outcome;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.core.when.When;
import dachshund.engine.recorder.RecorderRun;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;

/**
 * One recorder at 10 ms into MariaDB for ten minutes: ticks that were missed, by the table's own count, and how late they were
 * served, beside a bare timer of 10 ms that does nothing else, at the same time in the same process.
 */
final class FastBench implements Bench.Benchmark {

    private static final Duration PERIOD = Duration.ofMillis(10);
    private static final int SECONDS = Integer.getInteger("bench.seconds", 600);
    private static final int WARM_UP_SECONDS = 10;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        try (MariaBed bed = new MariaBed()) {
            System.out.printf(
                    "fast: a recorder at 10 ms into MariaDB for %d s, after %d s%n", SECONDS, WARM_UP_SECONDS);
            RecorderDefinition design = MariaBed.recorder(0, "fast", 4, new When.Every(PERIOD));
            Percentiles late = new Percentiles();
            Percentiles timer = new Percentiles();
            AtomicBoolean over = new AtomicBoolean();
            long due;
            long skipped;
            long first;
            try (RecorderRig rig = new RecorderRig(folder, bed.open(), Batching.AT_ONCE, List.of(design))) {
                for (int i = 0; i < 4; i++) {
                    rig.tags.offer(
                            MariaBed.SOURCE,
                            List.of(new TagChange(
                                    MariaBed.tag(0, i).address(), TagValue.good(i * 0.5, rig.clock.now()))));
                }
                Thread.sleep(Duration.ofSeconds(WARM_UP_SECONDS).toMillis());
                RecorderRun run = rig.recorders.find(MariaBed.id(0)).orElseThrow();
                Thread bare = new Thread(() -> idle(timer, over), "bare timer");
                bare.start();
                long skippedBefore = rig.book.total(Outcome.SKIPPED);
                first = rig.clock.now().toEpochMilli();
                long until = System.nanoTime() + Duration.ofSeconds(SECONDS).toNanos();
                while (System.nanoTime() < until) {
                    // Half a period after a tick is due, what it said last is of that tick, or it is later than that.
                    long now = rig.clock.now().toEpochMilli();
                    LockSupport.parkNanos((15 - now % 10) * 1_000_000);
                    late.add(run.lateness().toNanos() / 1e6);
                }
                skipped = rig.book.total(Outcome.SKIPPED) - skippedBefore;
                due = (rig.clock.now().toEpochMilli() - first) / PERIOD.toMillis();
                over.set(true);
                bare.join();
                rig.recorders.stop(MariaBed.id(0), "bench", "over");
                while (rig.waiting() > 0) {
                    LockSupport.parkNanos(1_000_000);
                }
            }
            long there = bed.count("SELECT COUNT(DISTINCT record_time) FROM fast WHERE record_time > FROM_UNIXTIME("
                    + first / 1e3 + ") AND record_time <= FROM_UNIXTIME(" + (first + due * 10) / 1e3 + ")");
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "ticks due %,d, in the table %,d, missed %,d (counted as skipped: %,d)%n",
                    due,
                    there,
                    due - there,
                    skipped);
            System.out.printf(
                    "lateness, looked at once a tick: %s%nbare timer of 10 ms: %s%n", late.words(), timer.words());
            System.out.printf(
                    Locale.ROOT,
                    "steal %.1f %%%s%n{\"bench\":\"fast\",\"ratio\":%.2f,\"due\":%d,\"missed\":%d,\"p50_ms\":%.3f,\"p99_ms\":%.3f,\"worst_ms\":%.3f,\"timer_p50_ms\":%.3f,\"timer_p99_ms\":%.3f,\"timer_worst_ms\":%.3f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "",
                    late.at(0.99) / timer.at(0.99),
                    due,
                    due - there,
                    late.at(0.5),
                    late.at(0.99),
                    late.at(1),
                    timer.at(0.5),
                    timer.at(0.99),
                    timer.at(1),
                    steal,
                    steal > 5);
        }
    }

    private static void idle(Percentiles late, AtomicBoolean over) {
        long due = System.nanoTime();
        while (!over.get()) {
            due += PERIOD.toNanos();
            while (System.nanoTime() < due) {
                LockSupport.parkNanos(due - System.nanoTime());
            }
            late.add((System.nanoTime() - due) / 1e6);
        }
    }
}
