package dachshund.core.aggregate;

/** For how long a value lies above a limit, and how its values are distributed (common practice, no source). */
public final class Above {

    private static final double SECOND = 10_000_000.0;

    private Above() {}

    /**
     * Seconds above a limit, the limit itself not counted; where values lie on the line between two, the line decides.
     *
     * @param until up to when the last value holds
     */
    public static double seconds(Samples samples, Method method, double limit, long from, long to, long until) {
        double ticks = 0;
        for (int i = Math.max(0, samples.before(from) - 1); i < samples.size() && samples.time(i) < to; i++) {
            if (!method.usable(samples.grade(i))) {
                continue;
            }
            boolean last = i + 1 == samples.size();
            long end = last ? until : samples.time(i + 1);
            double a = samples.value(i);
            boolean lined = !method.stepped() && !last && method.usable(samples.grade(i + 1));
            double b = lined ? samples.value(i + 1) : a;
            long begin = samples.time(i);
            double first = a > limit ? (double) begin : crossing(begin, end, a, b, limit);
            double behind = b > limit || !lined && a > limit ? (double) end : crossing(begin, end, a, b, limit);
            if (a > limit || b > limit) {
                ticks += Math.max(0, Math.min(behind, (double) to) - Math.max(first, (double) from));
            }
        }
        return ticks / SECOND;
    }

    private static double crossing(long begin, long end, double a, double b, double limit) {
        return begin + (end - begin) * ((limit - a) / (b - a));
    }

    /**
     * A percentile of the values inside, each counted once: on the line between the two nearest ranks (R-7 of R. Hyndman and
     * Y. Fan, Sample quantiles in statistical packages, 1996).
     *
     * @param percent 0 to 100
     * @return NaN where there is no value that can be used
     */
    public static double percentile(Samples samples, Method method, double percent, long from, long to) {
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
        java.util.Arrays.sort(values, 0, count);
        double rank = percent / 100 * (count - 1);
        int below = (int) rank;
        double above = values[Math.min(below + 1, count - 1)];
        return values[below] + (above - values[below]) * (rank - below);
    }
}
