package dachshund.core.aggregate;

/** For how long a value lies above a limit (common practice, no source). */
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
            if (a > limit || b > limit) {
                // From the value on, and not since 1601: a double holds ticks of today to 16 of them only.
                long begin = samples.time(i);
                double length = (double) (end - begin);
                double crossing = a == b ? 0 : length * ((limit - a) / (b - a));
                double first = a > limit ? 0 : crossing;
                double behind = b > limit ? length : crossing;
                ticks +=
                        Math.max(0, Math.min(behind, (double) (to - begin)) - Math.max(first, (double) (from - begin)));
            }
        }
        return ticks / SECOND;
    }
}
