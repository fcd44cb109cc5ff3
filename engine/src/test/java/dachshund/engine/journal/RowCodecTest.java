package dachshund.engine.journal;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.UUID;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;

class RowCodecTest {

    @Property
    void everyRowComesBackAsItWas(@ForAll("cells") Object[] cells, @ForAll("sequences") long sequence) {
        Row row = new Row(
                new RowId("0a1b2c", "deadbeef", 1_790_000_000L, sequence, 3),
                Instant.parse("2026-11-24T06:00:00.1234567Z"),
                cells);
        byte[] bytes = RowCodec.write(77, "hall/äöü", row);
        Journal.Entry entry = new Journal.Entry(0, 1, "0a1b2c", "deadbeef", 1, 'R', RowCodec.VERSION, bytes);
        RowCodec.Decoded decoded = RowCodec.read(entry);
        assertThat(RowCodec.design(entry)).isEqualTo(77);
        assertThat(decoded.design()).isEqualTo(77);
        assertThat(decoded.place()).isEqualTo("hall/äöü");
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
                Arbitraries.longs().between(-1_000_000, 1_000_000).map(day -> (Object) LocalDate.ofEpochDay(day)),
                Arbitraries.longs().between(0, 86_399_999_999_999L).map(nanos -> (Object) LocalTime.ofNanoOfDay(nanos)),
                Arbitraries.longs().map(bits -> (Object) new UUID(bits, ~bits)),
                Arbitraries.bigDecimals().map(number -> (Object) number),
                Arbitraries.longs().between(-62_135_596_800L, 253_402_300_799L).map(s ->
                        (Object) Instant.ofEpochSecond(s, 123_456_789)));
        return cell.injectNull(0.1).array(Object[].class).ofMaxSize(25);
    }

    @Provide
    Arbitrary<Long> sequences() {
        return Arbitraries.longs().between(0, (1L << 40) - 1);
    }

    @Property
    void bytesThatAreNoRowAreNamedAndNeverThrowAnythingElse(@ForAll byte[] bytes) {
        try {
            RowCodec.read(new Journal.Entry(0, 1, "0a1b2c", "deadbeef", 1, 'R', RowCodec.VERSION, bytes));
        } catch (RowCodec.Unreadable expected) {
            assertThat(expected).hasMessageContaining("entry of the journal");
        }
    }
}
