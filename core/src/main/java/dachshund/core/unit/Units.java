package dachshund.core.unit;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Units of measurement and what turns one into another. Factors follow NIST SP 811 (2008), appendix B.8, and the
 * definitions of the SI; exact ones are written exactly. A unit is named as plants write it: °C, kWh, t/h, mbar.
 */
public final class Units {

    /** A unit: value in base unit = value × factor + offset. */
    private record Unit(String quantity, double factor, double offset) {}

    private static final double POUND = 0.45359237; // kg, exact
    private static final double INCH = 0.0254; // m, exact
    private static final double FOOT = 0.3048; // m, exact
    private static final double GALLON = 3.785411784e-3; // m3, US liquid, exact
    private static final double BTU = 1055.05585262; // J, International Table
    private static final double GRAVITY = 9.80665; // m/s2, exact

    private static final Map<String, Unit> UNITS = new LinkedHashMap<>();

    static {
        of("temperature", "K", 1);
        temperature("°C", 1, 273.15);
        temperature("°F", 5.0 / 9, 459.67 * 5 / 9);
        of("mass", "kg", 1, "g", 1e-3, "mg", 1e-6, "t", 1000, "lb", POUND, "oz", POUND / 16, "ton (US)", 2000 * POUND);
        of(
                "length",
                "m",
                1,
                "km",
                1000,
                "cm",
                0.01,
                "mm",
                1e-3,
                "µm",
                1e-6,
                "in",
                INCH,
                "ft",
                FOOT,
                "yd",
                3 * FOOT,
                "mi",
                5280 * FOOT);
        of("area", "m²", 1, "cm²", 1e-4, "mm²", 1e-6, "ha", 10_000, "ft²", FOOT * FOOT, "in²", INCH * INCH);
        of(
                "volume",
                "m³",
                1,
                "L",
                1e-3,
                "l",
                1e-3,
                "mL",
                1e-6,
                "cm³",
                1e-6,
                "ft³",
                FOOT * FOOT * FOOT,
                "gal (US)",
                GALLON);
        of("time", "s", 1, "ms", 1e-3, "min", 60, "h", 3600, "d", 86_400);
        of(
                "pressure",
                "Pa",
                1,
                "kPa",
                1000,
                "MPa",
                1e6,
                "bar",
                1e5,
                "mbar",
                100,
                "hPa",
                100,
                "psi",
                POUND * GRAVITY / (INCH * INCH),
                "atm",
                101_325,
                "mmHg",
                133.322387415,
                "inH2O (4 °C)",
                249.082,
                "Torr",
                101_325.0 / 760);
        of(
                "energy", "J", 1, "kJ", 1000, "MJ", 1e6, "GJ", 1e9, "Wh", 3600, "kWh", 3.6e6, "MWh", 3.6e9, "BTU", BTU,
                "kcal", 4186.8, "therm", 1e5 * BTU);
        of(
                "power",
                "W",
                1,
                "kW",
                1000,
                "MW",
                1e6,
                "hp",
                550 * FOOT * POUND * GRAVITY,
                "hp (metric)",
                75 * GRAVITY,
                "BTU/h",
                BTU / 3600);
        of(
                "mass flow",
                "kg/s",
                1,
                "kg/min",
                1.0 / 60,
                "kg/h",
                1.0 / 3600,
                "t/h",
                1000.0 / 3600,
                "g/s",
                1e-3,
                "lb/h",
                POUND / 3600,
                "lb/min",
                POUND / 60);
        of(
                "volume flow",
                "m³/s",
                1,
                "m³/h",
                1.0 / 3600,
                "L/s",
                1e-3,
                "L/min",
                1e-3 / 60,
                "l/min",
                1e-3 / 60,
                "L/h",
                1e-3 / 3600,
                "gal/min (US)",
                GALLON / 60,
                "ft³/min",
                FOOT * FOOT * FOOT / 60);
        of(
                "velocity",
                "m/s",
                1,
                "mm/s",
                1e-3,
                "m/min",
                1.0 / 60,
                "km/h",
                1 / 3.6,
                "ft/min",
                FOOT / 60,
                "mph",
                5280 * FOOT / 3600);
        of("frequency", "Hz", 1, "kHz", 1000, "1/s", 1, "1/min", 1.0 / 60, "rpm", 1.0 / 60, "1/h", 1.0 / 3600);
        of("density", "kg/m³", 1, "g/cm³", 1000, "g/L", 1, "lb/ft³", POUND / (FOOT * FOOT * FOOT));
        of("force", "N", 1, "kN", 1000, "kgf", GRAVITY, "lbf", POUND * GRAVITY);
        of("torque", "N·m", 1, "lbf·ft", POUND * GRAVITY * FOOT, "kgf·m", GRAVITY);
        of("current", "A", 1, "mA", 1e-3, "kA", 1000);
        of("voltage", "V", 1, "mV", 1e-3, "kV", 1000);
        of("share", "1", 1, "%", 0.01, "‰", 1e-3, "ppm", 1e-6);
        of("specific energy", "J/kg", 1, "kJ/kg", 1000, "MJ/kg", 1e6, "kWh/t", 3600, "BTU/lb", BTU / POUND);
        of("angle", "rad", 1, "°", Math.PI / 180, "rev", 2 * Math.PI);
    }

    private Units() {}

    private static void of(String quantity, Object... namesAndFactors) {
        for (int i = 0; i < namesAndFactors.length; i += 2) {
            UNITS.put(
                    (String) namesAndFactors[i],
                    new Unit(quantity, ((Number) namesAndFactors[i + 1]).doubleValue(), 0));
        }
    }

    private static void temperature(String name, double factor, double offset) {
        UNITS.put(name, new Unit("temperature", factor, offset));
    }

    private static Optional<Unit> find(String name) {
        String plain = name.strip()
                .replace("m3", "m³")
                .replace("m2", "m²")
                .replace("μ", "µ")
                .replace("degC", "°C")
                .replace("degF", "°F");
        return Optional.ofNullable(UNITS.get(plain));
    }

    /** All names, by quantity as they stand in the table. */
    public static List<String> names() {
        return List.copyOf(UNITS.keySet());
    }

    /** Whether both are known and of different quantities, so that one is never the other: kPa and kg. */
    public static boolean clash(String from, String to) {
        Optional<Unit> a = find(from);
        Optional<Unit> b = find(to);
        return a.isPresent()
                && b.isPresent()
                && !a.get().quantity().equals(b.get().quantity());
    }

    /** A sentence on why one unit does not turn into the other; empty where it does. */
    public static String problem(String from, String to) {
        Optional<Unit> a = find(from);
        Optional<Unit> b = find(to);
        if (a.isEmpty() || b.isEmpty()) {
            String unknown = a.isEmpty() ? from : to;
            return "\"" + unknown
                    + "\" is no unit that is known here. Known are, for example: °C, kW, kWh, t/h, bar, m³/h.";
        }
        return a.get().quantity().equals(b.get().quantity())
                ? ""
                : from + " is a unit of " + a.get().quantity() + " and " + to + " of "
                        + b.get().quantity() + ": one does not turn into the other.";
    }

    /** @throws IllegalArgumentException with the sentence of {@link #problem} */
    public static double convert(double value, String from, String to) {
        String problem = problem(from, to);
        if (!problem.isEmpty()) {
            throw new IllegalArgumentException(problem);
        }
        Unit a = find(from).orElseThrow();
        Unit b = find(to).orElseThrow();
        return a.equals(b) ? value : (value * a.factor() + a.offset() - b.offset()) / b.factor();
    }
}
