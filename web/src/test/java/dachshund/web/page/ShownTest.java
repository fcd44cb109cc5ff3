package dachshund.web.page;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ShownTest {

    private final Shown shown = new Shown(null);

    @ParameterizedTest
    @CsvSource({
        "0, 0.000",
        "-0.0, 0.000",
        "12.34567, 12.346",
        "-12.34567, -12.346",
        "0.0005, 0.001",
        "0.0004, 0.0004",
        "0.0000123456789, 0.0000123457",
        "4.9E-324, 4.94066E-324",
        "999.9996, 1000.000",
        "1234.56, 1234.6",
        "123456789012345, 123456789012345.0",
        "1E15, 1E+15",
        "1.7976931348623157E308, 1.79769E+308",
        "-1E308, -1E+308",
        "NaN, NaN",
        "Infinity, Infinity",
        "-Infinity, -Infinity"
    })
    void aNumberIsShownAsWideAsItNeedsToBe(double number, String words) {
        assertThat(shown.cell(number)).isEqualTo(words);
    }

    @Test
    void wishedDecimalsAreForNumbersThatHaveThem() {
        TagInfo tag = new TagInfo(
                "a",
                "",
                "A",
                DataKind.NUMBER,
                "",
                "",
                false,
                Optional.empty(),
                OptionalInt.of(1),
                Optional.empty(),
                List.of(),
                Map.of(),
                Map.of());
        assertThat(shown.value(TagValue.good(2.25, Instant.EPOCH), tag)).isEqualTo("2.3");
        assertThat(shown.value(TagValue.good(1e308, Instant.EPOCH), tag)).isEqualTo("1E+308");
        assertThat(shown.value(TagValue.good(Double.NaN, Instant.EPOCH), tag))
                .as("no number is no value")
                .isEqualTo("–");
    }
}
