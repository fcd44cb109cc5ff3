package dachshund.core.trend;

import java.time.Duration;
import java.util.OptionalDouble;

/**
 * A curve of a trend.
 *
 * @param id      of it alone, in its trend
 * @param name    what stands in the readings
 * @param unit    may be empty
 * @param plot    in which plot of its trend it is drawn: 1 for the uppermost, up to {@link #MOST_PLOTS}
 * @param scale   curves of a plot with one name of a scale share it; empty for one of its own
 * @param stepped whether a value holds until the next one; a line leads to the next one otherwise
 * @param marked  whether each point has a mark
 * @param hidden  whether it is not drawn
 * @param low     a limit that is drawn as a line; empty for none
 * @param high    the same above
 * @param look    colour, width and digits, where they are not as usual
 * @param back    so much earlier is what it shows, as if it were now: the same window of another day
 */
public record Curve(
        String id,
        String name,
        String unit,
        int plot,
        String scale,
        boolean stepped,
        boolean marked,
        boolean hidden,
        OptionalDouble low,
        OptionalDouble high,
        Look look,
        Duration back,
        CurveSource from) {

    /**
     * How it looks.
     *
     * @param colour   1 to {@link #COLOURS}; 0 for the next one by its place
     * @param wide     whether its line is twice as wide as usual
     * @param decimals digits after the point in the readings, 0 to 10; -1 for as many as are usual
     */
    public record Look(int colour, boolean wide, int decimals) {
        public static final int COLOURS = 6;
        public static final Look USUAL = new Look(0, false, -1);

        public Look {
            if (colour < 0 || colour > COLOURS) {
                throw new IllegalArgumentException("There are " + COLOURS + " colours.");
            }
            if (decimals < -1 || decimals > 10) {
                throw new IllegalArgumentException("A number is shown with 0 to 10 digits after the point.");
            }
        }
    }

    public static final int MOST = 40;
    /** As many as can be seen under each other. */
    public static final int MOST_PLOTS = 6;

    public Curve {
        if (plot < 1 || plot > MOST_PLOTS) {
            throw new IllegalArgumentException("A trend has the plots 1 to " + MOST_PLOTS + ".");
        }
    }

    /** One as it begins: shown, without limits, as it is now. */
    public static Curve of(String id, String name, String unit, boolean stepped, boolean marked, CurveSource from) {
        return new Curve(
                id,
                name,
                unit,
                1,
                unit,
                stepped,
                marked,
                false,
                OptionalDouble.empty(),
                OptionalDouble.empty(),
                Look.USUAL,
                Duration.ZERO,
                from);
    }

    public Curve called(String otherName, String otherUnit) {
        return new Curve(id, otherName, otherUnit, plot, scale, stepped, marked, hidden, low, high, look, back, from);
    }

    public Curve drawn(boolean inSteps, boolean withMarks, boolean notAtAll) {
        return new Curve(id, name, unit, plot, scale, inSteps, withMarks, notAtAll, low, high, look, back, from);
    }

    public Curve between(OptionalDouble least, OptionalDouble most) {
        return new Curve(id, name, unit, plot, scale, stepped, marked, hidden, least, most, look, back, from);
    }

    public Curve earlier(Duration by) {
        return new Curve(id, name, unit, plot, scale, stepped, marked, hidden, low, high, look, by, from);
    }

    /** The same on another scale. */
    public Curve on(String otherScale) {
        return new Curve(id, name, unit, plot, otherScale, stepped, marked, hidden, low, high, look, back, from);
    }

    /** The same in another plot. */
    public Curve in(int otherPlot) {
        return new Curve(id, name, unit, otherPlot, scale, stepped, marked, hidden, low, high, look, back, from);
    }

    /** The same of something else. */
    public Curve of(CurveSource other) {
        return new Curve(id, name, unit, plot, scale, stepped, marked, hidden, low, high, look, back, other);
    }

    public Curve looking(Look other) {
        return new Curve(id, name, unit, plot, scale, stepped, marked, hidden, low, high, other, back, from);
    }

    /** The same once more in its trend. */
    public Curve again(String otherId) {
        return new Curve(otherId, name, unit, plot, scale, stepped, marked, hidden, low, high, look, back, from);
    }
}
