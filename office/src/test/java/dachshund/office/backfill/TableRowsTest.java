package dachshund.office.backfill;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.office.backfill.TableRows.Is;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Rows that would be made beside rows as databases give them back. */
class TableRowsTest {

    private static final Instant AT = Instant.parse("2026-11-24T06:00:00Z");
    private static final RowId ID = new RowId("0a1b2c", "deadbeef", 1, 0, 0);
    private static final Layout LAYOUT = Layout.proposed()
            .plus(Column.of("value", SqlType.DOUBLE, new ColumnSource.Constant("1")))
            .plus(Column.of("lot", SqlType.text(20), new ColumnSource.Constant("L1")));
    private static final List<String> NAMES = List.of("id", "record_time", "row_id", "value", "lot");

    private static Row made(Instant at, Object value, Object lot) {
        return new Row(ID, at, new Object[] {at, ID.toString(), value, lot});
    }

    private static void there(TableRows rows, Instant at, Object value, Object lot) {
        rows.add(NAMES, Arrays.asList(7L, at, "another id", value, lot));
    }

    @Test
    void aRowIsThereDifferentOrMissingByItsRecordTime() {
        TableRows rows = new TableRows(LAYOUT, false);
        there(rows, AT, 20.5, "L1");
        there(rows, AT.plusSeconds(10), 20.5, "L1");
        there(rows, AT.plusSeconds(20), null, null);
        assertThat(rows.compare(made(AT, 20.5, "L1"))).isEqualTo(Is.EQUAL);
        assertThat(rows.compare(made(AT, 20.5, "L1")))
                .as("each row of the table answers for one")
                .isEqualTo(Is.DIFFERENT);
        assertThat(rows.compare(made(AT.plusSeconds(10), 20.6, "L1"))).isEqualTo(Is.DIFFERENT);
        assertThat(rows.compare(made(AT.plusSeconds(20), null, null))).isEqualTo(Is.EQUAL);
        assertThat(rows.compare(made(AT.plusSeconds(30), 20.5, "L1"))).isEqualTo(Is.MISSING);
        assertThat(rows.compare(made(AT.plusMillis(10_002), 20.5, "L1"))).isEqualTo(Is.MISSING);
    }

    @Test
    void rowsThatFollowChangesAreNearOfSecondsAndNeverDoubled() {
        TableRows rows = new TableRows(LAYOUT, true);
        there(rows, AT.plusMillis(300), 20.5, "L1");
        there(rows, AT.plusSeconds(60), 21.5, "L1");
        assertThat(rows.compare(made(AT, 20.5, "L1"))).isEqualTo(Is.EQUAL);
        assertThat(rows.compare(made(AT.plusSeconds(57), 99.0, "L1"))).isEqualTo(Is.DIFFERENT);
        assertThat(rows.compare(made(AT.plusSeconds(30), 20.5, "L1"))).isEqualTo(Is.MISSING);
    }

    @Test
    void whereThereIsARowATagItsNameTellsThem() {
        Layout layout = Layout.proposed(Shape.ROW_PER_TAG);
        List<String> names = layout.columns().stream().map(Column::name).toList();
        TableRows rows = new TableRows(layout, false);
        rows.add(names, Arrays.asList(1L, AT, "x", "Outlet", "Dryer", 104.5, null, "Good", AT));
        Object[] outlet = {AT, ID.toString(), "Outlet", "Dryer", 104.5, null, "Good", AT};
        Object[] inlet = {AT, ID.toString(), "Inlet", "Dryer", 104.5, null, "Good", AT};
        assertThat(rows.compare(new Row(ID, AT, inlet))).isEqualTo(Is.MISSING);
        assertThat(rows.compare(new Row(ID, AT, outlet))).isEqualTo(Is.EQUAL);
    }

    @Test
    void cellsAreTheSameHoweverAnEngineGivesThemBack() {
        Column number = Column.of("n", SqlType.decimal(10, 2), new ColumnSource.Constant("1"));
        Column real = Column.of("d", SqlType.DOUBLE, new ColumnSource.Constant("1"));
        Column json = Column.of("j", SqlType.JSON, new ColumnSource.Constant("1"));
        Column time = Column.of("t", SqlType.timestamp(3), new ColumnSource.Constant("1"));
        Column text = Column.of("s", SqlType.text(9), new ColumnSource.Constant("1"));
        assertThat(TableRows.same(new BigDecimal("1.50"), new BigDecimal("1.5"), number))
                .isTrue();
        assertThat(TableRows.same(42L, 42, number)).isTrue();
        assertThat(TableRows.same(9_007_199_254_740_993L, new BigDecimal("9007199254740993"), number))
                .isTrue();
        assertThat(TableRows.same(9_007_199_254_740_993L, new BigDecimal("9007199254740992"), number))
                .isFalse();
        assertThat(TableRows.same(0.1, 0.1f, real)).isTrue();
        assertThat(TableRows.same(0.1, 0.1001, real)).isFalse();
        assertThat(TableRows.same("{\"a\": 1, \"b\": 2}", "{\"b\":2,\"a\":1}", json))
                .isTrue();
        assertThat(TableRows.same("{", "{", json)).isTrue();
        assertThat(TableRows.same(AT.plusNanos(123_456_789), AT.plusMillis(123), time))
                .isTrue();
        assertThat(TableRows.same(AT.plusMillis(1), AT.plusMillis(3), time)).isFalse();
        assertThat(TableRows.same("L1", "L1  ", text))
                .as("as CHAR columns fill up")
                .isTrue();
        assertThat(TableRows.same(null, "", text)).isFalse();
    }

    @Test
    void withoutAColumnOfTheRecordTimeItIsSaidWhy() {
        assertThatThrownBy(() -> new TableRows(new Layout(List.of()), false)).hasMessageContaining("record time");
    }
}
