package dachshund.standins.plant;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;

/** A piece of equipment: makes its tags and moves them on. Time passes in seconds; the seed makes it repeatable. */
abstract class Equipment {

    private final String path;
    private final List<PlantTag> tags = new ArrayList<>();
    final Random random;

    Equipment(String path, long seed) {
        this.path = path;
        this.random = new Random(seed);
    }

    final List<PlantTag> tags() {
        return tags;
    }

    final PlantTag measured(String name, double first, String unit, double low, double high, String description) {
        return add(new PlantTag(path, name, first, unit, low, high, description, false));
    }

    final PlantTag setPoint(String name, double first, String unit, double low, double high, String description) {
        return add(new PlantTag(path, name, first, unit, low, high, description, true));
    }

    final PlantTag state(String name, Object first, String description) {
        return add(new PlantTag(path, name, first, "", 0, 0, description, false));
    }

    /** One that a client writes; of the type of its first value. */
    final PlantTag written(String name, Object first, String description) {
        return add(new PlantTag(path, name, first, "", 0, 0, description, true));
    }

    final PlantTag counter(String name, long first, String unit, String description) {
        return add(new PlantTag(path, name, first, unit, 0, 0, description, false));
    }

    private PlantTag add(PlantTag tag) {
        tags.add(tag);
        return tag;
    }

    /** Moves on by so many seconds to the instant. */
    abstract void advance(double seconds, Instant at);

    /** A first-order lag: goes towards the target with a time constant in seconds, with noise around it. */
    final void follow(PlantTag tag, double target, double constant, double noise, double seconds, Instant at) {
        double share = 1 - Math.exp(-seconds / constant);
        double next = tag.number()
                + (target - tag.number()) * share
                + random.nextGaussian() * noise * Math.sqrt(Math.min(1, seconds));
        tag.set(tag.hasRange() ? Math.max(tag.low(), Math.min(tag.high(), next)) : next, at);
    }

    /** Whether something that comes once in so many seconds on average comes now. */
    final boolean chance(double meanSeconds, double seconds) {
        return random.nextDouble() < seconds / meanSeconds;
    }
}
