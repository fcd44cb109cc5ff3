package dachshund.core.unit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.Tuple;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Factors as printed in NIST SP 811 (2008), appendix B.8 and B.9, written here from memory, to the digits printed there. */
class UnitsTest {

    @ParameterizedTest
    @CsvSource({
        "1, psi, kPa, 6.894757, 1e-6",
        "1, atm, Pa, 101325, 0",
        "1, lb, kg, 0.45359237, 0",
        "1, oz, g, 28.34952, 1e-5",
        "1, BTU, J, 1055.056, 1e-3",
        "1, 'hp', W, 745.6999, 1e-4",
        "1, 'hp (metric)', W, 735.4988, 1e-4",
        "1, ft, m, 0.3048, 0",
        "1, mi, km, 1.609344, 1e-12",
        "1, 'gal (US)', L, 3.785412, 1e-6",
        "1, 'gal/min (US)', m³/s, 6.309020e-5, 1e-11",
        "1, ft³/min, m³/s, 4.719474e-4, 1e-10",
        "1, 'ton (US)', kg, 907.1847, 1e-4",
        "1, kWh, MJ, 3.6, 0",
        "1, therm, J, 1.055056e8, 1e2",
        "1, mmHg, Pa, 133.3224, 1e-4",
        "1, lbf, N, 4.448222, 1e-6",
        "1, lbf·ft, N·m, 1.355818, 1e-6",
        "1, 'lb/ft³', 'kg/m³', 16.01846, 1e-5",
        "1, lb/h, kg/s, 1.259979e-4, 1e-10",
        "1, BTU/lb, kJ/kg, 2.326, 1e-6",
        "1, rpm, Hz, 0.01666667, 1e-8",
        "1, mph, m/s, 0.44704, 1e-12",
        "32, °F, °C, 0, 1e-9",
        "212, °F, °C, 100, 1e-9",
        "-40, °C, °F, -40, 1e-9",
        "0, °C, K, 273.15, 0",
        "451, °F, K, 505.928, 1e-3"
    })
    void agreesWithThePublishedFactors(double value, String from, String to, double expected, double tolerance) {
        assertThat(Units.convert(value, from, to)).isCloseTo(expected, within(tolerance));
    }

    @Property
    void thereAndBackChangesNothing(@ForAll("pairs") Tuple.Tuple2<String, String> pair, @ForAll int value) {
        double back = Units.convert(Units.convert(value, pair.get1(), pair.get2()), pair.get2(), pair.get1());
        assertThat(back).isCloseTo(value, within(Math.abs((double) value) * 1e-12 + 1e-6));
    }

    @Provide
    Arbitrary<Tuple.Tuple2<String, String>> pairs() {
        return Arbitraries.of(Units.names().stream()
                .flatMap(from -> Units.names().stream()
                        .filter(to -> Units.problem(from, to).isEmpty())
                        .map(to -> Tuple.of(from, to)))
                .toList());
    }

    @org.junit.jupiter.api.Test
    void whatDoesNotFitIsSaidInWords() {
        assertThatThrownBy(() -> Units.convert(1, "kW", "kWh"))
                .hasMessageContaining("unit of power")
                .hasMessageContaining("energy");
        assertThatThrownBy(() -> Units.convert(1, "furlong", "m")).hasMessageContaining("furlong");
        assertThat(Units.convert(5, "m3/h", "m³/h")).isEqualTo(5);
    }
}
