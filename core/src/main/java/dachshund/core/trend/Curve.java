package dachshund.core.trend;

import java.time.Duration;

/**
 * A curve of a trend.
 *
 * @param id      of it alone, in its trend
 * @param name    what stands in the readings
 * @param unit    may be empty
 * @param scale   curves with one name of a scale share it; empty for one of its own
 * @param stepped whether a value holds until the next one; a line leads to the next one otherwise
 * @param marked  whether each point has a mark
 * @param hidden  whether it is not drawn
 * @param back    so much earlier is what it shows, as if it were now: the same window of another day
 */
public record Curve(
        String id,
        String name,
        String unit,
        String scale,
        boolean stepped,
        boolean marked,
        boolean hidden,
        Duration back,
        CurveSource from) {

    public static final int MOST = 40;

    /** The same, shown otherwise. */
    public Curve shown(
            String called, String inUnit, String onScale, boolean step, boolean mark, boolean hide, Duration earlier) {
        return new Curve(id, called, inUnit, onScale, step, mark, hide, earlier, from);
    }

    /** The same on another scale. */
    public Curve on(String otherScale) {
        return new Curve(id, name, unit, otherScale, stepped, marked, hidden, back, from);
    }
}
