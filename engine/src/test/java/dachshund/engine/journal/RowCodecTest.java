package dachshund.engine.journal;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import java.time.Instant;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;

class RowCodecTest {

    private static final RowId OWNER = new RowId("0a1b2c", "deadbeef", 0, 0, 0);

    @Property
    void everyRowComesBackAsItWas(@ForAll("cells") Object[] cells, @ForAll("sequences") long sequence) {
        Row row = new Row(
                new RowId("0a1b2c", "deadbeef", 1_790_000_000L, sequence, 3),
                Instant.parse("2026-11-24T06:00:00.1234567Z"),
                cells);
        byte[] bytes = RowCodec.write(77, row);
        RowCodec.Decoded decoded = RowCodec.read(bytes, design -> OWNER);
        assertThat(RowCodec.design(bytes)).isEqualTo(77);
        assertThat(decoded.row().id()).isEqualTo(row.id());
        assertThat(decoded.row().recordTime()).isEqualTo(row.recordTime());
        assertThat(decoded.row().cells()).containsExactly(cells);
    }

    @Provide
    Arbitrary<Object[]> cells() {
        Arbitrary<Object> cell = Arbitraries.oneOf(
                Arbitraries.strings().map(text -> (Object) text),
                Arbitraries.longs().map(number -> (Object) number),
                Arbitraries.doubles().map(number -> (Object) number),
                Arbitraries.of(true, false).map(yes -> (Object) yes),
                Arbitraries.bigDecimals().map(number -> (Object) number),
                Arbitraries.longs().between(-62_135_596_800L, 253_402_300_799L).map(s ->
                        (Object) Instant.ofEpochSecond(s, 123_456_789)));
        return cell.injectNull(0.1).array(Object[].class).ofMaxSize(25);
    }

    @Provide
    Arbitrary<Long> sequences() {
        return Arbitraries.longs().between(0, (1L << 40) - 1);
    }
}
