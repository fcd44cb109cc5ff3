package dachshund.bench;

import java.util.Arrays;
import java.util.Locale;

/** How often what was seen, in milliseconds. Safe for one thread. */
final class Percentiles {

    private double[] seen = new double[1024];
    private int count;

    void add(double millis) {
        if (count == seen.length) {
            seen = Arrays.copyOf(seen, count * 2);
        }
        seen[count++] = millis;
    }

    int count() {
        return count;
    }

    /** @param part from 0 to 1; 1 is the worst */
    double at(double part) {
        double[] sorted = Arrays.copyOf(seen, count);
        Arrays.sort(sorted);
        return count == 0 ? Double.NaN : sorted[(int) Math.max(0, Math.min(count - 1.0, Math.ceil(part * count) - 1))];
    }

    String words() {
        return String.format(
                Locale.ROOT,
                "p50 %.2f ms, p95 %.2f ms, p99 %.2f ms, worst %.2f ms (%,d)",
                at(0.5),
                at(0.95),
                at(0.99),
                at(1),
                count);
    }
}
