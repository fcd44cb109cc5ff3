package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.outcome.Outcome;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.When;
import dachshund.links.mariadb.MariaDbKind;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;

/**
 * 500 recorders of 20 tags each at 1 s into 500 tables of MariaDB, for a minute: CPU a row, how late ticks are served beside an
 * idle timer, and whether any tick is skipped. The plain side writes the same rows once a second from one loop.
 */
final class RecordersBench implements Bench.Benchmark {

    private static final int RECORDERS = 500;
    private static final int TAGS = 20;
    private static final int SECONDS = 60;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        double idle = Machine.timerLatenessMillis();
        try (PrivateMariaDb server = new PrivateMariaDb();
                Connection admin = DriverManager.getConnection(server.url(""))) {
            try (Statement statement = admin.createStatement()) {
                statement.execute("CREATE DATABASE bench");
            }
            System.out.printf(
                    "recorders: %d recorders of %d tags at 1 s into %d tables of MariaDB, %d s; then one plain loop that writes the same rows once a second%n",
                    RECORDERS, TAGS, RECORDERS, SECONDS);
            List<RecorderDefinition> designs = new ArrayList<>();
            for (int i = 0; i < RECORDERS; i++) {
                designs.add(design(i));
            }
            Map<String, String> settings = Map.of(
                    "host",
                    "127.0.0.1",
                    "port",
                    Integer.toString(server.port()),
                    "database",
                    "bench",
                    "user",
                    "root",
                    "password",
                    "");
            double[] late;
            double cpu;
            long landed;
            long skipped;
            try (RecorderRig rig =
                    new RecorderRig(folder, MariaDbKind.mariaDb().open(settings), Batching.AT_ONCE, designs)) {
                feed(rig);
                settle(rig);
                long before = rig.book.total(Outcome.LANDED);
                long skippedBefore = rig.book.total(Outcome.SKIPPED);
                long cpuBefore = Machine.processCpuNanos();
                late = watch(rig);
                cpu = Machine.processCpuNanos() - cpuBefore;
                landed = rig.book.total(Outcome.LANDED) - before;
                skipped = rig.book.total(Outcome.SKIPPED) - skippedBefore;
                while (rig.waiting() > RECORDERS) {
                    LockSupport.parkNanos(1_000_000);
                }
            }
            double plainCpu = plain(server, designs);
            Arrays.sort(late);
            double ours = cpu / 1e3 / landed;
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "rows landed %,d of %,d due, ticks skipped %d%n",
                    landed,
                    RECORDERS * SECONDS,
                    skipped);
            System.out.printf(
                    Locale.ROOT, "CPU a row: ours %.1f us, plain %.1f us (this process alone)%n", ours, plainCpu);
            System.out.printf(
                    Locale.ROOT,
                    "lateness of ticks: p50 %.2f ms, p95 %.2f ms, p99 %.2f ms, worst %.2f ms; an idle timer %.3f ms%n",
                    at(late, 0.5),
                    at(late, 0.95),
                    at(late, 0.99),
                    at(late, 1),
                    idle);
            System.out.printf(Locale.ROOT, "steal %.1f %%%s%n", steal, steal > 5 ? ": VOID, above 5 %" : "");
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"recorders\",\"ratio\":%.3f,\"cpu_us_per_row\":%.2f,\"plain_cpu_us_per_row\":%.2f,\"p50_ms\":%.2f,\"p95_ms\":%.2f,\"p99_ms\":%.2f,\"worst_ms\":%.2f,\"idle_timer_ms\":%.3f,\"skipped\":%d,\"landed\":%d,\"steal_percent\":%.1f,\"void\":%b}%n",
                    plainCpu / ours,
                    ours,
                    plainCpu,
                    at(late, 0.5),
                    at(late, 0.95),
                    at(late, 0.99),
                    at(late, 1),
                    idle,
                    skipped,
                    landed,
                    steal,
                    steal > 5);
            count(admin);
        }
    }

    private static void count(Connection admin) throws Exception {
        try (Statement statement = admin.createStatement();
                ResultSet rows = statement.executeQuery("SELECT COUNT(*), COUNT(DISTINCT row_id) FROM bench.r0")) {
            rows.next();
            if (rows.getLong(1) != rows.getLong(2)) {
                throw new IllegalStateException("Rows of r0 are doubled.");
            }
        }
    }

    private static RecorderDefinition design(int number) {
        Layout layout = Layout.proposed();
        for (int i = 0; i < TAGS; i++) {
            layout = layout.plus(Column.of(
                    "v" + i,
                    SqlType.DOUBLE,
                    new ColumnSource.FromTag(new TagRef("s", number + "/" + i), ColumnSource.Aspect.VALUE)));
        }
        return new RecorderDefinition(
                String.format("%08x", number + 1),
                "r" + number,
                "",
                List.of(new When.Every(Duration.ofSeconds(1))),
                layout,
                List.of(new Where("dest", "r" + number, new Upkeep(true, false), false)));
    }

    private static void feed(RecorderRig rig) {
        Instant now = rig.clock.now();
        List<TagChange> all = new ArrayList<>();
        for (int n = 0; n < RECORDERS; n++) {
            for (int i = 0; i < TAGS; i++) {
                all.add(new TagChange(n + "/" + i, TagValue.good(n + i * 0.25, now)));
            }
        }
        rig.tags.offer("s", all);
    }

    /** Until the tables are made and rows land as they come. */
    private static void settle(RecorderRig rig) throws InterruptedException {
        long until = System.nanoTime() + 120_000_000_000L;
        Thread.sleep(3000);
        while (rig.waiting() > RECORDERS && System.nanoTime() < until) {
            Thread.sleep(100);
        }
        Thread.sleep(10_000); // the compiler has seen the path by then
    }

    /** Looks at how late each recorder was served, once a second, half a second after the tick. */
    private static double[] watch(RecorderRig rig) throws InterruptedException {
        double[] late = new double[RECORDERS * SECONDS];
        int at = 0;
        for (int second = 0; second < SECONDS; second++) {
            Thread.sleep(1000 - (System.currentTimeMillis() + 500) % 1000);
            for (int n = 0; n < RECORDERS; n++) {
                late[at++] = rig.recorders
                                .find(String.format("%08x", n + 1))
                                .orElseThrow()
                                .lateness()
                                .toNanos()
                        / 1e6;
            }
        }
        return late;
    }

    private static double plain(PrivateMariaDb server, List<RecorderDefinition> designs) throws Exception {
        try (Connection connection = DriverManager.getConnection(server.url("bench") + "&timezone=UTC")) {
            PreparedStatement[] statements = new PreparedStatement[RECORDERS];
            for (int n = 0; n < RECORDERS; n++) {
                statements[n] = connection.prepareStatement(MariaDbKind.mariaDb()
                        .dialect()
                        .insert("r" + n, designs.get(n).layout()));
            }
            connection.setAutoCommit(false);
            long cpu = 0;
            int rounds = 20;
            for (int round = -5; round < rounds; round++) {
                Thread.sleep(1000);
                long from = Machine.processCpuNanos();
                for (int n = 0; n < RECORDERS; n++) {
                    statements[n].setObject(1, LocalDateTime.now(ZoneOffset.UTC));
                    statements[n].setString(2, String.format("ffffff-%08x-%08x-0000000000-0000", n, round + 5));
                    for (int i = 0; i < TAGS; i++) {
                        statements[n].setDouble(3 + i, n + i * 0.25);
                    }
                    statements[n].executeUpdate();
                }
                connection.commit();
                cpu += round < 0 ? 0 : Machine.processCpuNanos() - from;
            }
            return cpu / 1e3 / (rounds * (double) RECORDERS);
        }
    }

    private static double at(double[] sorted, double part) {
        return sorted[(int) Math.min(sorted.length - 1, Math.ceil(part * sorted.length) - 1)];
    }
}
