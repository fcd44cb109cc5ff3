package dachshund.bench;

import dachshund.core.modbus.ModbusPoint;
import dachshund.core.modbus.ReadPlan;
import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.links.modbus.ModbusKind;
import dachshund.standins.PrivateProcess;
import dachshund.standins.modbus.MeterServer;
import dachshund.standins.plant.PelletWorks;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * A sparse map of 500 registers over four units: requests needed, against the fewest possible (computed by trying every
 * cut of the sorted points) and against one request a register; and a whole round over a real socket.
 */
final class ModbusBench implements Bench.Benchmark {

    private static final int REGISTERS = 500;
    private static final int ROUNDS = 15;
    private static final Duration LIMIT = Duration.ofSeconds(5);

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        List<TagInfo> tags = map(new Random(42));
        List<ModbusPoint> points =
                tags.stream().map(tag -> ModbusPoint.read(tag.how())).toList();
        ReadPlan.Limits limits = ReadPlan.Limits.USUAL;
        int ours = ReadPlan.of(points, limits).size();
        int fewest = fewest(points, limits);
        int port = PrivateProcess.freePort();
        double[] grouped = new double[ROUNDS];
        double[] single = new double[ROUNDS];
        try (MeterServer server = MeterServer.start(port, false, new PelletWorks(7, Instant.now()).meters());
                PlantLink together = link(port, "8");
                PlantLink alone = link(port, "0")) {
            for (int i = 0; i < ROUNDS; i++) {
                grouped[i] = millis(() -> together.read(tags, LIMIT));
                single[i] = millis(() -> {
                    for (TagInfo tag : tags) {
                        alone.read(List.of(tag), LIMIT);
                    }
                });
            }
        }
        double steal = machine.stealPercent();
        System.out.printf(
                Locale.ROOT,
                "modbus: %d registers (16 and 32 bit) over 4 units, gap up to %d, %d registers a request%n",
                REGISTERS,
                limits.gap(),
                limits.registers());
        System.out.printf(
                Locale.ROOT,
                "%-34s %6d requests%n%-34s %6d requests%n%-34s %6d requests%n",
                "ours",
                ours,
                "fewest possible",
                fewest,
                "one for each",
                points.size());
        System.out.printf(
                Locale.ROOT,
                "reading all once, one request after the other: without gaps joined %.1f ms, one for each %.1f ms; steal %.1f %%%s%n",
                Machine.median(grouped),
                Machine.median(single),
                steal,
                steal > 5 ? " (times VOID; the counts hold)" : "");
        System.out.printf(
                Locale.ROOT,
                "{\"bench\": \"modbus\", \"ratio\": %.3f, \"requests\": %d, \"fewest\": %d, \"single\": %d, \"round_ms\": %.1f, \"single_ms\": %.1f, \"steal_percent\": %.1f}%n",
                (double) fewest / ours,
                ours,
                fewest,
                points.size(),
                Machine.median(grouped),
                Machine.median(single),
                steal);
    }

    private interface Work {
        void run() throws Exception;
    }

    private static double millis(Work work) throws Exception {
        long from = System.nanoTime();
        work.run();
        return (System.nanoTime() - from) / 1e6;
    }

    private static PlantLink link(int port, String gap) {
        return new ModbusKind()
                .open(new LinkKind.Opening(
                        "a0000001",
                        Map.of("host", "127.0.0.1", "port", Integer.toString(port), "gap", gap),
                        Duration.ofSeconds(1),
                        Instant::now));
    }

    private static List<TagInfo> map(Random random) {
        List<TagInfo> tags = new ArrayList<>();
        int address = 0;
        for (int i = 0; i < REGISTERS; i++) {
            if (i % 125 == 0) {
                address = 0;
            }
            String type = random.nextInt(3) == 0 ? "float32" : "uint16";
            address += random.nextInt(5) == 0 ? random.nextInt(60) : random.nextInt(6);
            tags.add(new TagInfo("t" + i, "", "t" + i, DataKind.NUMBER, "", "", false)
                    .withHow(Map.of(
                            "unit_id",
                            Integer.toString(1 + i / 125),
                            "table",
                            "holding",
                            "register",
                            Integer.toString(address),
                            "type",
                            type)));
            address += type.equals("float32") ? 2 : 1;
        }
        return tags;
    }

    /** By dynamic programming over every place where the sorted points of a unit can be cut. */
    private static int fewest(List<ModbusPoint> all, ReadPlan.Limits limits) {
        int sum = 0;
        for (List<ModbusPoint> points : all.stream()
                .collect(Collectors.groupingBy(ModbusPoint::unit, TreeMap::new, Collectors.toList()))
                .values()) {
            List<ModbusPoint> sorted = points.stream()
                    .sorted(Comparator.comparingInt(ModbusPoint::address))
                    .toList();
            int[] best = new int[sorted.size() + 1];
            Arrays.fill(best, Integer.MAX_VALUE / 2);
            best[0] = 0;
            for (int from = 0; from < sorted.size(); from++) {
                int end = sorted.get(from).end();
                for (int to = from; to < sorted.size(); to++) {
                    if (sorted.get(to).address() - end > limits.gap()) {
                        break;
                    }
                    end = Math.max(end, sorted.get(to).end());
                    if (end - sorted.get(from).address() > limits.registers()) {
                        break;
                    }
                    best[to + 1] = Math.min(best[to + 1], best[from] + 1);
                }
            }
            sum += best[sorted.size()];
        }
        return sum;
    }
}
