package dachshund.standins.plant;

import java.time.Instant;
import java.util.function.DoubleSupplier;

/** A pellet silo with a wireless sensor: level goes up with what the lines make and down when a truck is loaded. */
public final class Silo extends Equipment {

    private final String name;
    private final DoubleSupplier inflow;
    private final PlantTag level;
    private final PlantTag temperature;
    private final PlantTag battery;
    private final PlantTag fan;
    private double loading;

    /** @param inflow tonnes an hour that come in */
    Silo(String name, double firstLevel, DoubleSupplier inflow, long seed) {
        super("Silos/" + name, seed);
        this.name = name;
        this.inflow = inflow;
        level = measured("Level", firstLevel, "%", 0, 100, "Radar on the roof");
        temperature = measured("Temperature", 24, "°C", -20, 90, "In the bulk");
        battery = measured("Battery", 3.58, "V", 2.8, 3.7, "Of the sensor");
        fan = state("Fan", false, "Ventilation of the silo");
    }

    public String name() {
        return name;
    }

    public double levelPercent() {
        return level.number();
    }

    public double celsius() {
        return temperature.number();
    }

    public double batteryVolts() {
        return battery.number();
    }

    public boolean fanOn() {
        return fan.on();
    }

    public void fan(boolean on, Instant at) {
        fan.set(on, at);
    }

    @Override
    void advance(double seconds, Instant at) {
        if (loading <= 0 && level.number() > 30 && chance(5400, seconds)) {
            loading = 900;
        }
        loading -= seconds;
        double tonnes = inflow.getAsDouble() - (loading > 0 ? 90 : 0);
        level.set(
                Math.max(
                        0,
                        Math.min(
                                100,
                                level.number()
                                        + tonnes / 250 * 100 * seconds / 3600
                                        + random.nextGaussian() * 0.004 * Math.sqrt(seconds))),
                at);
        follow(temperature, (fan.on() ? 19 : 26) + level.number() * 0.05, 7200, 0.01, seconds, at);
        follow(battery, 3.55, 86_400, 0.0004, seconds, at);
    }
}
