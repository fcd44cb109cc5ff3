package dachshund.bench;

final class IngestBench implements Bench.Benchmark {
    @Override
    public void run() {
        throw new UnsupportedOperationException();
    }
}
