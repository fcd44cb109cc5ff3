package dachshund.core.layout;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.row.Conversion;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagText;
import java.math.BigDecimal;
import java.time.ZoneOffset;
import org.junit.jupiter.api.Test;

/** Which column a tag begins with, and what is said where its values will not all fit. */
class TypeChoiceTest {

    /** 2^64 - 1, the largest UInt64 (OPC UA Part 6, 5.2.2.2). */
    private static final BigDecimal LARGEST = new BigDecimal("18446744073709551615");

    @Test
    void theLargestWholeNumberWithoutASignFitsTheColumnThatIsProposedForItExactly() throws Exception {
        SqlType proposed = TypeChoice.forKind(DataKind.UNSIGNED);
        assertThat(Conversion.convert(LARGEST, proposed, ZoneOffset.UTC)).isEqualTo(LARGEST);
        assertThat(TypeChoice.warning("Pulses", DataKind.UNSIGNED, proposed)).isEmpty();
        assertThat(TypeChoice.warning("Pulses", DataKind.UNSIGNED, SqlType.BIGINT))
                .get()
                .asString()
                .contains("set aside")
                .contains("decimal(20,0)");
        assertThatThrownBy(() -> Conversion.convert(LARGEST, SqlType.BIGINT, ZoneOffset.UTC))
                .isInstanceOf(Conversion.DoesNotFit.class);
    }

    @Test
    void itIsReadFromTextExactly() {
        assertThat(TagText.read(DataKind.UNSIGNED, "18446744073709551615")).isEqualTo(LARGEST);
        assertThat(TagText.read(DataKind.UNSIGNED, "42")).isEqualTo(42L);
        assertThatThrownBy(() -> TagText.read(DataKind.UNSIGNED, "-1")).hasMessage("Write a whole number from 0 on.");
        assertThatThrownBy(() -> TagText.read(DataKind.UNSIGNED, "1.5")).hasMessageContaining("whole number");
    }

    @Test
    void everyKindHasAColumnThatSaysNothingAgainstIt() {
        for (DataKind kind : DataKind.values()) {
            assertThat(TypeChoice.warning("Tag", kind, TypeChoice.forKind(kind)))
                    .as(kind.words())
                    .isEmpty();
        }
    }
}
