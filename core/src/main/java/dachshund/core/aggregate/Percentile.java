package dachshund.core.aggregate;

import java.util.Arrays;

/**
 * Percentiles of the values of an interval, each counted once: on the line between the two nearest ranks (R-7 of R. Hyndman and
 * Y. Fan, Sample quantiles in statistical packages, 1996).
 */
public final class Percentile {

    private Percentile() {}

    /**
     * @param percent 0 to 100
     * @return NaN where there is no value that can be used
     */
    public static double of(Samples samples, Method method, double percent, long from, long to) {
        if (!(percent >= 0 && percent <= 100)) {
            throw new IllegalArgumentException("A percentile is from 0 to 100.");
        }
        double[] values = new double[samples.size()];
        int count = 0;
        for (int i = samples.before(from); i < samples.size() && samples.time(i) < to; i++) {
            if (method.usable(samples.grade(i))) {
                values[count++] = samples.value(i);
            }
        }
        if (count == 0) {
            return Double.NaN;
        }
        Arrays.sort(values, 0, count);
        double rank = percent / 100 * (count - 1);
        int below = (int) rank;
        double above = values[Math.min(below + 1, count - 1)];
        return values[below] + (above - values[below]) * (rank - below);
    }
}
