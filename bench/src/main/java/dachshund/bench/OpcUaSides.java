package dachshund.bench;

import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.source.Sources;
import dachshund.engine.tag.TagTable;
import dachshund.links.opcua.OpcUaKind;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.standins.opcua.ManyTagsServer;
import java.lang.management.ManagementFactory;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.LongAdder;
import java.util.function.LongSupplier;
import java.util.stream.IntStream;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaMonitoredItem;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaSubscription;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExpandedNodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;

/** The sides of the benchmarks over OPC UA: the server, the bare client that only counts, and ours up to the tag table. */
final class OpcUaSides {

    private static final int SLICE_SECONDS = 5;
    private static final int LATENCIES = 1_000_000;

    /**
     * What a client did in a slice of time.
     *
     * @param cpuMicros of its whole process for one change
     * @param p50       latency from the push to the arrival, in milliseconds; -1 where it was not measured
     */
    public record Slice(
            double perSecond,
            double cpuMicros,
            double cpuShare,
            double heapMb,
            double rssMb,
            double p50,
            double p95,
            double p99,
            double max,
            long overflows) {}

    private OpcUaSides() {}

    static void server(int port, int tags, int perSecond, int tickMillis) throws Exception {
        ManyTagsServer server = new ManyTagsServer(port, tags, perSecond, tickMillis);
        Side.say(System.out, Map.of("ready", true));
        while (true) {
            long before = server.pushed();
            Thread.sleep(1000);
            Side.say(System.out, Map.of("pushed", server.pushed() - before));
        }
    }

    /** Latencies of one slice, without making garbage. */
    private static final class Latencies {
        private final float[] millis = new float[LATENCIES];
        private final AtomicInteger size = new AtomicInteger();

        void add(Instant from, Instant to) {
            int at = size.getAndIncrement();
            if (at < LATENCIES) {
                millis[at] = Duration.between(from, to).toNanos() / 1e6f;
            }
        }

        float[] take() {
            float[] taken = Arrays.copyOf(millis, Math.min(LATENCIES, size.getAndSet(0)));
            Arrays.sort(taken);
            return taken;
        }
    }

    private static double percentile(float[] sorted, double share) {
        return sorted.length == 0 ? -1 : sorted[(int) Math.min(sorted.length - 1, Math.floor(sorted.length * share))];
    }

    private static void slices(int count, LongSupplier changes, LongSupplier overflows, Latencies latencies)
            throws Exception {
        long steady = changes.getAsLong();
        for (int wait = 0; wait < 120; wait++) { // until changes flow at a steady pace
            Thread.sleep(1000);
            long now = changes.getAsLong();
            if (wait > 8 && now - steady > 100) {
                break;
            }
            steady = now;
        }
        Thread.sleep(10_000);
        Side.say(System.out, Map.of("ready", true));
        latencies.take();
        for (int i = 0; i < count; i++) {
            long cpu = Machine.processCpuNanos();
            long before = changes.getAsLong();
            long from = System.nanoTime();
            Thread.sleep(SLICE_SECONDS * 1000L);
            double seconds = (System.nanoTime() - from) / 1e9;
            long seen = changes.getAsLong() - before;
            double cpuNanos = Machine.processCpuNanos() - cpu;
            float[] sorted = latencies.take();
            Side.say(
                    System.out,
                    new Slice(
                            seen / seconds,
                            cpuNanos / 1000 / Math.max(1, seen),
                            cpuNanos / 1e9 / seconds,
                            heap(),
                            rss(),
                            percentile(sorted, 0.5),
                            percentile(sorted, 0.95),
                            percentile(sorted, 0.99),
                            percentile(sorted, 1),
                            overflows.getAsLong()));
        }
    }

    private static double heap() {
        return ManagementFactory.getMemoryMXBean().getHeapMemoryUsage().getUsed() / 1e6;
    }

