package dachshund.standins.plant;

import java.time.Instant;
import java.time.ZoneOffset;

/** Drum dryer and burner: chips of 45 to 55 % moisture leave at about 10 %. */
final class Drying {

    private Drying() {}

    static final class Dryer extends Equipment {
        private final Burner burner;
        private final PlantTag outletSet =
                setPoint("Outlet temperature set point", 102, "°C", 80, 130, "Wanted temperature of the exhaust air");
        private final PlantTag fanSet =
                setPoint("Fan speed set point", 72, "%", 30, 100, "Wanted speed of the exhaust fan");
        private final PlantTag feedSet = setPoint("Feed rate set point", 9.5, "t/h", 0, 14, "Wanted feed of wet chips");
        private final PlantTag inlet = measured("Inlet temperature", 385, "°C", 0, 600, "Hot gas before the drum");
        private final PlantTag outlet = measured("Outlet temperature", 101, "°C", 0, 200, "Exhaust air after the drum");
        private final PlantTag fan = measured("Fan speed", 72, "%", 0, 100, "Exhaust fan");
        private final PlantTag fanCurrent = measured("Fan motor current", 96, "A", 0, 200, "Exhaust fan motor");
        private final PlantTag drum = measured("Drum speed", 6.2, "rpm", 0, 12, "Drum drive");
        private final PlantTag drumPower = measured("Drum motor power", 41, "kW", 0, 90, "Drum drive");
        private final PlantTag feed = measured("Wet chip feed", 9.5, "t/h", 0, 15, "Belt weigher before the drum");
        private final PlantTag moistureIn =
                measured("Chip moisture in", 49, "%", 0, 70, "Infrared meter before the drum");
        private final PlantTag moistureOut =
                measured("Chip moisture out", 10.2, "%", 0, 30, "Infrared meter after the drum");
        private final PlantTag vacuum = measured("Drum pressure", -1.8, "mbar", -10, 5, "Pressure inside the drum");
        private final PlantTag oxygen = measured("Exhaust oxygen", 16.4, "%", 0, 21, "Oxygen in the exhaust air");
        private final PlantTag cyclone =
                measured("Cyclone differential pressure", 9.1, "mbar", 0, 30, "Across the cyclone");
        private final PlantTag spark = state("Spark detected", false, "Spark detector after the drum");
        private final PlantTag running = state("Running", true, "Drum and fan run");
        private double wetness = 49;
        private double badFor;

        Dryer(Burner burner, long seed) {
            super("Drying/Drum dryer", seed);
            this.burner = burner;
        }

        @Override
        void advance(double seconds, Instant at) {
            double hour = at.atOffset(ZoneOffset.UTC).toLocalTime().toSecondOfDay() / 3600.0;
            wetness += (49 + 2.5 * Math.cos((hour - 5) / 24 * 2 * Math.PI) - wetness) * seconds / 5400
                    + random.nextGaussian() * 0.02 * Math.sqrt(seconds);
            follow(moistureIn, wetness, 30, 0.06, seconds, at);
            follow(feed, feedSet.number(), 25, 0.05, seconds, at);
            follow(fan, fanSet.number(), 8, 0.08, seconds, at);
            follow(fanCurrent, 20 + fan.number() * 1.05, 4, 0.3, seconds, at);
            follow(drum, 6.2, 20, 0.01, seconds, at);
            follow(drumPower, 24 + feed.number() * 1.8, 15, 0.25, seconds, at);
            burner.heatFor(outletSet.number() - outlet.number(), feed.number() * moistureIn.number());
            follow(inlet, 120 + burner.demand() * 4.6, 60, 0.6, seconds, at);
            double load = feed.number() * (moistureIn.number() - 10) / 100;
            follow(outlet, inlet.number() * 0.37 - load * 10.5 + (fan.number() - 70) * 0.25 - 2, 90, 0.12, seconds, at);
            follow(
                    moistureOut,
                    10 + (102 - outlet.number()) * 0.16 + (moistureIn.number() - 49) * 0.08,
                    180,
                    0.025,
                    seconds,
                    at);
            follow(vacuum, -0.6 - fan.number() * 0.017, 5, 0.03, seconds, at);
            follow(oxygen, 20.6 - burner.demand() * 0.07, 40, 0.03, seconds, at);
            follow(cyclone, fan.number() * 0.126, 10, 0.05, seconds, at);
            spark.set(chance(7200, seconds), at);
            running.set(fan.number() > 25, at);
            // The infrared meter's window fogs up now and then: bad for a minute, then uncertain while it clears.
            if (badFor <= 0 && chance(1500, seconds)) {
                badFor = 90;
            }
            badFor -= seconds;
            moistureOut.health(
                    badFor > 30
                            ? PlantTag.Health.BAD_SENSOR
                            : badFor > 0 ? PlantTag.Health.UNCERTAIN_SENSOR : PlantTag.Health.GOOD,
                    at);
        }
    }

    static final class Burner extends Equipment {
        private final PlantTag demand = measured("Demand", 60, "%", 0, 100, "Heat asked of the burner");
        private final PlantTag fuel = measured("Dust feed", 410, "kg/h", 0, 900, "Wood dust to the burner");
        private final PlantTag flame = measured("Flame temperature", 905, "°C", 0, 1300, "Combustion chamber");
        private final PlantTag air = measured("Combustion air", 55, "%", 0, 100, "Air fan speed");
        private final PlantTag chamber = measured("Chamber pressure", -0.4, "mbar", -5, 5, "Combustion chamber");
        private final PlantTag carbonMonoxide = measured("Carbon monoxide", 120, "mg/m³", 0, 2000, "In the flue gas");
        private final PlantTag hours = counter("Operating hours", 18_422, "h", "Hours with flame");
        private final PlantTag lit = state("Flame on", true, "Flame guard");
        private double wanted = 60;
        private double litSeconds;

        Burner(long seed) {
            super("Drying/Burner", seed);
        }

        double demand() {
            return demand.number();
        }

        void heatFor(double missing, double load) {
            wanted = Math.max(5, Math.min(100, load * 0.1295 + missing * 1.4));
        }

        @Override
        void advance(double seconds, Instant at) {
            follow(demand, wanted, 45, 0.15, seconds, at);
            follow(fuel, demand.number() * 6.9, 20, 2.5, seconds, at);
            follow(air, 12 + demand.number() * 0.72, 10, 0.1, seconds, at);
            follow(flame, 640 + demand.number() * 4.4, 70, 1.5, seconds, at);
            follow(chamber, -0.4, 5, 0.03, seconds, at);
            follow(carbonMonoxide, 95 + Math.abs(wanted - demand.number()) * 14, 25, 3, seconds, at);
            litSeconds += seconds;
            if (litSeconds >= 3600) {
                litSeconds -= 3600;
                hours.set((Long) hours.value() + 1, at);
            }
            lit.set(flame.number() > 500, at);
        }
    }
}
