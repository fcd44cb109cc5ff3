package dachshund.web.trend;

import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Samples;
import dachshund.core.time.OpcUaTime;
import dachshund.core.trend.Curve;
import dachshund.office.trend.Trends;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * A curve as its page draws it.
 *
 * @param times   seconds since 1970
 * @param values  null where the line breaks
 * @param least   of all that lies in the window, not of the points alone; null where there is none, as the others
 * @param mean    over time
 * @param integral over time, in its unit times hours
 * @param trouble times in which values were not good: beginning, end, and whether it was bad (2), uncertain (1) or nothing is known (3)
 * @param problem why there is nothing, in a sentence; empty where there is something
 */
record CurvePoints(
        List<Double> times,
        List<Double> values,
        Double least,
        Double mean,
        Double greatest,
        Double integral,
        List<double[]> trouble,
        long count,
        String told,
        String problem) {

    static CurvePoints of(Trends.Drawn drawn, Curve curve) {
        Samples points = drawn.points();
        List<Double> times = new ArrayList<>(points.size());
        List<Double> values = new ArrayList<>(points.size());
        for (int i = 0; i < points.size(); i++) {
            times.add(seconds(points.time(i)));
            values.add(points.grade(i) < Samples.BAD ? finite(points.value(i)) : null);
        }
        Fold whole = drawn.whole().orElse(null);
        return new CurvePoints(
                times,
                values,
                whole == null ? null : finite(whole.least()),
                whole == null ? null : finite(Trends.mean(whole, curve.stepped())),
                whole == null ? null : finite(whole.greatest()),
                whole == null ? null : finite(Trends.integral(whole, curve.stepped())),
                drawn.trouble().stream()
                        .map(each -> new double[] {seconds(each.from()), seconds(each.to()), each.grade()})
                        .toList(),
                whole == null ? 0 : whole.count(),
                drawn.told(),
                "");
    }

    static CurvePoints none(String problem) {
        return new CurvePoints(List.of(), List.of(), null, null, null, null, List.of(), 0, "", problem);
    }

    private static double seconds(long ticks) {
        Instant at = OpcUaTime.toInstant(ticks);
        return at.getEpochSecond() + Math.floorDiv(at.getNano(), 1000) / 1e6;
    }

    private static Double finite(double value) {
        return Double.isFinite(value) ? value : null;
    }
}
