package dachshund.core.trend;

/**
 * What went on while the curves of a trend were as they were: stretches of time with a name each, drawn above them.
 *
 * @param id   of it alone, in its trend
 * @param name what stands before it
 */
public record Band(String id, String name, BandSource from) {

    /** With more of them nobody sees the curves. */
    public static final int MOST = 4;

    public static Band shifts(String id) {
        return new Band(id, "Shifts", new BandSource.OfShifts());
    }
}
