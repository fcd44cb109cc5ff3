package dachshund.standins.plant;

import java.time.Instant;
import java.util.List;

/** Bagger and checkweigher: bags of nominally 15 kg; the bag counter rolls over at 65,535. */
final class Bagging {

    private Bagging() {}

    static final class Bagger extends Equipment {
        private final List<PelletLine> lines;
        private final Checkweigher checkweigher;
        private final PalletRecords pallets;
        private final PlantTag targetSet =
                setPoint("Target weight set point", 15_060, "g", 14_500, 15_500, "Wanted weight of a bag");
        private final PlantTag count = add("Bag count", 64_380, "Counts bags, from 65,535 back to 0");
        private final PlantTag rate = measured("Bags per minute", 11.2, "1/min", 0, 20, "Of the last minute");
        private final PlantTag lot = state("Lot ID", "", "Lot that is bagged now");
        private final PlantTag film = measured("Film left", 640, "m", 0, 1200, "On the film roll");
        private final PlantTag seal = measured("Seal temperature", 168, "°C", 0, 250, "Sealing bar");
        private final PlantTag hopper = measured("Hopper level", 58, "%", 0, 100, "Above the scale");
        private final PlantTag state = state("State", "run", "run, film change or starved");
        private double toNext = 5;
        private double pause;

        Bagger(List<PelletLine> lines, Checkweigher checkweigher, long seed) {
            super("Bagging/BG1", seed);
            this.lines = lines;
            this.checkweigher = checkweigher;
            pallets = new PalletRecords(this);
            written("Decided lot", "", "Lot of which the laboratory has decided last");
            written("Lot verdict", "", "released or blocked");
        }

        private PlantTag add(String name, int first, String description) {
            return state(name, first, description);
        }

        PalletRecords pallets() {
            return pallets;
        }

        @Override
        void advance(double seconds, Instant at) {
            double tonnesPerHour =
                    lines.stream().mapToDouble(PelletLine::output).sum();
            follow(hopper, 40 + tonnesPerHour * 2, 90, 0.4, seconds, at);
            follow(seal, 168, 30, 0.3, seconds, at);
            pause -= seconds;
            boolean starved = tonnesPerHour < 1;
            state.set(pause > 0 ? "film change" : starved ? "starved" : "run", at);
            double perMinute = pause > 0 || starved ? 0 : Math.min(16, tonnesPerHour * 1000 / 15 / 60);
            follow(rate, perMinute, 20, 0.02, seconds, at);
            lot.set(lines.get(0).lot(), at);
            pallets.advance(seconds, at);
            toNext -= seconds * perMinute / 60;
            while (toNext <= 0) {
                toNext += 1;
                count.set(((Integer) count.value() + 1) % 65_536, at);
                film.set(film.number() - 0.82, at);
                pallets.bag(checkweigher.weigh(targetSet.number(), at), (String) lot.value());
                if (film.number() < 5) {
                    film.set(1200.0, at);
                    pause = 300;
                }
            }
        }
    }

    static final class Checkweigher extends Equipment {
        private final PlantTag last = measured("Last bag", 15_048, "g", 0, 20_000, "Weight of the last bag");
        private final PlantTag mean = measured("Mean of ten", 15_052, "g", 0, 20_000, "Mean of the last ten bags");
        private final PlantTag rejects = state("Rejects", 212, "Bags put aside since the counter was reset");
        private final PlantTag rejected = state("Last bag rejected", false, "The last bag was put aside");
        private final PlantTag zero = measured("Zero drift", 1.2, "g", -50, 50, "Of the empty belt");
        private final PlantTag ready = state("Ready", true, "Belt runs and weighs");
        private double drift;

        Checkweigher(long seed) {
            super("Bagging/CW1", seed);
        }

        /** What the bag weighs, in grams. */
        double weigh(double target, Instant at) {
            double weight = Math.round(target + drift + random.nextGaussian() * 42);
            boolean low = weight < 14_850; // tolerable deficiency of 15 kg is 150 g (OIML R 87)
            last.set(weight, at);
            mean.set(mean.number() + (weight - mean.number()) / 10, at);
            rejected.set(low, at);
            if (low) {
                rejects.set((Integer) rejects.value() + 1, at);
            }
            return weight;
        }

        @Override
        void advance(double seconds, Instant at) {
            drift += (-8 - drift) * seconds / 3600 + random.nextGaussian() * 0.25 * Math.sqrt(seconds);
            follow(zero, 1.2, 300, 0.02, seconds, at);
            ready.health(chance(4000, seconds) ? PlantTag.Health.BAD_DEVICE : PlantTag.Health.GOOD, at);
        }
    }
}
