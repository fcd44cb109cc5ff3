package dachshund.standins.plant;

import java.time.Instant;

/**
 * One tag of the simulated plant. Values are Boolean, Integer, Long, Double or String, as its first value was. Written
 * by the simulation's thread; {@link #write} may come from another.
 */
public final class PlantTag {

    /** How far the value can be trusted, with its OPC UA status code (OPC 10000-6, annex A.2, from memory). */
    public enum Health {
        GOOD(0x00000000L),
        UNCERTAIN_SENSOR(0x40930000L),
        BAD_SENSOR(0x808D0000L),
        BAD_DEVICE(0x808B0000L);

        private final long statusCode;

        Health(long statusCode) {
            this.statusCode = statusCode;
        }

        public long statusCode() {
            return statusCode;
        }
    }

    private final String path;
    private final String name;
    private final String unit;
    private final String description;
    private final double low;
    private final double high;
    private final boolean writable;
    private Object value;
    private Health health = Health.GOOD;
    private Instant sourceTime = Instant.EPOCH;
    private boolean changed = true;

    PlantTag(
            String path,
            String name,
            Object first,
            String unit,
            double low,
            double high,
            String description,
            boolean writable) {
        this.path = path;
        this.name = name;
        this.value = first;
        this.unit = unit;
        this.low = low;
        this.high = high;
        this.description = description;
        this.writable = writable;
    }

    /** Folders from the top, separated by a slash. */
    public String path() {
        return path;
    }

    public String name() {
        return name;
    }

    public String unit() {
        return unit;
    }

    public String description() {
        return description;
    }

    /** Low end of the range; meaningless where {@link #hasRange} is false. */
    public double low() {
        return low;
    }

    public double high() {
        return high;
    }

    public boolean hasRange() {
        return high > low;
    }

    public boolean writable() {
        return writable;
    }

    public synchronized Object value() {
        return value;
    }

    public synchronized Health health() {
        return health;
    }

    public synchronized Instant sourceTime() {
        return sourceTime;
    }

    /** The first value came to be at the instant the plant begins. */
    synchronized void begin(Instant at) {
        sourceTime = at;
    }

    double number() {
        return ((Number) value()).doubleValue();
    }

    boolean on() {
        return (Boolean) value();
    }

    /** A new value at an instant of the simulation; of the same type as before. Numbers keep four decimals. */
    synchronized void set(Object next, Instant at) {
        Object kept = next instanceof Double number ? Math.round(number * 10_000) / 10_000.0 : next;
        if (!kept.equals(value)) {
            value = kept;
            sourceTime = at;
            changed = true;
        }
    }

    synchronized void health(Health next, Instant at) {
        if (next != health) {
            health = next;
            sourceTime = at;
            changed = true;
        }
    }

    /** Whether it changed since the last call. */
    public synchronized boolean takeChanged() {
        boolean was = changed;
        changed = false;
        return was;
    }

    /**
     * A client writes the tag.
     *
     * @return false where the value is of another type or out of range; nothing is changed then
     */
    public boolean write(Object next, Instant at) {
        if (!writable
                || next.getClass() != value().getClass()
                || hasRange()
                        && next instanceof Number number
                        && (number.doubleValue() < low || number.doubleValue() > high)) {
            return false;
        }
        set(next, at);
        return true;
    }
}
