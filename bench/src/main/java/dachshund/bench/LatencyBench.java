package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
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
import java.util.concurrent.locks.LockSupport;
import java.util.stream.IntStream;

/**
 * From the change of a tag to the commit of its row, at 5,000 rows a second of ten recorders into ten tables of MariaDB, for a
 * minute; beside one bare insert and its commit, on the same server in the same run. A row is sent when the journal is forced,
 * which is every 100 ms.
 */
final class LatencyBench implements Bench.Benchmark {

    private static final int PER_SECOND = 5_000;
    private static final int LANES = 10;
    private static final int WARM_UP_SECONDS = 15;
    private static final int SECONDS = 60;
    private static final int TAGS = 4;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        try (MariaBed bed = new MariaBed()) {
            System.out.printf(
                    "latency: %,d rows a second of %d recorders (%d numbers each) into %d tables of MariaDB, %d s after %d s%n",
                    PER_SECOND, LANES, TAGS, LANES, SECONDS, WARM_UP_SECONDS);
            Percentiles bare = plain(bed);
            List<RecorderDefinition> designs = IntStream.range(0, LANES)
                    .mapToObj(n -> MariaBed.recorder(
                            n,
                            "r" + n,
                            TAGS,
                            new When.OnChange(
                                    Deadband.NONE, List.of(MariaBed.tag(n, 0)), Duration.ZERO, Duration.ZERO)))
                    .toList();
            Tap tap = new Tap(bed.open());
            Percentiles ours = new Percentiles();
            int sent = PER_SECOND * (WARM_UP_SECONDS + SECONDS);
            try (RecorderRig rig = new RecorderRig(folder, tap.store(), Batching.AT_ONCE, designs)) {
                for (int lane = 0; lane < LANES; lane++) {
                    change(rig, lane, -1);
                }
                Instant counts = rig.clock.now().plusSeconds(WARM_UP_SECONDS);
                tap.onCommit(batches -> {
                    synchronized (ours) {
                        Instant now = rig.clock.now();
                        batches.forEach(batch -> batch.rows().stream()
                                .filter(row -> row.recordTime().isAfter(counts))
                                .forEach(row -> ours.add(
                                        Duration.between(row.recordTime(), now).toNanos() / 1e6)));
                    }
                });
                long from = System.nanoTime();
                for (int n = 0; n < sent; n++) {
                    long due = from + n * 1_000_000_000L / PER_SECOND;
                    while (System.nanoTime() < due) {
                        LockSupport.parkNanos(due - System.nanoTime());
                    }
                    change(rig, n % LANES, n);
                }
                while (rig.waiting() > 0) {
                    LockSupport.parkNanos(1_000_000);
                }
            }
            long rows = 0;
            for (int lane = 0; lane < LANES; lane++) {
                rows += bed.count("SELECT COUNT(DISTINCT row_id) FROM r" + lane);
            }
            if (rows != sent) {
                throw new IllegalStateException(rows + " rows are there instead of " + sent + ".");
            }
            double steal = machine.stealPercent();
            System.out.printf("change to commit: %s%none bare insert:  %s%n", ours.words(), bare.words());
            System.out.printf(
                    Locale.ROOT,
                    "steal %.1f %%%s%n{\"bench\":\"latency\",\"ratio\":%.1f,\"p50_ms\":%.2f,\"p95_ms\":%.2f,\"p99_ms\":%.2f,\"worst_ms\":%.2f,\"plain_p50_ms\":%.2f,\"plain_p99_ms\":%.2f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "",
                    ours.at(0.5) / bare.at(0.5),
                    ours.at(0.5),
                    ours.at(0.95),
                    ours.at(0.99),
                    ours.at(1),
                    bare.at(0.5),
                    bare.at(0.99),
                    steal,
                    steal > 5);
        }
    }

    private static void change(RecorderRig rig, int lane, long value) {
        Instant now = rig.clock.now();
        List<TagChange> batch = new ArrayList<>(TAGS);
        for (int i = 0; i < TAGS; i++) {
            batch.add(new TagChange(MariaBed.tag(lane, i).address(), TagValue.good(value + i * 0.5, now)));
        }
        rig.tags.offer(MariaBed.SOURCE, batch);
    }

    private static Percentiles plain(MariaBed bed) throws Exception {
        RecorderDefinition design = MariaBed.recorder(0, "plain", TAGS, new When.Every(Duration.ofSeconds(1)));
        bed.create(design);
        Percentiles times = new Percentiles();
        try (Connection connection = bed.connect();
                PreparedStatement statement = connection.prepareStatement(MariaBed.insert(design))) {
            connection.setAutoCommit(false);
            for (int n = 0; n < 5_000; n++) {
                long from = System.nanoTime();
                statement.setObject(1, LocalDateTime.now(ZoneOffset.UTC));
                statement.setString(2, new RowId("ffffff", "00000001", 1, n, 0).toString());
                for (int i = 0; i < TAGS; i++) {
                    statement.setDouble(3 + i, n + i * 0.5);
                }
                statement.executeUpdate();
                connection.commit();
                if (n >= 1_000) {
                    times.add((System.nanoTime() - from) / 1e6);
                }
            }
        }
        return times;
    }
}
