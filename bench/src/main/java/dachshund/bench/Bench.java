package dachshund.bench;

import dachshund.drill.Drill;
import java.util.Arrays;
import java.util.Map;

/** Runs a benchmark, or a drill, by its name. */
public final class Bench {

    private static final Map<String, Benchmark> BENCHMARKS = Map.ofEntries(
            Map.entry("ingest", new IngestBench()),
            Map.entry("drain", new DrainBench()),
            Map.entry("recorders", new RecordersBench()),
            Map.entry("fast", new FastBench()),
            Map.entry("latency", new LatencyBench()),
            Map.entry("memory", new MemoryBench()),
            Map.entry("open", new OpenBench()),
            Map.entry("csv", new CsvBench()),
            Map.entry("tags", TagsBench.tags()),
            Map.entry("change", TagsBench.change()),
            Map.entry("modbus", new ModbusBench()),
            Map.entry("people", new PeopleBench()),
            Map.entry("trend", new TrendBench()),
            Map.entry("transaction", new TransactionBench()),
            Map.entry("ledger", new LedgerBench()),
            Map.entry("definitions", new DefinitionsBench()),
            Map.entry("aggregate", new AggregateBench()),
            Map.entry("archive", new ArchiveBench()),
            Map.entry("plot", new PlotBench()),
            Map.entry("export", new ExportBench()),
            Map.entry("query", new QueryBench()));

    /** One benchmark: prints a table for people and, last, one JSON line for programs. */
    interface Benchmark {
        void run() throws Exception;
    }

    private Bench() {}

    public static void main(String[] args) throws Exception {
        if (args.length > 0 && args[0].equals("drill")) {
            Drill.main(Arrays.copyOfRange(args, 1, args.length));
        }
        if (args.length > 1 && args[0].startsWith("side-")) {
            side(
                    args[0],
                    Arrays.stream(args).skip(1).mapToInt(Integer::parseInt).toArray());
            System.exit(0);
        }
        if (args.length != 1 || !BENCHMARKS.containsKey(args[0])) {
            System.err.println("Name one of: " + String.join(", ", BENCHMARKS.keySet()));
            System.exit(2);
        }
        BENCHMARKS.get(args[0]).run();
        System.exit(0);
    }

    /** A side of a benchmark, started by the benchmark itself. */
    private static void side(String name, int[] numbers) throws Exception {
        switch (name) {
            case "side-server" -> OpcUaSides.server(numbers[0], numbers[1], numbers[2], numbers[3]);
            case "side-bare" -> OpcUaSides.bare(numbers[0], numbers[1], numbers[2], numbers[3]);
            case "side-ours" -> OpcUaSides.ours(numbers[0], numbers[1], numbers[2], numbers[3]);
            default -> throw new IllegalArgumentException("There is no side " + name);
        }
    }
}
