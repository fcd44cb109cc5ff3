package dachshund.core.row;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.ZoneOffset;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ConversionTest {

    @ParameterizedTest
    @CsvSource(
            textBlock =
                    """
            32767          | smallint      | 32767
            -2147483648    | integer       | -2147483648
            71.235         | decimal(6,2)  | 71.24
            -71.235        | decimal(6,2)  | -71.24
            9999.994       | decimal(6,2)  | 9999.99
            ' 4711 '       | bigint        | 4711
            1e3            | integer       | 1000
            12.50          | decimal(6,1)  | 12.5
            true           | boolean       | true
            0              | boolean       | false
            0.1            | double        | 0.1
            """,
            delimiter = '|')
    void whatFitsIsConverted(String text, String type, String wanted) throws Exception {
        Object value = Conversion.convert(text, SqlType.read(type), ZoneOffset.UTC);
        assertThat(Conversion.plain(value)).isEqualTo(wanted);
    }

    @ParameterizedTest
    @CsvSource(
            textBlock =
                    """
            32768          | smallint      | holds -32768 to 32767
            9223372036854775808 | bigint   | holds
            12.7           | integer       | holds no decimals
            9999.995       | decimal(6,2)  | 4 digits before the point
            PL1-261124     | integer       | is "PL1-261124", which is not a number
            1e999999999    | decimal(8,2)  | beyond any number type
            2              | boolean       | neither true nor false
            abcdef         | text(5)       | 6 characters long
            yesterday      | timestamp(3)  | not a time as in RFC 3339
            """,
            delimiter = '|')
    void whatDoesNotFitIsRefusedWithTheReason(String text, String type, String reason) {
        assertThatThrownBy(() -> Conversion.convert(text, SqlType.read(type), ZoneOffset.UTC))
                .isInstanceOf(Conversion.DoesNotFit.class)
                .hasMessageContaining(reason);
    }

    /** The short way of writing a number says the same as the long one. */
    @Property
    void aNumberIsWrittenWithoutExponentAndReadBackEqual(@ForAll double number) {
        String text = Conversion.plain(number);
        assertThat(text)
                .isEqualTo(BigDecimal.valueOf(number).stripTrailingZeros().toPlainString())
                .doesNotContain("E");
        assertThat(Double.parseDouble(text)).isEqualTo(number == 0 ? 0.0 : number);
    }

    @Test
    void charactersAreCountedAsPeopleCountThem() throws Exception {
        assertThat(Conversion.convert("🐕🐕", SqlType.text(2), ZoneOffset.UTC)).isEqualTo("🐕🐕");
    }

    @Test
    void aTimeStampIsCutToItsFractionNeverRoundedUp() throws Exception {
        Instant fine = Instant.parse("2026-11-24T23:59:59.999999900Z");
        assertThat(Conversion.convert(fine, SqlType.timestamp(3), ZoneOffset.UTC))
                .isEqualTo(Instant.parse("2026-11-24T23:59:59.999Z"));
        assertThat(Conversion.convert(fine, SqlType.timestamp(0), ZoneOffset.UTC))
                .isEqualTo(Instant.parse("2026-11-24T23:59:59Z"));
    }

    @Test
    void aWholeNumberThatADoubleCannotHoldIsRefused() {
        assertThatThrownBy(() -> Conversion.convert(9007199254740993L, SqlType.DOUBLE, ZoneOffset.UTC))
                .hasMessageContaining("9007199254740992");
    }

    @Property
    void aDecimalIsNeverFurtherOffThanHalfItsLastDigit(@ForAll double value, @ForAll @IntRange(max = 6) int scale) {
        SqlType type = SqlType.decimal(20, scale);
        try {
            BigDecimal converted = (BigDecimal) Conversion.convert(value, type, ZoneOffset.UTC);
            BigDecimal exact = new BigDecimal(Double.toString(value));
            assertThat(converted.subtract(exact).abs()).isLessThanOrEqualTo(new BigDecimal("0.5").movePointLeft(scale));
            assertThat(converted.precision() - converted.scale()).isLessThanOrEqualTo(20 - scale);
        } catch (Conversion.DoesNotFit tooLarge) {
            assertThat(Math.abs(value)).isGreaterThan(Math.pow(10, 20 - scale) - 1);
        }
    }
}
