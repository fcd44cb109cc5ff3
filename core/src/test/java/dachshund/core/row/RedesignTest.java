package dachshund.core.row;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.tag.TagRef;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Rows that were made under one layout, under another. */
class RedesignTest {

    private static final Instant AT = Instant.parse("2026-11-26T05:00:00Z");
    private static final RowId ID = new RowId("0a1b2c", "deadbeef", 7, 12, 0);

    private static Column tag(String name, SqlType type, String address) {
        return Column.of(name, type, new ColumnSource.FromTag(new TagRef("s", address), Aspect.VALUE));
    }

    private static final Layout BEFORE = Layout.proposed()
            .plus(tag("output", SqlType.DOUBLE, "Output"))
            .plus(tag("moisture", SqlType.DOUBLE, "Moisture"))
            .plus(tag("lot", SqlType.text(20), "Lot"));

    private static Row row(Object output, Object moisture, Object lot) {
        return new Row(ID, AT, new Object[] {AT, ID.toString(), output, moisture, lot});
    }

    private static Object[] given(Layout after, Row row) {
        Made made = new Redesign(BEFORE, after, ZoneOffset.UTC).of(row);
        assertThat(made).isInstanceOf(Made.Whole.class);
        assertThat(((Made.Whole) made).row().id()).isEqualTo(ID);
        return ((Made.Whole) made).row().cells();
    }

    @Test
    void columnsAreFoundByNameOrByWhatTheyShowAndTakeTheirNewType() {
        Layout after = new Layout(List.of(
                tag("lot", SqlType.read("integer"), "Lot"),
                tag("tonnes_an_hour", SqlType.read("decimal(6,1)"), "Output"),
                BEFORE.columns().get(1),
                BEFORE.columns().get(2),
                Column.of("site", SqlType.text(10), new ColumnSource.Constant("Quillmoor")),
                Column.of("n", SqlType.BIGINT, new ColumnSource.FromRun(ColumnSource.Variable.SEQUENCE)),
                tag("fines", SqlType.DOUBLE, "Fines")));
        assertThat(given(after, row(12.34, 8.0, "4711")))
                .containsExactly(4711L, new BigDecimal("12.3"), AT, ID.toString(), "Quillmoor", 12L, null);
        assertThat(new Redesign(BEFORE, after, ZoneOffset.UTC).lost()).containsExactly("moisture");
    }

    @Test
    void whatDoesNotFitSaysWhyAndKeepsItsValues() {
        Layout after = new Layout(List.of(tag("lot", SqlType.read("smallint"), "Lot")));
        Made.Refused refused = (Made.Refused) new Redesign(BEFORE, after, ZoneOffset.UTC).of(row(1.0, null, "L-4711"));
        assertThat(refused.reason()).startsWith("lot is").contains("L-4711");
        assertThat(refused.values()).hasSize(5).contains("L-4711", "");
        Layout required = new Layout(List.of(new Column(
                "fines",
                SqlType.DOUBLE,
                new ColumnSource.FromTag(new TagRef("s", "Fines"), Aspect.VALUE),
                true,
                BadQuality.WRITE_NULL)));
        assertThat(((Made.Refused) new Redesign(BEFORE, required, ZoneOffset.UTC).of(row(1.0, 1.0, "x"))).reason())
                .isEqualTo("fines is required, and the row was made without it.");
    }

    @Test
    void whateverAValueThrowsIsAReasonOfItsRow() {
        Number strange = new Number() {
            private static final long serialVersionUID = 1;

            @Override
            public int intValue() {
                throw new IllegalStateException("never");
            }

            @Override
            public long longValue() {
                throw new IllegalStateException("never");
            }

            @Override
            public float floatValue() {
                throw new IllegalStateException("never");
            }

            @Override
            public double doubleValue() {
                throw new IllegalStateException("never");
            }

            @Override
            public String toString() {
                throw new IllegalStateException("never");
            }
        };
        Layout after = new Layout(List.of(tag("output", SqlType.read("decimal(6,1)"), "Output")));
        Made.Refused refused = (Made.Refused) new Redesign(BEFORE, after, ZoneOffset.UTC).of(row(strange, 1.0, "x"));
        assertThat(refused.reason()).contains("output cannot be converted").contains("never");
    }

    @Test
    void columnsThatChangedPlacesAreNotMistakenForEachOther() {
        Layout swapped = new Layout(
                List.of(tag("moisture", SqlType.DOUBLE, "Output"), tag("output", SqlType.DOUBLE, "Moisture")));
        assertThat(given(swapped, row(12.0, 8.0, "x")))
                .as("a name stands for its column, whatever fills it now")
                .containsExactly(8.0, 12.0);
    }
}
