package dachshund.bench;

import java.util.Map;

/** Runs a benchmark by its name. */
public final class Bench {

    private static final Map<String, Benchmark> BENCHMARKS = Map.of("ingest", new IngestBench());

    /** One benchmark: prints a table for people and, last, one JSON line for programs. */
    interface Benchmark {
        void run() throws Exception;
    }

    private Bench() {
    }

    public static void main(String[] args) throws Exception {
        if (args.length != 1 || !BENCHMARKS.containsKey(args[0])) {
            System.err.println("Name one of: " + String.join(", ", BENCHMARKS.keySet()));
            System.exit(2);
        }
        BENCHMARKS.get(args[0]).run();
        System.exit(0);
    }
}
