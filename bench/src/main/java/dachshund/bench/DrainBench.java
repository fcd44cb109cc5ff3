package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.RowBatch;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.IntStream;

/**
 * Two million rows of ten recorders were held while MariaDB was away; it comes back while ten other recorders go on with 2,000
 * rows a second together. Rows a second until nothing is held, beside the bare loop that writes as many rows into ten tables
 * over one connection; and how late the rows of the others land meanwhile.
 */
final class DrainBench implements Bench.Benchmark {

    private static final int HELD = Integer.getInteger("bench.held", 2_000_000);
    private static final int LANES = 10;
    private static final int LIVE_PER_SECOND = 2_000;
    private static final int BATCH = 1000;
    private static final int TAGS = 2;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        try (MariaBed bed = new MariaBed()) {
            System.out.printf(
                    "drain: %,d held rows of %d recorders (%d numbers each), while %d others make %,d rows a second; MariaDB, batches of %,d%n",
                    HELD, LANES, TAGS, LANES, LIVE_PER_SECOND, BATCH);
            List<RecorderDefinition> plains = recorders("plain", 0, LANES);
            for (RecorderDefinition plain : plains) {
                bed.create(plain);
            }
            double bare = plain(bed, plains);
            List<RecorderDefinition> designs = recorders("held", 0, LANES);
            designs.addAll(recorders("live", LANES, LANES));
            Tap tap = new Tap(bed.open());
            Percentiles late = new Percentiles();
            double ours;
            long landed;
            double cpu;
            try (RecorderRig rig = new RecorderRig(folder, tap.store(), Batching.AT_ONCE, designs)) {
                for (int lane = 0; lane < 2 * LANES; lane++) {
                    change(rig, lane, 0); // the first value of a tag is no change
                }
                tap.away(true);
                hold(rig);
                long[] live = {0};
                tap.onCommit(batches -> seen(rig, batches, late, live));
                AtomicBoolean over = new AtomicBoolean();
                Thread others = new Thread(() -> goOn(rig, over), "live");
                others.start();
                long cpuFrom = Machine.processCpuNanos();
                long from = System.nanoTime();
                rig.writer.lookAgain();
                tap.away(false);
                while (heldLanes(rig) > 0) {
                    LockSupport.parkNanos(1_000_000);
                }
                double seconds = (System.nanoTime() - from) / 1e9;
                cpu = Machine.processCpuNanos() - cpuFrom;
                landed = HELD + live[0];
                ours = landed / seconds;
                over.set(true);
                others.join();
                while (rig.waiting() > 0) {
                    LockSupport.parkNanos(1_000_000);
                }
                check(bed);
            }
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "rows a second: ours %,.0f (with those of the others), plain %,.0f, ratio %.2f; our CPU %.1f us a row%n",
                    ours,
                    bare,
                    ours / bare,
                    cpu / 1e3 / landed);
            System.out.printf("rows of the others, from due to committed, meanwhile: %s%n", late.words());
            System.out.printf(
                    Locale.ROOT,
                    "steal %.1f %%%s%n{\"bench\":\"drain\",\"ratio\":%.3f,\"rows_per_s\":%.0f,\"plain_rows_per_s\":%.0f,\"live_p50_ms\":%.1f,\"live_p99_ms\":%.1f,\"live_worst_ms\":%.1f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "",
                    ours / bare,
                    ours,
                    bare,
                    late.at(0.5),
                    late.at(0.99),
                    late.at(1),
                    steal,
                    steal > 5);
        }
    }

    private static List<RecorderDefinition> recorders(String name, int first, int count) {
        return new ArrayList<>(IntStream.range(first, first + count)
                .mapToObj(n -> MariaBed.recorder(
                        n,
                        name + n,
                        TAGS,
                        new When.OnChange(Deadband.NONE, List.of(MariaBed.tag(n, 0)), Duration.ZERO, Duration.ZERO)))
                .toList());
    }

    private static void change(RecorderRig rig, int lane, long value) {
        Instant now = rig.clock.now();
        List<TagChange> batch = new ArrayList<>(TAGS);
        for (int i = 0; i < TAGS; i++) {
            batch.add(new TagChange(MariaBed.tag(lane, i).address(), TagValue.good(value + i * 0.5, now)));
        }
        rig.tags.offer(MariaBed.SOURCE, batch);
    }

    private static void hold(RecorderRig rig) {
        for (int n = 0; n < HELD; n++) {
            change(rig, n % LANES, 1 + n / LANES);
            while (n % 1000 == 0 && rig.recorders.pending() > 20_000) {
                LockSupport.parkNanos(500_000);
            }
        }
        while (rig.waiting() < HELD || rig.recorders.pending() > 0 || rig.writer.durable() < rig.writer.end()) {
            LockSupport.parkNanos(1_000_000);
        }
    }

    private static void goOn(RecorderRig rig, AtomicBoolean over) {
        long from = System.nanoTime();
        for (long n = 0; !over.get(); n++) {
            long due = from + n * 1_000_000_000L / LIVE_PER_SECOND;
            while (System.nanoTime() < due) {
                LockSupport.parkNanos(due - System.nanoTime());
            }
            change(rig, LANES + (int) (n % LANES), 1 + n);
        }
    }

    private static synchronized void seen(RecorderRig rig, List<RowBatch> batches, Percentiles late, long[] live) {
        Instant now = rig.clock.now();
        for (RowBatch batch : batches) {
            if (batch.table().startsWith("live")) {
                batch.rows()
                        .forEach(row ->
                                late.add(Duration.between(row.recordTime(), now).toNanos() / 1e6));
                live[0] += batch.rows().size();
            }
        }
    }

    private static long heldLanes(RecorderRig rig) {
        return IntStream.range(0, LANES)
                .mapToLong(lane -> rig.writer
                        .status(MariaBed.id(lane))
                        .orElseThrow()
                        .account()
                        .waiting())
                .sum();
    }

    private static void check(MariaBed bed) throws Exception {
        long rows = 0;
        for (int lane = 0; lane < LANES; lane++) {
            long all = bed.count("SELECT COUNT(*) FROM held" + lane);
            if (all != bed.count("SELECT COUNT(DISTINCT row_id) FROM held" + lane)) {
                throw new IllegalStateException("Rows of held" + lane + " are doubled.");
            }
            rows += all;
        }
        if (rows != HELD) {
            throw new IllegalStateException(rows + " rows are there instead of " + HELD + ".");
        }
    }

    /** The plainest code that does the same work. */
    private static double plain(MariaBed bed, List<RecorderDefinition> plains) throws Exception {
        try (Connection connection = bed.connect()) {
            connection.setAutoCommit(false);
            PreparedStatement[] statements = new PreparedStatement[LANES];
            for (int lane = 0; lane < LANES; lane++) {
                statements[lane] = connection.prepareStatement(MariaBed.insert(plains.get(lane)));
            }
            long from = 0;
            int warm = HELD / 10;
            for (int n = -warm; n < HELD; n++) {
                if (n == 0) {
                    from = System.nanoTime();
                }
                PreparedStatement statement = statements[Math.floorMod(n, LANES)];
                statement.setObject(1, LocalDateTime.now(ZoneOffset.UTC));
                statement.setString(2, new RowId("ffffff", "00000001", 1, (long) n + warm, 0).toString());
                for (int i = 0; i < TAGS; i++) {
                    statement.setDouble(3 + i, n + i * 0.5);
                }
                statement.addBatch();
                if (Math.floorMod(n + 1, LANES * BATCH) == 0) {
                    for (PreparedStatement each : statements) {
                        each.executeBatch();
                        connection.commit();
                    }
                }
            }
            return HELD / ((System.nanoTime() - from) / 1e9);
        }
    }
}
