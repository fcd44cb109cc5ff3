package dachshund.bench;

import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Arrays;
import java.util.concurrent.locks.LockSupport;

/** What the machine itself can do, printed beside every result: steal, the cost of a bare fsync, an idle timer's lateness. */
final class Machine {

    private final long[] before = cpuTicks();

    private static long[] cpuTicks() {
        try {
            String first = Files.readAllLines(Path.of("/proc/stat")).get(0);
            return Arrays.stream(first.trim().split("\\s+"))
                    .skip(1)
                    .mapToLong(Long::parseLong)
                    .toArray();
        } catch (IOException notLinux) {
            return new long[8];
        }
    }

    /** Percent of CPU time that the hypervisor took away since this object was made. */
    double stealPercent() {
        long[] after = cpuTicks();
        long all = 0;
        for (int i = 0; i < Math.min(8, after.length); i++) {
            all += after[i] - before[i];
        }
        return all == 0 ? 0 : 100.0 * (after[7] - before[7]) / all;
    }

    /** CPU time of this process in nanoseconds. */
    static long processCpuNanos() {
        return ((com.sun.management.OperatingSystemMXBean) ManagementFactory.getOperatingSystemMXBean())
                .getProcessCpuTime();
    }

    /** Median of 50 writes of 4 KiB with force, in milliseconds. */
    static double fsyncMillis(Path folder) throws IOException {
        Path file = Files.createTempFile(folder, "fsync", ".tmp");
        double[] times = new double[50];
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
            for (int i = 0; i < times.length; i++) {
                long from = System.nanoTime();
                channel.write(ByteBuffer.allocate(4096));
                channel.force(false);
                times[i] = (System.nanoTime() - from) / 1e6;
            }
        }
        Files.delete(file);
        return median(times);
    }

    /** Median lateness of a 1 ms timer with nothing else to do, in milliseconds. */
    static double timerLatenessMillis() {
        double[] late = new double[200];
        for (int i = 0; i < late.length; i++) {
            long due = System.nanoTime() + 1_000_000;
            while (System.nanoTime() < due) {
                LockSupport.parkNanos(due - System.nanoTime());
            }
            late[i] = (System.nanoTime() - due) / 1e6;
        }
        return median(late);
    }

    static double median(double[] values) {
        double[] sorted = values.clone();
        Arrays.sort(sorted);
        int middle = sorted.length / 2;
        return sorted.length % 2 == 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
    }
}
