package dachshund.core.row;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** A row of texts becomes a row of a layout, or says which column keeps it from that. */
class MendedTest {

    private static final RowId ID = new RowId("abcdef", "00000001", 3, 7, 0);
    private static final Instant AT = Instant.parse("2026-11-26T06:00:00.25Z");
    private static final ColumnSource TEXT = new ColumnSource.Constant("");
    private static final Layout LAYOUT = new Layout(List.of(
            Column.of("id", SqlType.text(40), new ColumnSource.FromRun(ColumnSource.Variable.ROW_ID)),
            Column.of("at", SqlType.timestamp(3), new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME)),
            Column.of("weight", SqlType.read("decimal(8,2)"), TEXT),
            new Column("lot", SqlType.text(5), TEXT, true, BadQuality.WRITE_NULL),
            Column.of("day", SqlType.read("date"), TEXT)));

    private static Made made(Map<String, String> texts) {
        return Mended.of(LAYOUT, ID, AT, texts, ZoneOffset.UTC);
    }

    @Test
    void textsBecomeTheTypesOfTheirColumnsAndTheRowStaysTheOneItIs() {
        Made made =
                made(Map.of("id", "another", "at", "1999", "weight", " 12.345 ", "lot", "L 17", "day", "2026-11-26"));
        assertThat(((Made.Whole) made).row().cells())
                .containsExactly(ID.toString(), AT, new BigDecimal("12.35"), "L 17", LocalDate.of(2026, 11, 26));
    }

    @Test
    void whatIsNotThereIsNoValueAndWhatIsRequiredIsAskedFor() {
        Map<String, String> texts = new HashMap<>();
        texts.put("weight", null);
        texts.put("lot", "A");
        assertThat(((Made.Whole) made(texts)).row().cells()).containsExactly(ID.toString(), AT, null, "A", null);
        texts.remove("lot");
        assertThat(((Made.Refused) made(texts)).reason()).isEqualTo("Column lot is required and has no value.");
    }

    @Test
    void whatDoesNotFitSaysWhere() {
        assertThat(((Made.Refused) made(Map.of("lot", "too long"))).reason())
                .startsWith("Column lot is 8 characters long");
        assertThat(((Made.Refused) made(Map.of("lot", "A", "weight", "heavy"))).reason())
                .isEqualTo("Column weight is \"heavy\", which is not a number.");
        assertThat(((Made.Refused) made(Map.of("lot", "A", "day", "today"))).reason())
                .startsWith("Column day is \"today\"");
    }
}