    private static double rss() throws Exception {
        return Files.readAllLines(Path.of("/proc/self/status")).stream()
                .filter(line -> line.startsWith("VmRSS"))
                .mapToDouble(line -> Double.parseDouble(line.replaceAll("\\D", "")) / 1000)
                .findFirst()
                .orElse(0);
    }

    /** The same library, the same subscription; counts and does nothing else. */
    static void bare(int port, int tags, int rateMillis, int slices) throws Exception {
        OpcUaClient client = OpcUaClient.create("opc.tcp://127.0.0.1:" + port);
        client.connect();
        OpcUaSubscription subscription = new OpcUaSubscription(client, rateMillis);
        LongAdder changes = new LongAdder();
        LongAdder overflows = new LongAdder();
        Latencies latencies = new Latencies();
        boolean timed = rateMillis < 1000;
        subscription.setSubscriptionListener(new OpcUaSubscription.SubscriptionListener() {
            @Override
            public void onDataReceived(OpcUaSubscription from, List<OpcUaMonitoredItem> items, List<DataValue> values) {
                changes.add(values.size());
                if (timed) {
                    Instant now = Instant.now();
                    values.forEach(value -> latencies.add(
                            value.getSourceTime() == null
                                    ? now
                                    : value.getSourceTime().getJavaInstant(),
                            now));
                }
            }
        });
        subscription.create();
        List<OpcUaMonitoredItem> items = new ArrayList<>();
        for (int i = 0; i < tags; i++) {
            OpcUaMonitoredItem item = OpcUaMonitoredItem.newDataItem(
                    ExpandedNodeId.parse(ManyTagsServer.address(i)).toNodeIdOrThrow(client.getNamespaceTable()));
            item.setSamplingInterval(rateMillis);
            item.setQueueSize(Unsigned.uint(10));
            items.add(item);
        }
        subscription.addMonitoredItems(items);
        subscription.synchronizeMonitoredItems();
        slices(slices, changes::sum, overflows::sum, latencies);
    }

    /** Ours, from the link to the tag table, with a watcher on every tag where latencies are wanted. */
    static void ours(int port, int tags, int rateMillis, int slices) throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        SystemClock clock = new SystemClock();
        TagTable table = new TagTable(clock);
        LocalStore local = new LocalStore(folder.resolve("local.db"));
        Sources sources = new Sources(
                List.of(new OpcUaKind(new OpcUaTrust(folder))),
                new Seals(new SecretBox(new byte[32])),
                dachshund.core.reach.Outside.ANYWHERE,
                table,
                clock,
                local);
        List<TagInfo> infos = IntStream.range(0, tags)
                .mapToObj(i -> new TagInfo(
                        ManyTagsServer.address(i), "Area " + i / 1000, "Value " + i, DataKind.NUMBER, "", "", false))
                .toList();
        Latencies latencies = new Latencies();
        if (rateMillis < 1000) {
            table.watch(
                    infos.stream()
                            .map(tag -> new TagRef("a0000001", tag.address()))
                            .toList(),
                    changes -> {
                        Instant now = clock.now();
                        changes.forEach(change -> latencies.add(change.value().sourceTime(), now));
                    });
        }
        sources.changeover(
                List.of(new SourceDefinition(
                        "a0000001",
                        "Many",
                        "",
                        "opcua",
                        Map.of("address", "opc.tcp://127.0.0.1:" + port),
                        Duration.ofMillis(rateMillis),
                        infos)),
                new Plant("bench", ZoneOffset.UTC, List.of()));
        slices(
                slices,
                table::changes,
                () -> sources.find("a0000001").orElseThrow().health().counts().get("queue overflows"),
                latencies);
        long missing = infos.stream()
                .filter(tag -> !table.entry(new TagRef("a0000001", tag.address()))
                        .value()
                        .arrived())
                .count();
        Side.say(System.out, Map.of("missing", missing));
        sources.close();
        local.close();
    }
}
