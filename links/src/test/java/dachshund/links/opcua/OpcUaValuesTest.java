package dachshund.links.opcua;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Status codes with their names as in OPC 10000-6, annex A.2, and OPC 10000-8, 6.3; here from memory. */
class OpcUaValuesTest {

    private static final OpcUaPart WHOLE =
            OpcUaPart.of(new TagInfo("i=1", "", "a", DataKind.NUMBER, "", "", false), null);
    private static final Instant NOW = Instant.parse("2026-11-25T06:00:01Z");

    @ParameterizedTest
    @CsvSource({
        "0x00000000, GOOD, ''",
        "0x00960000, GOOD, Good_LocalOverride",
        "0x40900000, UNCERTAIN, Uncertain_LastUsableValue",
        "0x40930000, UNCERTAIN, Uncertain_SensorNotAccurate",
        "0x80000000, BAD, Bad",
        "0x808A0000, BAD, Bad_NotConnected",
        "0x808B0000, BAD, Bad_DeviceFailure",
        "0x808C0000, BAD, Bad_SensorFailure",
        "0x808D0000, BAD, Bad_OutOfService",
        "0x80310000, BAD, Bad_NoCommunication",
        "0x80320000, BAD, Bad_WaitingForInitialData",
        "0x80340000, BAD, Bad_NodeIdUnknown"
    })
    void classesAndNames(String code, Quality.Grade grade, String name) {
        Quality quality = OpcUaValues.quality(new StatusCode(Long.decode(code)));
        assertThat(quality.grade()).isEqualTo(grade);
        assertThat(quality.words()).contains(name);
    }

    /** Info type DataValue (0x400) with the overflow bit (0x80): the value is good, and some before it were lost (OPC 10000-4, 7.39.1). */
    @Test
    void overflowIsSeenAndDoesNotSpoilTheValue() {
        DataValue full = new DataValue(new Variant(1.5), new StatusCode(0x00000480L), DateTime.now(), DateTime.now());
        assertThat(OpcUaValues.overflow(full)).isTrue();
        assertThat(OpcUaValues.tagValue(full, WHOLE, NOW, false).quality().isGood())
                .isTrue();
        assertThat(OpcUaValues.tagValue(full, WHOLE, NOW, false).quality().words())
                .isEmpty();
        assertThat(OpcUaValues.overflow(new DataValue(new Variant(1.5)))).isFalse();
    }

    @Test
    void timesToAHundredNanosecondsAndTheServersTimeWhereTheSourceHasNone() {
        DateTime tick = new DateTime(116_444_736_000_000_000L + 17_640_504_001_234_567L);
        TagValue value =
                OpcUaValues.tagValue(new DataValue(new Variant(1), StatusCode.GOOD, tick, null), WHOLE, NOW, false);
        assertThat(value.sourceTime()).isEqualTo(Instant.parse("2025-11-25T06:00:00.123456700Z"));
        assertThat(value.serverTime()).isEmpty();
        TagValue serverOnly =
                OpcUaValues.tagValue(new DataValue(new Variant(1), StatusCode.GOOD, null, tick), WHOLE, NOW, false);
        assertThat(serverOnly.sourceTime()).isEqualTo(value.sourceTime());
        assertThat(serverOnly.serverTime()).contains(value.sourceTime());
        assertThat(OpcUaValues.tagValue(new DataValue(new Variant(1), StatusCode.GOOD, null, null), WHOLE, NOW, false)
                        .sourceTime())
                .isEqualTo(NOW);
    }

    @Test
    void numbersComeAsTheyAreMeant() {
        assertThat(value(0.1f)).isEqualTo(0.1);
        assertThat(value(Unsigned.ubyte(200))).isEqualTo(200L);
        assertThat(value(Unsigned.ulong(BigInteger.ONE.shiftLeft(64).subtract(BigInteger.ONE))))
                .isEqualTo(new BigDecimal("18446744073709551615"));
        assertThat(OpcUaValues.tagValue(new DataValue(new Variant(Double.NaN)), WHOLE, NOW, false)
                        .quality())
                .isEqualTo(Quality.NOT_A_NUMBER);
    }

    private static Object value(Object raw) {
        return OpcUaValues.tagValue(new DataValue(new Variant(raw)), WHOLE, NOW, false)
                .value()
                .orElseThrow();
    }

    @Test
    void writtenValuesHaveTheServersTypeAndItsLimits() {
        assertThat(OpcUaValues.typed(NodeIds.Int16, 7.0)).isEqualTo((short) 7);
        assertThat(OpcUaValues.typed(NodeIds.Float, 2.5)).isEqualTo(2.5f);
        assertThat(OpcUaValues.typed(NodeIds.Byte, 255L)).isEqualTo(Unsigned.ubyte(255));
        assertThat(OpcUaValues.typed(NodeIds.DateTime, NOW)).isEqualTo(new DateTime(NOW));
        assertThatThrownBy(() -> OpcUaValues.typed(NodeIds.Byte, 256L)).hasMessageContaining("0 to 255");
        assertThatThrownBy(() -> OpcUaValues.typed(NodeIds.Int32, 1.5)).isInstanceOf(ArithmeticException.class);
        assertThatThrownBy(() -> OpcUaValues.typed(NodeIds.Double, "warm")).hasMessageContaining("Double");
        assertThatThrownBy(() -> OpcUaValues.typed(NodeIds.Guid, "x")).hasMessageContaining("cannot be written");
    }
}
