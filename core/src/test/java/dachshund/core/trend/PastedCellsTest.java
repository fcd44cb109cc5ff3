package dachshund.core.trend;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.aggregate.Samples;
import dachshund.core.time.OpcUaTime;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class PastedCellsTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    private static PastedCells read(String text) {
        return PastedCells.of(text, LONDON, Optional.empty());
    }

    private static String written(Samples points) {
        return IntStream.range(0, points.size())
                .mapToObj(i -> OpcUaTime.toInstant(points.time(i)) + " " + points.value(i))
                .collect(Collectors.joining(", "));
    }

    /** The same two values as five countries write them (short forms of CLDR, from memory). */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "28.11.2026 14:05\t1.234,5\n29.11.2026 00:00\t-7", // Germany, out of a spreadsheet
                "28/11/2026 14:05,1234.5\n29/11/2026,-7", // Great Britain, CSV
                "11/28/2026 2:05 PM\t1,234.5\n11/29/2026 12:00 AM\t-7", // USA, out of a spreadsheet
                "2026-11-28 14:05;1234,5\n2026-11-29;-7", // Sweden, CSV with semicolons
                "28/11/2026 14:05;1\u202f234,5\n29/11/2026 00:00;-7", // France, narrow blanks between thousands
                "time;value\r\n2026-11-28T14:05:00Z;1234.5\r\n2026-11-29T01:00:00+01:00;-7", // ISO 8601 with a heading
                "1795874700 1234.5\n1795910400 -7", // seconds since 1970
                "\"28.11.26 14:05\",\"1234.5\"\n\"29.11.26 00:00\",\"-7\"",
            })
    void numbersAndTimesOfFiveCountriesAreToldByTheirLines(String text) {
        PastedCells cells = read(text);
        assertThat(written(cells.points())).isEqualTo("2026-11-28T14:05:00Z 1234.5, 2026-11-29T00:00:00Z -7.0");
        assertThat(cells.left()).isZero();
        assertThat(cells.told()).contains("separated by", "dates as", "decimal");
    }

    @Test
    void whereDayAndMonthMayBeEitherTheDayComesFirstUnlessSomebodySaysOtherwise() {
        assertThat(written(read("03/04/2026;5").points())).isEqualTo("2026-04-02T23:00:00Z 5.0");
        assertThat(written(PastedCells.of("03/04/2026;5", LONDON, Optional.of(PastedCells.Order.MONTH_FIRST))
                        .points()))
                .isEqualTo("2026-03-04T00:00:00Z 5.0");
        // One line of many that can be only one of them tells it of all.
        assertThat(written(read("03/04/2026;5\n03/28/2026;6").points()))
                .isEqualTo("2026-03-04T00:00:00Z 5.0, 2026-03-28T00:00:00Z 6.0");
    }

    @Test
    void linesThatCannotBeReadAreCountedAndTheRestIsThereInOrder() {
        PastedCells cells =
                read("When,Moisture\n2026-11-28 08:00,6.1\n2026-11-28 07:00,6.3\nsee note,\n2026-11-28 09:00,n/a");
        assertThat(cells.points().size()).isEqualTo(2);
        assertThat(cells.points().time(0)).isEqualTo(OpcUaTime.toTicks(Instant.parse("2026-11-28T07:00:00Z")));
        assertThat(cells.left()).isEqualTo(2);
        assertThat(cells.example()).isEqualTo("see note,");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "\n \n",
                "hello",
                "2026-11-28",
                "1,2\n3,4",
                "2026-13-45;5",
                "28.11.2026 25:00;5",
                "2026-11-28;NaN",
                "2026-11-28;1e999"
            })
    void whereNothingIsATimeWithANumberASentenceSaysSo(String text) {
        assertThatThrownBy(() -> read(text))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageEndingWith(".");
    }

    @Test
    void aMillionLinesAreRefusedAtTheDoor() {
        assertThatThrownBy(() -> read("2026-11-28;1\n".repeat(1_000_000)))
                .hasMessageContaining("1000000 lines")
                .hasMessageContaining("CSV file");
    }

    @Property
    void anyTextIsReadOrRefused(@ForAll String text) {
        try {
            assertThat(read(text).points().size()).isPositive();
        } catch (IllegalArgumentException refused) {
            assertThat(refused.getMessage()).isNotBlank();
        }
    }
}
