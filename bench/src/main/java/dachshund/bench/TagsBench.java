package dachshund.bench;

import com.fasterxml.jackson.databind.JsonNode;
import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.function.ToDoubleFunction;

/**
 * Changes from an OPC UA server up to the tag table, beside a bare client of the same library that only counts. Both
 * clients and the server are processes of their own; the clients take turns, several times.
 */
final class TagsBench implements Bench.Benchmark {

    private final String name;
    private final int tags;
    private final int perSecond;
    private final int tickMillis;
    private final int rateMillis;

    /** 50,000 tags that change once a second: CPU for a change, memory, and whether it keeps up. */
    static TagsBench tags() {
        return new TagsBench("tags", 50_000, 50_000, 100, 1000);
    }

    /** 5,000 changes a second, pushed every 10 ms: how long a change takes to the tag table. */
    static TagsBench change() {
        return new TagsBench("change", 5_000, 5_000, 10, 20);
    }

    private TagsBench(String name, int tags, int perSecond, int tickMillis, int rateMillis) {
        this.name = name;
        this.tags = tags;
        this.perSecond = perSecond;
        this.tickMillis = tickMillis;
        this.rateMillis = rateMillis;
    }

    private static final int ROUNDS = 3;
    private static final int SLICES = 5;

    private record Turn(List<JsonNode> slices, long missing) {}

    private static Turn turn(String side, int port, int tags, int rateMillis) throws IOException {
        try (Side client = Side.start("-Xmx1500m", "side-" + side, port, tags, rateMillis, SLICES)) {
            client.next();
            List<JsonNode> slices = new ArrayList<>();
            for (int i = 0; i < SLICES; i++) {
                slices.add(client.next());
            }
            return new Turn(
                    slices, side.equals("ours") ? client.next().get("missing").asLong() : 0);
        }
    }

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        int port = PrivateProcess.freePort();
        List<JsonNode> bare = new ArrayList<>();
        List<JsonNode> ours = new ArrayList<>();
        long missing = 0;
        System.out.printf(
                Locale.ROOT,
                "%s: %,d tags over OPC UA on loopback, %,d changes a second, asked for every %d ms; %d turns of %d slices of 5 s a side%n",
                name,
                tags,
                perSecond,
                rateMillis,
                ROUNDS,
                SLICES);
        try (Side server = Side.start("-Xmx2g", "side-server", port, tags, perSecond, tickMillis)) {
            server.next();
            for (int round = 0; round < ROUNDS; round++) {
                bare.addAll(turn("bare", port, tags, rateMillis).slices());
                Turn turn = turn("ours", port, tags, rateMillis);
                ours.addAll(turn.slices());
                missing += turn.missing();
            }
        }
        double steal = machine.stealPercent();
        System.out.printf(
                Locale.ROOT,
                "%n%-8s %12s %14s %10s %9s %9s",
                "",
                "changes/s",
                "CPU µs/change",
                "cores",
                "heap MB",
                "RSS MB");
        System.out.println(
                rateMillis < 1000 ? String.format(" %8s %8s %8s %8s", "p50 ms", "p95 ms", "p99 ms", "max ms") : "");
        line("bare", bare);
        line("ours", ours);
        double ratio = median(bare, "cpuMicros") / median(ours, "cpuMicros");
        double more = median(ours, "cpuMicros") - median(bare, "cpuMicros");
        double overflows = max(ours, "overflows");
        double timer = Machine.timerLatenessMillis();
        System.out.printf(
                Locale.ROOT,
                "%nratio of CPU bare/ours %.2f, %.2f µs more for a change; queue overflows %.0f, tags without a value %d; idle timer %.3f ms late; steal %.1f %%%s%n",
                ratio,
                more,
                overflows,
                missing,
                timer,
                steal,
                steal > 5 ? ": VOID, the hypervisor took too much" : "");
        System.out.printf(
                Locale.ROOT,
                "{\"bench\": \"%s\", \"ratio\": %.3f, \"cpu_us_bare\": %.2f, \"cpu_us_ours\": %.2f, \"more_us\": %.2f, \"per_second\": %.0f, \"cores\": %.2f, \"heap_mb\": %.0f, \"rss_mb\": %.0f, "
                        + "\"p50_ms\": %.2f, \"p99_ms\": %.2f, \"bare_p50_ms\": %.2f, \"bare_p99_ms\": %.2f, \"timer_ms\": %.3f, \"overflows\": %.0f, \"missing\": %d, \"steal_percent\": %.1f, \"void\": %b}%n",
                name,
                ratio,
                median(bare, "cpuMicros"),
                median(ours, "cpuMicros"),
                more,
                median(ours, "perSecond"),
                median(ours, "cpuShare"),
                max(ours, "heapMb"),
                max(ours, "rssMb"),
                median(ours, "p50"),
                median(ours, "p99"),
                median(bare, "p50"),
                median(bare, "p99"),
                timer,
                overflows,
                missing,
                steal,
                steal > 5);
    }

    private void line(String side, List<JsonNode> slices) {
        System.out.printf(
                Locale.ROOT,
                "%-8s %,12.0f %14.2f %10.2f %9.0f %9.0f",
                side,
                median(slices, "perSecond"),
                median(slices, "cpuMicros"),
                median(slices, "cpuShare"),
                max(slices, "heapMb"),
                max(slices, "rssMb"));
        System.out.println(
                rateMillis < 1000
                        ? String.format(
                                Locale.ROOT,
                                " %8.2f %8.2f %8.2f %8.2f",
                                median(slices, "p50"),
                                median(slices, "p95"),
                                median(slices, "p99"),
                                max(slices, "max"))
                        : "");
    }

    private static double[] all(List<JsonNode> slices, ToDoubleFunction<JsonNode> figure) {
        return slices.stream().mapToDouble(figure).toArray();
    }

    private static double median(List<JsonNode> slices, String figure) {
        return Machine.median(all(slices, slice -> slice.get(figure).asDouble()));
    }

    private static double max(List<JsonNode> slices, String figure) {
        return Arrays.stream(all(slices, slice -> slice.get(figure).asDouble()))
                .max()
                .orElse(0);
    }
}
