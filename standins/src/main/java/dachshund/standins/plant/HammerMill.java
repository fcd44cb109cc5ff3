package dachshund.standins.plant;

import java.time.Instant;

/** A hammer mill: its screen blinds slowly until it is cleaned. */
final class HammerMill extends Equipment {

    private final PlantTag feedSet = setPoint("Feeder set point", 55, "%", 0, 100, "Wanted speed of the feeder");
    private final PlantTag feeder = measured("Feeder speed", 55, "%", 0, 100, "Feeder before the mill");
    private final PlantTag power = measured("Motor power", 168, "kW", 0, 315, "Main motor");
    private final PlantTag current = measured("Motor current", 288, "A", 0, 560, "Main motor");
    private final PlantTag screen = measured("Screen differential pressure", 14, "mbar", 0, 60, "Across the screen");
    private final PlantTag vibration = measured("Vibration", 2.4, "mm/s", 0, 20, "Bearing housing, drive end");
    private final PlantTag bearing = measured("Bearing temperature", 58, "°C", 0, 120, "Bearing, drive end");
    private final PlantTag winding = measured("Winding temperature", 86, "°C", 0, 180, "Main motor");
    private final PlantTag starts = counter("Starts", 1204, "", "Starts of the main motor");
    private final PlantTag running = state("Running", true, "Main motor runs");
    private double blinding = 0.2;
    private double pause;

    HammerMill(String name, long seed) {
        super("Milling/" + name, seed);
    }

    double power() {
        return power.number();
    }

    @Override
    void advance(double seconds, Instant at) {
        blinding += seconds / 14_400;
        if (pause <= 0 && blinding > 1) {
            pause = 420; // stopped to clean the screen
        }
        if (pause > 0) {
            pause -= seconds;
            if (pause <= 0) {
                blinding = 0.1 + random.nextDouble() * 0.15;
                starts.set((Long) starts.value() + 1, at);
            }
        }
        boolean on = pause <= 0;
        running.set(on, at);
        follow(feeder, on ? feedSet.number() : 0, 6, 0.2, seconds, at);
        follow(power, on ? 40 + feeder.number() * (2.1 + blinding * 0.5) : 0, 4, on ? 2.2 : 0, seconds, at);
        follow(current, power.number() * 1.69 + (on ? 6 : 0), 1, on ? 0.8 : 0, seconds, at);
        follow(screen, on ? 6 + blinding * 28 + feeder.number() * 0.05 : 0, 15, 0.12, seconds, at);
        follow(vibration, on ? 1.9 + blinding * 1.2 + power.number() * 0.002 : 0.1, 3, 0.06, seconds, at);
        follow(bearing, on ? 44 + power.number() * 0.09 : 24, 600, 0.03, seconds, at);
        follow(winding, on ? 52 + power.number() * 0.21 : 26, 900, 0.04, seconds, at);
    }
}
