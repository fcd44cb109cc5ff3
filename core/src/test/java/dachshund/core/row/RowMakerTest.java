package dachshund.core.row;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.ColumnSource.FromTag;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class RowMakerTest {

    private static final Instant TICK = Instant.parse("2026-11-24T06:00:00Z");
    private static final Instant SOURCE_TIME = Instant.parse("2026-11-24T05:59:59.1234567Z");
    private static final RowId ID = new RowId("0a1b2c", "deadbeef", 1_700_000_000L, 42, 0);
    private static final TagRef OUTLET = new TagRef("s", "outlet");
    private static final TagRef LOT = new TagRef("s", "lot");

    private static Column tag(
            String name, SqlType type, TagRef tag, Aspect aspect, BadQuality badQuality, boolean required) {
        return new Column(name, type, new FromTag(tag, aspect), required, badQuality);
    }

    private static Column value(SqlType type, BadQuality badQuality) {
        return tag("outlet", type, OUTLET, Aspect.VALUE, badQuality, false);
    }

    private static Made make(Layout layout, TagValue... values) {
        return new RowMaker(layout, RowFacts.of("Dryer log", ZoneOffset.UTC))
                .make(ID, TICK, Snapshot.of(values))
                .get(0);
    }

    private static final TagValue GOOD = new TagValue(Optional.of(101.25), Quality.GOOD, SOURCE_TIME, TICK);
    private static final TagValue BAD =
            new TagValue(Optional.of(99.0), Quality.bad(0x808D0000L, "sensor failure"), SOURCE_TIME, TICK);

    @Test
    void everyKindOfColumnGetsItsValue() {
        Layout layout = Layout.proposed()
                .plus(value(SqlType.DOUBLE, BadQuality.WRITE_NULL))
                .plus(tag("quality", SqlType.text(80), OUTLET, Aspect.QUALITY, BadQuality.WRITE_NULL, false))
                .plus(tag(
                        "source_time", SqlType.timestamp(6), OUTLET, Aspect.SOURCE_TIME, BadQuality.WRITE_NULL, false))
                .plus(Column.of("site", SqlType.text(20), new ColumnSource.Constant("Quillmoor")))
                .plus(Column.of("recorder", SqlType.text(40), new ColumnSource.FromRun(ColumnSource.Variable.RECORDER)))
                .plus(Column.of("n", SqlType.BIGINT, new ColumnSource.FromRun(ColumnSource.Variable.SEQUENCE)));
        Made.Whole whole = (Made.Whole) make(layout, GOOD);
        assertThat(whole.row().cells())
                .containsExactly(
                        TICK,
                        "0a1b2c-deadbeef-6553f100-000000002a-0000",
                        101.25,
                        "Good",
                        Instant.parse("2026-11-24T05:59:59.123456Z"),
                        "Quillmoor",
                        "Dryer log",
                        42L);
    }

    @Test
    void aConstantThatIsNotWrittenYetIsNoValueWhereItIsNoText() {
        Layout layout = new Layout(List.of(
                value(SqlType.DOUBLE, BadQuality.WRITE_NULL),
                Column.of("n", SqlType.DOUBLE, new ColumnSource.Constant("")),
                Column.of("t", SqlType.text(5), new ColumnSource.Constant(""))));
        assertThat(((Made.Whole) make(layout, GOOD)).row().cells()).containsExactly(101.25, null, "");
    }

    @Test
    void aTagNamedTwiceIsAskedOnce() {
        Layout layout = new Layout(List.of(
                value(SqlType.DOUBLE, BadQuality.WRITE_NULL),
                tag("q", SqlType.text(80), OUTLET, Aspect.QUALITY, BadQuality.WRITE_NULL, false),
                tag("lot", SqlType.text(20), LOT, Aspect.VALUE, BadQuality.WRITE_NULL, false)));
        assertThat(new RowMaker(layout, RowFacts.of("x", ZoneOffset.UTC)).tags())
                .containsExactly(OUTLET, LOT);
    }

    @Test
    void badQualityDoesWhatItsColumnSays() {
        assertThat(((Made.Whole) make(new Layout(List.of(value(SqlType.DOUBLE, BadQuality.WRITE_NULL))), BAD))
                        .row()
                        .cells())
                .containsExactly((Object) null);
        assertThat(((Made.Whole) make(new Layout(List.of(value(SqlType.DOUBLE, BadQuality.AS_IS))), BAD))
                        .row()
                        .cells())
                .containsExactly(99.0);
        assertThat(make(new Layout(List.of(value(SqlType.DOUBLE, BadQuality.SKIP_ROW))), BAD))
                .isInstanceOf(Made.Skipped.class);
        assertThat(((Made.Refused) make(new Layout(List.of(value(SqlType.DOUBLE, BadQuality.SET_ASIDE))), BAD))
                        .reason())
                .contains("sensor failure");
    }

    @Test
    void aNumberThatIsNoneIsBadAndNeverANumberInATable() {
        TagValue notANumber = new TagValue(Optional.of(Double.NaN), Quality.GOOD, SOURCE_TIME, TICK);
        assertThat(notANumber.quality()).isEqualTo(Quality.NOT_A_NUMBER);
        assertThat(((Made.Whole) make(new Layout(List.of(value(SqlType.DOUBLE, BadQuality.AS_IS))), notANumber))
                        .row()
                        .cells())
                .containsExactly((Object) null);
    }

    @Test
    void aMissingRequiredValueRefusesTheRowAndSaysSo() {
        Layout layout =
                new Layout(List.of(tag("lot", SqlType.text(20), LOT, Aspect.VALUE, BadQuality.WRITE_NULL, true)));
        assertThat(((Made.Refused) make(layout, TagValue.NONE)).reason())
                .isEqualTo("Column lot is required and has no value.");
    }

    @Test
    void aValueThatDoesNotFitRefusesTheRowAndKeepsEveryValue() {
        Layout layout = new Layout(List.of(
                value(SqlType.DOUBLE, BadQuality.WRITE_NULL),
                tag("lot", SqlType.INTEGER, LOT, Aspect.VALUE, BadQuality.WRITE_NULL, false)));
        Made.Refused refused = (Made.Refused) make(layout, GOOD, TagValue.good("PL1-261124-02", TICK));
        assertThat(refused.reason()).isEqualTo("The value for column lot is \"PL1-261124-02\", which is not a number.");
        assertThat(refused.values()).containsExactly("101.25", "PL1-261124-02");
    }

    @Test
    void rowIdsSortInTheOrderTheyWereMadeAndReadBack() {
        RowId later = new RowId("0a1b2c", "deadbeef", 1_700_000_001L, 1, 0);
        assertThat(ID).isLessThan(ID.withSequence(43)).isLessThan(later);
        assertThat(RowId.read(later.toString())).isEqualTo(later);
        assertThat(later.toString()).hasSize(40);
    }
}
