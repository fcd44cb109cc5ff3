package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.outcome.Outcome;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
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
 * 2,000 recorders of 20 tags each at 1 s into 2,000 tables of MariaDB, for a minute, with rows written as they come, once they are
 * a second old, and once they are ten seconds old: CPU a row of this process and of the server, how late ticks are served beside an
 * idle timer, and whether any tick is skipped. The plain side writes the same rows from one loop, a row or ten rows a table.
 */
final class RecordersBench implements Bench.Benchmark {

    private static final int RECORDERS = Integer.getInteger("bench.recorders", 2_000);
    private static final int TAGS = 20;
    private static final int SECONDS = 60;
    private static final int TEN = 10;

    /** CPU in microseconds a row, of this process and of the server. */
    private record Cpu(double here, double there) {

        static Cpu since(long here, long there, MariaBed bed, double rows) {
            return new Cpu((Machine.processCpuNanos() - here) / 1e3 / rows, (bed.cpuNanos() - there) / 1e3 / rows);
        }

        String words() {
            return String.format(Locale.ROOT, "%.1f us here, %.1f us in the server", here, there);
        }
    }

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        double idle = Machine.timerLatenessMillis();
        System.out.printf(
                "recorders: %d recorders of %d tags at 1 s into %d tables of MariaDB, %d s; buffer pool 256 MB%n",
                RECORDERS, TAGS, RECORDERS, SECONDS);
        StringBuilder json = new StringBuilder("{\"bench\":\"recorders\"");
        try (MariaBed bed = new MariaBed()) {
            for (int seconds : new int[] {0, 1, TEN}) {
                json.append(ours(bed, folder.resolve("by" + seconds), seconds, idle));
            }
            List<RecorderDefinition> plains = designs("plain");
            for (RecorderDefinition plain : plains) {
                bed.create(plain);
            }
            for (int rows : new int[] {1, TEN}) {
                Cpu cpu = plain(bed, plains, rows);
                System.out.printf("plain, %d a table and transaction: CPU a row %s%n", rows, cpu.words());
                json.append(String.format(
                        Locale.ROOT,
                        ",\"plain_%d_us\":%.1f,\"plain_%d_server_us\":%.1f",
                        rows,
                        cpu.here(),
                        rows,
                        cpu.there()));
            }
        }
        double steal = machine.stealPercent();
        System.out.printf(Locale.ROOT, "steal %.1f %%%s%n", steal, steal > 5 ? ": VOID, above 5 %" : "");
        System.out.println(
                json.append(String.format(Locale.ROOT, ",\"steal_percent\":%.1f,\"void\":%b}", steal, steal > 5)));
    }

    private static List<RecorderDefinition> designs(String name) {
        return IntStream.range(0, RECORDERS)
                .mapToObj(n -> MariaBed.recorder(n, name + n, TAGS, new When.Every(Duration.ofSeconds(1))))
                .toList();
    }

    private static String ours(MariaBed bed, Path folder, int seconds, double idle) throws Exception {
        String name = "by" + seconds + "_";
        Batching batching = new Batching(1000, Duration.ofSeconds(seconds));
        Percentiles late = new Percentiles();
        Cpu cpu;
        long landed;
        long skipped;
        try (RecorderRig rig = new RecorderRig(folder, bed.open(), batching, designs(name))) {
            feed(rig);
            settle(bed, name, seconds);
            long before = rig.book.total(Outcome.LANDED);
            long skippedBefore = rig.book.total(Outcome.SKIPPED);
            long here = Machine.processCpuNanos();
            long there = bed.cpuNanos();
            watch(rig, late);
            landed = rig.book.total(Outcome.LANDED) - before;
            skipped = rig.book.total(Outcome.SKIPPED) - skippedBefore;
            cpu = Cpu.since(here, there, bed, (double) landed);
            for (int n = 0; n < RECORDERS; n++) {
                rig.recorders.stop(MariaBed.id(n), "bench", "over");
            }
            while (rig.waiting() > 0) {
                LockSupport.parkNanos(1_000_000);
            }
        }
        for (int n = 0; n < RECORDERS; n += RECORDERS / TEN) {
            if (bed.count("SELECT COUNT(*) - COUNT(DISTINCT row_id) FROM " + name + n) != 0) {
                throw new IllegalStateException("Rows of " + name + n + " are doubled.");
            }
        }
        String when = seconds == 0 ? "as they come" : "after " + seconds + " s";
        System.out.printf(
                "ours, written %s: rows landed %,d of %,d due, ticks skipped %d; CPU a row %s%n   lateness of ticks %s; an idle timer %.3f ms%n",
                when, landed, RECORDERS * SECONDS, skipped, cpu.words(), late.words(), idle);
        return String.format(
                Locale.ROOT,
                ",\"by%d_us\":%.1f,\"by%d_server_us\":%.1f,\"by%d_p99_ms\":%.2f,\"by%d_worst_ms\":%.2f,\"by%d_skipped\":%d,\"by%d_landed\":%d",
                seconds,
                cpu.here(),
                seconds,
                cpu.there(),
                seconds,
                late.at(0.99),
                seconds,
                late.at(1),
                seconds,
                skipped,
                seconds,
                landed);
    }

    private static void feed(RecorderRig rig) {
        Instant now = rig.clock.now();
        List<TagChange> all = new ArrayList<>();
        for (int n = 0; n < RECORDERS; n++) {
            for (int i = 0; i < TAGS; i++) {
                all.add(new TagChange(MariaBed.tag(n, i).address(), TagValue.good(n + i * 0.25, now)));
            }
        }
        rig.tags.offer(MariaBed.SOURCE, all);
    }

    /** Until every table is made and has rows, and the compiler has seen the path. */
    private static void settle(MariaBed bed, String name, int seconds) throws Exception {
        long made = 0;
        for (int second = 0; second < 300 && made < RECORDERS; second++) {
            Thread.sleep(1000);
            made = bed.count(
                    "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = 'bench' AND table_name LIKE '"
                            + name.replace("_", "\\_") + "%'");
        }
        Thread.sleep(15_000 + 1000L * seconds);
    }

    /** Looks at how late each recorder was served, once a second, half a second after the tick. */
    private static void watch(RecorderRig rig, Percentiles late) throws InterruptedException {
        for (int second = 0; second < SECONDS; second++) {
            Thread.sleep(1000 - (System.currentTimeMillis() + 500) % 1000);
            for (int n = 0; n < RECORDERS; n++) {
                late.add(rig.recorders
                                .find(MariaBed.id(n))
                                .orElseThrow()
                                .lateness()
                                .toNanos()
                        / 1e6);
            }
        }
    }

    /** The plainest code that does the same work: a round writes so many rows into each table, in one transaction. */
    private static Cpu plain(MariaBed bed, List<RecorderDefinition> designs, int rowsEach) throws Exception {
        try (Connection connection = bed.connect()) {
            connection.setAutoCommit(false);
            PreparedStatement[] statements = new PreparedStatement[RECORDERS];
            for (int n = 0; n < RECORDERS; n++) {
                statements[n] = connection.prepareStatement(MariaBed.insert(designs.get(n)));
            }
            int warm = 3;
            int rounds = rowsEach == 1 ? 20 : 6;
            long here = 0;
            long there = 0;
            for (int round = -warm; round < rounds; round++) {
                Thread.sleep(1000);
                if (round == 0) {
                    here = Machine.processCpuNanos();
                    there = bed.cpuNanos();
                }
                for (int n = 0; n < RECORDERS; n++) {
                    for (int row = 0; row < rowsEach; row++) {
                        statements[n].setObject(1, LocalDateTime.now(ZoneOffset.UTC));
                        statements[n].setString(
                                2, String.format("ffffff-%08x-%08x-%010x-%04x", n, rowsEach, round + warm, row));
                        for (int i = 0; i < TAGS; i++) {
                            statements[n].setDouble(3 + i, n + i * 0.25);
                        }
                        statements[n].addBatch();
                    }
                    statements[n].executeBatch();
                }
                connection.commit();
            }
            return Cpu.since(here, there, bed, rounds * (double) RECORDERS * rowsEach);
        }
    }
}
