package dachshund.core.modbus;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.math.BigDecimal;
import java.util.HexFormat;
import java.util.Map;
import java.util.Optional;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/**
 * Words of IEEE 754 in each order: 123456.789 is 47F12065 as binary32 (nearest 123456.79) and 40FE240C9FBE76C9 as binary64;
 * 1.0 is 3F800000. Widely printed values, here from memory and recomputed with the JDK.
 */
class ModbusValuesTest {

    private static byte[] hex(String text) {
        return HexFormat.of().parseHex(text.replace(" ", ""));
    }

    private static ModbusPoint point(String type, String order) {
        return ModbusPoint.read(Map.of("table", "holding", "register", "0", "type", type, "order", order));
    }

    @ParameterizedTest
    @CsvSource({
        "float32, ABCD, 47F1 2065, 123456.79",
        "float32, CDAB, 2065 47F1, 123456.79",
        "float32, BADC, F147 6520, 123456.79",
        "float32, DCBA, 6520 F147, 123456.79",
        "float32, ABCD, 3F80 0000, 1.0",
        "float32, ABCD, C2ED 4000, -118.625",
        "float32, ABCD, 3DCC CCCD, 0.1",
        "float64, ABCD, 40FE240C9FBE76C9, 123456.789",
        "float64, CDAB, 76C9 9FBE 240C 40FE, 123456.789",
        "float64, BADC, FE40 0C24 BE9F C976, 123456.789",
        "float64, DCBA, C976 BE9F 0C24 FE40, 123456.789"
    })
    void floatsInEachOrder(String type, String order, String words, double value) {
        assertThat(ModbusValues.decode(point(type, order), hex(words))).isEqualTo(value);
        assertThat(ModbusValues.encode(point(type, order), value, Optional.empty()))
                .isEqualTo(hex(words));
    }

    @ParameterizedTest
    @CsvSource({
        "uint16, ABCD, 022B, 555",
        "int16, ABCD, FFFF, -1",
        "uint16, BADC, 2B02, 555",
        "uint32, ABCD, 0001 0000, 65536",
        "uint32, CDAB, 0000 0001, 65536",
        "int32, ABCD, FFFF FFFE, -2",
        "int32, DCBA, FEFF FFFF, -2",
        "uint32, ABCD, FFFF FFFF, 4294967295",
        "int64, ABCD, FFFFFFFFFFFFFFFD, -3",
        "uint64, CDAB, 0004 0003 0002 0001, 281483566841860"
    })
    void wholeNumbers(String type, String order, String words, long value) {
        assertThat(ModbusValues.decode(point(type, order), hex(words))).isEqualTo(value);
        assertThat(ModbusValues.encode(point(type, order), value, Optional.empty()))
                .isEqualTo(hex(words));
    }

    @Test
    void theLargestUnsignedNumberTextsBitsAndScales() {
        assertThat(ModbusValues.decode(point("uint64", "ABCD"), hex("FFFFFFFFFFFFFFFF")))
                .isEqualTo(new BigDecimal("18446744073709551615"));
        ModbusPoint text = ModbusPoint.read(Map.of("register", "40001", "type", "text", "length", "5"));
        assertThat(text.size()).isEqualTo(3);
        assertThat(ModbusValues.decode(text, hex("4D45 5445 5200"))).isEqualTo("METER");
        assertThat(ModbusValues.encode(text, "AB", Optional.empty())).isEqualTo(hex("4142 0000 0000"));
        ModbusPoint bit = ModbusPoint.read(Map.of("register", "40001", "type", "bit", "bit", "3"));
        assertThat(ModbusValues.decode(bit, hex("0008"))).isEqualTo(true);
        assertThat(ModbusValues.encode(bit, false, Optional.of(hex("FFFF")))).isEqualTo(hex("FFF7"));
        ModbusPoint scaled =
                ModbusPoint.read(Map.of("register", "30011", "type", "int16", "scale", "0.1", "offset", "-50"));
        assertThat(ModbusValues.decode(scaled, hex("01F4"))).isEqualTo(0.0);
        assertThat(ModbusValues.decode(scaled, hex("FFFE"))).isEqualTo(-50.2);
        assertThat(ModbusValues.encode(scaled, -50.2, Optional.empty())).isEqualTo(hex("FFFE"));
    }

    @Test
    void whatDoesNotFitIsRefusedWithTheNumbers() {
        assertThatThrownBy(() -> ModbusValues.encode(point("uint16", "ABCD"), 65_536L, Optional.empty()))
                .hasMessageContaining("65536")
                .hasMessageContaining("65535");
        assertThatThrownBy(() -> ModbusValues.encode(point("int16", "ABCD"), 1.5, Optional.empty()))
                .hasMessageContaining("whole numbers");
        assertThatThrownBy(() -> ModbusValues.encode(point("float32", "ABCD"), 1e300, Optional.empty()))
                .hasMessageContaining("too large");
        assertThatThrownBy(() -> ModbusValues.encode(point("uint16", "ABCD"), "x", Optional.empty()))
                .hasMessageContaining("number");
    }

    @Property
    void everyOrderIsItsOwnInverse(@ForAll long value, @ForAll WordOrder order) {
        ModbusPoint point = point("int64", order.name());
        assertThat(ModbusValues.decode(point, ModbusValues.encode(point, value, Optional.empty())))
                .isEqualTo(value);
    }

    /** The reference notation is common practice, no source. */
    @ParameterizedTest
    @CsvSource({
        "40001, HOLDING, 0",
        "40108, HOLDING, 107",
        "30001, INPUT, 0",
        "10197, DISCRETE, 196",
        "00173, COIL, 172",
        "465536, HOLDING, 65535",
        "410001, HOLDING, 10000"
    })
    void bothNotations(String reference, ModbusTable table, int address) {
        ModbusPoint point = ModbusPoint.read(Map.of("register", reference));
        assertThat(point.table()).isEqualTo(table);
        assertThat(point.address()).isEqualTo(address);
        assertThat(table.reference(address)).isEqualTo(reference);
        assertThat(ModbusPoint.read(Map.of("table", table.name(), "register", Integer.toString(address)))
                        .address())
                .isEqualTo(address);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "40|| in which table",
                "x|holding|address from 0",
                "65535|holding|within",
                "20001||begins with",
                "7|attic|A table is one of"
            })
    void badDescriptionsGetASentence(String register, String table, String words) {
        Map<String, String> how = Map.of("register", register, "table", table == null ? "" : table, "type", "uint32");
        assertThatThrownBy(() -> ModbusPoint.read(how))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining(words.strip());
    }
}
