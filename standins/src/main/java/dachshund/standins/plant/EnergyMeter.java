package dachshund.standins.plant;

import java.time.Instant;
import java.util.function.DoubleSupplier;

/** An electricity meter on a feeder: power with the load of its feeder, energy that counts up and rolls over. */
public final class EnergyMeter extends Equipment {

    /** Where the energy counter begins anew, in units of 0.1 kWh. */
    public static final long ROLLOVER = 100_000_000L;

    private final String name;
    private final DoubleSupplier load;
    private final PlantTag power;
    private final PlantTag energy;
    private final PlantTag factor;
    private final PlantTag voltage;
    private double rest;

    EnergyMeter(String name, long firstEnergy, DoubleSupplier load, long seed) {
        super("Energy/" + name, seed);
        this.name = name;
        this.load = load;
        power = measured("Active power", load.getAsDouble(), "kW", 0, 1200, "Of the feeder");
        energy = counter("Energy", firstEnergy, "0.1 kWh", "Counts up, begins anew after 99,999,999");
        factor = measured("Power factor", 0.91, "", 0, 1, "Of the feeder");
        voltage = measured("Voltage", 401, "V", 350, 450, "Between phases");
    }

    public String name() {
        return name;
    }

    public double powerKilowatts() {
        return power.number();
    }

    /** In units of 0.1 kWh, below {@link #ROLLOVER}. */
    public long energyTenths() {
        return (Long) energy.value();
    }

    public double powerFactor() {
        return factor.number();
    }

    public double volts() {
        return voltage.number();
    }

    @Override
    void advance(double seconds, Instant at) {
        double wanted = load.getAsDouble();
        follow(power, wanted, 2, Math.max(0.1, wanted * 0.004), seconds, at);
        follow(factor, 0.72 + 0.22 * Math.min(1, power.number() / 300), 30, 0.002, seconds, at);
        follow(voltage, 401 - power.number() * 0.01, 20, 0.3, seconds, at);
        rest += power.number() * seconds / 3600 * 10;
        long whole = (long) rest;
        rest -= whole;
        if (whole > 0) {
            energy.set(((Long) energy.value() + whole) % ROLLOVER, at);
        }
    }
}
