package dachshund.drill.simulation;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.Random;

/**
 * What everything in a simulation shares: chance, time, and whether the machine still runs. Once it has ended nothing has an
 * effect any more, wherever the code under trial was just then.
 */
final class World implements PlantClock {

    final Random random;
    private Instant now = Instant.parse("2026-11-24T06:00:00Z");
    private long nanos = 1;
    private double ending;
    private boolean ended;
    private Runnable atEnd = () -> {};
    private final StringBuilder told = new StringBuilder();
    private final boolean tells;

    /** The machine has ended; thrown through whatever was being done. */
    static final class Ended extends Error {
        private static final long serialVersionUID = 1;

        Ended() {
            super("The machine has ended.", null, false, false);
        }
    }

    World(long seed, boolean tells) {
        this.random = new Random(seed * 0x9E3779B97F4A7C15L); // neighbours would begin alike
        this.tells = tells;
    }

    @Override
    public Instant now() {
        return now;
    }

    @Override
    public long nanos() {
        return nanos;
    }

    void pass(Duration time) {
        now = now.plus(time);
        nanos += time.toNanos();
    }

    /** Somebody sets the clock; no time passes. */
    void set(Duration by) {
        tell("the clock is set by " + by);
        now = now.plus(by);
    }

    boolean chance(double probability) {
        return random.nextDouble() < probability;
    }

    /** 1 up to a most. */
    int some(int most) {
        return 1 + random.nextInt(most);
    }

    void tell(String what) {
        if (tells) {
            told.append(now).append(' ').append(what).append('\n');
        }
    }

    String told() {
        return told.toString();
    }

    /** @param atEnd done at the instant of the end */
    void begin(Runnable atEnd) {
        this.atEnd = atEnd;
        ended = false;
    }

    boolean ended() {
        return ended;
    }

    /** From now on any effect outside may be the last one, with this probability; 0 for none. */
    void mayEnd(double probability) {
        ending = probability;
    }

    /** Called wherever something outside is about to change, or has just changed. */
    void moment() {
        alive();
        if (ending > 0 && chance(ending)) {
            end();
            throw new Ended();
        }
    }

    void alive() {
        if (ended) {
            throw new Ended();
        }
    }

    void end() {
        ending = 0;
        ended = true;
        atEnd.run();
    }
}
