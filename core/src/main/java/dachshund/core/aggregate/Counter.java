package dachshund.core.aggregate;

import java.util.ArrayList;
import java.util.List;
import java.util.OptionalDouble;

/**
 * By how much a counter rises, across its roll-overs and resets (common practice, no source). Between two values the rise is
 * spread evenly over the time between them; across bad values and gaps nobody knows when it rose, so all of it belongs to the
 * moment at which the counter was seen again, and that result is uncertain.
 */
public final class Counter {

    private final OptionalDouble modulus;

    private Counter(OptionalDouble modulus) {
        this.modulus = modulus;
    }

    /** A counter that only falls when it is reset, and begins at 0 again then. */
    public static Counter thatIsReset() {
        return new Counter(OptionalDouble.empty());
    }

    /**
     * A counter that begins at 0 again when it has reached a number: 65,536 for one of 16 bits. Where it falls by so little that
     * it would have gone round for more than half of its range, it was reset.
     *
     * @param modulus the first number that it never shows; above 0
     */
    public static Counter thatRollsOver(double modulus) {
        if (!(modulus > 0)) {
            throw new IllegalArgumentException("A counter rolls over at a number above 0.");
        }
        return new Counter(OptionalDouble.of(modulus));
    }

    double rise(double before, double after) {
        if (after >= before) {
            return after - before;
        }
        double round = modulus.orElse(Double.POSITIVE_INFINITY) - before + after;
        return modulus.isPresent() && round >= 0 && round <= modulus.getAsDouble() / 2 ? round : Math.max(0, after);
    }

    /** The rise in each of some intervals that follow each other; parameters as of {@link Folding#fold}. */
    public List<Result> over(Samples samples, Method method, long from, long to, long step) {
        if (step <= 0 || to < from) {
            throw new IllegalArgumentException("Intervals have a length, and end behind where they begin.");
        }
        int count = Math.toIntExact((to - from + step - 1) / step);
        double[] rises = new double[count];
        boolean[] known = new boolean[count];
        boolean[] doubtful = new boolean[count];
        int before = -1;
        for (int i = Math.max(0, samples.before(from) - 1); i < samples.size(); i++) {
            if (!method.usable(samples.grade(i))) {
                continue;
            }
            if (before >= 0) {
                spread(samples, before, i, method, new Intervals(from, to, step, rises, known, doubtful));
            }
            if (samples.time(i) >= to) {
                break;
            }
            before = i;
        }
        List<Result> results = new ArrayList<>(count);
        for (int i = 0; i < count; i++) {
            byte grade = !known[i] ? Samples.BAD : doubtful[i] ? Samples.UNCERTAIN : Samples.GOOD;
            results.add(new Result(from + i * step, known[i] ? rises[i] : Double.NaN, grade, known[i] ? 1 : 0, false));
        }
        return results;
    }

    private record Intervals(long from, long to, long step, double[] rises, boolean[] known, boolean[] doubtful) {

        void add(int index, double rise, boolean doubt) {
            rises[index] += rise;
            known[index] = true;
            doubtful[index] |= doubt;
        }

        int of(long time) {
            return Math.toIntExact((time - from) / step);
        }
    }

    private void spread(Samples samples, int before, int after, Method method, Intervals intervals) {
        double rise = rise(samples.value(before), samples.value(after));
        long begin = samples.time(before);
        long end = samples.time(after);
        boolean doubt = after > before + 1;
        if (doubt || method.stepped() || begin == end) {
            if (end >= intervals.from() && end < intervals.to()) {
                intervals.add(intervals.of(end), rise, doubt);
            }
            return;
        }
        long first = Math.max(begin, intervals.from());
        long last = Math.min(end, intervals.to());
        for (long at = first; at < last; ) {
            int index = intervals.of(at);
            long next = Math.min(last, intervals.from() + (index + 1L) * intervals.step());
            intervals.add(index, rise * (next - at) / (end - begin), false);
            at = next;
        }
    }
}
