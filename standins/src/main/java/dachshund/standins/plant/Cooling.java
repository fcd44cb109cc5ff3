package dachshund.standins.plant;

import java.time.Instant;
import java.util.List;

/** Counterflow cooler and screen for the pellets of all lines. */
final class Cooling extends Equipment {

    private final List<PelletLine> lines;
    private final PlantTag airSet = setPoint("Air flow set point", 12_500, "m³/h", 4000, 18_000, "Wanted cooling air");
    private final PlantTag inlet = measured("Inlet temperature", 84, "°C", 0, 140, "Pellets into the cooler");
    private final PlantTag outlet = measured("Outlet temperature", 27, "°C", 0, 100, "Pellets out of the cooler");
    private final PlantTag air = measured("Air flow", 12_480, "m³/h", 0, 20_000, "Cooling air");
    private final PlantTag bed = measured("Bed level", 61, "%", 0, 100, "Pellets in the cooler");
    private final PlantTag flow = measured("Pellet flow", 10.1, "t/h", 0, 20, "All lines together");
    private final PlantTag fines = measured("Fines", 0.7, "%", 0, 5, "Separated by the screen");
    private final PlantTag screenPower = measured("Screen motor power", 4.1, "kW", 0, 11, "Vibrating screen");
    private final PlantTag discharge = state("Discharge open", true, "Discharge grid");
    private double out;

    Cooling(List<PelletLine> lines, long seed) {
        super("Cooling/Cooler", seed);
        this.lines = lines;
    }

    @Override
    void advance(double seconds, Instant at) {
        double total = lines.stream().mapToDouble(PelletLine::output).sum();
        follow(flow, total, 15, 0.03, seconds, at);
        follow(air, airSet.number(), 12, 25, seconds, at);
        follow(inlet, total > 0.5 ? 84 : 35, 120, 0.1, seconds, at);
        follow(outlet, 18 + total * 11_000 / Math.max(4000, air.number()), 180, 0.05, seconds, at);
        if (chance(1500, seconds)) {
            out = 600;
        }
        out -= seconds;
        follow(fines, out > 0 ? 1.25 : 0.68, 120, 0.008, seconds, at);
        follow(bed, 45 + total * 1.6, 200, 0.2, seconds, at);
        follow(screenPower, total > 0.5 ? 4.1 : 2.2, 10, 0.03, seconds, at);
        discharge.set(bed.number() > 50, at);
    }
}
