package dachshund.core.aggregate;

import java.util.Collections;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;

/**
 * What a plot needs of many values: of each interval its first, least, greatest and last value, at their own times. No extreme
 * is lost, and a line through them looks like one through all (U. Jugel and others, M4: a visualization-oriented time series
 * data aggregation, VLDB 2014). Where nothing is known the line breaks: a point that is
 * bad stands there; what is shorter than one interval is no wider than a point, and cannot be seen.
 */
public final class Outline {

    /** What is to be folded for it. */
    public static final Set<Fold.Part> PARTS = Collections.unmodifiableSet(EnumSet.of(Fold.Part.EXTREMES));

    private static final int BITS = Fold.Part.bits(PARTS);

    private Outline() {}

    /** @param folds intervals that follow each other, one for each point across the plot, with {@link #PARTS} at least */
    public static Samples of(List<Fold> folds) {
        Samples points = new Samples(4 * folds.size() + 1);
        for (Fold each : folds) {
            Fold fold = each.with(BITS);
            if (Double.isNaN(fold.atStart) && fold.count == 0) {
                broken(points, fold.from);
                continue;
            }
            if (points.size() == 0 && !Double.isNaN(fold.atStart)) {
                points.add(fold.from, fold.atStart, Samples.GOOD);
            }
            if (fold.count > 0) {
                boolean leastFirst = fold.leastAt <= fold.greatestAt;
                put(points, fold.firstAt, fold.first);
                put(points, leastFirst ? fold.leastAt : fold.greatestAt, leastFirst ? fold.least : fold.greatest);
                put(points, leastFirst ? fold.greatestAt : fold.leastAt, leastFirst ? fold.greatest : fold.least);
                put(points, fold.lastAt, fold.last);
            }
            if (Double.isNaN(fold.atEnd)) {
                broken(points, Math.max(fold.lastAt, fold.from));
            }
        }
        return points;
    }

    /** One point is drawn once. */
    private static void put(Samples points, long at, double value) {
        int last = points.size() - 1;
        if (last < 0 || points.time(last) != at || points.value(last) != value) {
            points.add(at, value, Samples.GOOD);
        }
    }

    private static void broken(Samples points, long at) {
        int last = points.size() - 1;
        if (last >= 0 && points.grade(last) == Samples.GOOD) {
            points.add(at, Double.NaN, Samples.GAP);
        }
    }
}
