package dachshund.core.row;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertyLookup;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.ColumnSource.Variable;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Treatment;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** The three shapes, every source of a column, and what is done to values on their way. */
class ShapesTest {

    private static final Instant TICK = Instant.parse("2026-06-30T23:30:00.5Z");
    private static final RowId ID = new RowId("0a1b2c", "deadbeef", 1_700_000_000L, 42, 0);
    private static final TagRef OUTLET = new TagRef("s", "outlet");
    private static final TagRef STATE = new TagRef("s", "state");
    private static final TagRef LOT = new TagRef("s", "lot");
    private static final TagValue BAD = new TagValue(Optional.empty(), Quality.AWAY, TICK, TICK);

    private static final PropertyLookup PL1 = (equipment, property) -> !equipment.equals("pl1")
            ? Optional.empty()
            : property.equals("Power")
                    ? Optional.of(new PropertyLookup.Mapped(
                            new PropertyDesign("Power", DataKind.NUMBER, "kW", true, ""),
                            PropertySource.FromTag.of(OUTLET),
                            "W"))
                    : Optional.of(new PropertyLookup.Mapped(
                            new PropertyDesign(property, DataKind.INTEGER, "", true, ""),
                            new PropertySource.Constant("250"),
                            ""));

    private static final RowFacts FACTS = new RowFacts(
            "Lines",
            "Quillmoor",
            "pl1",
            "PL1",
            new ShiftCalendar(
                    List.of(new Shift(
                            "Night", LocalTime.of(22, 0), LocalTime.of(6, 0), EnumSet.allOf(DayOfWeek.class))),
                    List.of(),
                    true),
            dachshund.core.shift.ShiftOfRow.RUNNING,
            ZoneId.of("Europe/London"),
            PL1);

    private static List<Made> make(
            Layout layout, Map<TagRef, TagValue> now, Map<TagRef, TagValue> good, Optional<Set<TagRef>> changed) {
        RowMaker maker = new RowMaker(layout, FACTS);
        return maker.make(
                ID,
                TICK,
                new Snapshot(
                        maker.tags().stream()
                                .map(tag -> now.getOrDefault(tag, TagValue.NONE))
                                .toArray(TagValue[]::new),
                        maker.tags().stream()
                                .map(tag -> good.getOrDefault(tag, TagValue.NONE))
                                .toArray(TagValue[]::new),
                        changed));
    }

    private static Object[] cells(Column column, Map<TagRef, TagValue> now) {
        Made made =
                make(new Layout(List.of(column)), now, now, Optional.empty()).get(0);
        assertThat(made).as(made.toString()).isInstanceOf(Made.Whole.class);
        return ((Made.Whole) made).row().cells();
    }

    private static Object cell(Column column, Map<TagRef, TagValue> now) {
        return cells(column, now)[0];
    }

    private static Column of(SqlType type, ColumnSource from) {
        return Column.of("c", type, from);
    }

    private static Column value(SqlType type, TagRef tag) {
        return of(type, new ColumnSource.FromTag(tag, Aspect.VALUE));
    }

    @Test
    void runVariablesAreThoseOfTheRow() {
        assertThat(cell(of(SqlType.text(20), new ColumnSource.FromRun(Variable.SITE)), Map.of()))
                .isEqualTo("Quillmoor");
        assertThat(cell(of(SqlType.text(20), new ColumnSource.FromRun(Variable.EQUIPMENT)), Map.of()))
                .isEqualTo("PL1");
        assertThat(cell(of(SqlType.text(20), new ColumnSource.FromRun(Variable.SHIFT)), Map.of()))
                .isEqualTo("Night");
        assertThat(cell(of(SqlType.DATE, new ColumnSource.FromRun(Variable.SHIFT_DATE)), Map.of()))
                .as("the night began the day before")
                .isEqualTo(LocalDate.of(2026, 6, 30));
        assertThat(cell(of(SqlType.DATE, new ColumnSource.FromRun(Variable.RECORD_TIME)), Map.of()))
                .as("the plant's date")
                .isEqualTo(LocalDate.of(2026, 7, 1));
        assertThat(cell(of(SqlType.read("time(1)"), new ColumnSource.FromRun(Variable.RECORD_TIME)), Map.of()))
                .isEqualTo(LocalTime.parse("00:30:00.5"));
        assertThat(cell(of(SqlType.BIGINT, new ColumnSource.FromRun(Variable.EPOCH_TIME)), Map.of()))
                .isEqualTo(1_782_862_200_500L);
    }

    /** The remainder of a source time to 100 ns, beside a time stamp of the declared digits (OPC UA DateTime counts in 100 ns, OPC 10000-6, 5.2.2.5). */
    @Test
    void theRestOfASourceTimeIsWhatItsColumnCutsOff() {
        Map<TagRef, TagValue> now = Map.of(
                OUTLET,
                new TagValue(Optional.of(1.0), Quality.GOOD, Instant.parse("2026-11-24T05:59:59.1234567Z"), TICK));
        ColumnSource rest = new ColumnSource.FromTag(OUTLET, Aspect.SOURCE_TIME_REST);
        assertThat(cell(of(SqlType.INTEGER, rest), now)).isEqualTo(7L);
        Layout millis = new Layout(List.of(
                of(SqlType.timestamp(3), new ColumnSource.FromTag(OUTLET, Aspect.SOURCE_TIME)),
                Column.of("rest", SqlType.INTEGER, rest)));
        assertThat(((Made.Whole) make(millis, now, now, Optional.empty()).get(0))
                        .row()
                        .cells())
                .containsExactly(Instant.parse("2026-11-24T05:59:59.123Z"), 4567L);
    }

    @Test
    void propertiesAreReadInTheirOwnUnitAndTheEquipmentOfTheRecorderIsMeantWhereNoneIsNamed() {
        Map<TagRef, TagValue> now = Map.of(OUTLET, TagValue.good(1500.0, TICK));
        assertThat(cell(of(SqlType.DOUBLE, new ColumnSource.FromProperty("", "Power", Aspect.VALUE)), now))
                .isEqualTo(1.5);
        assertThat(cell(of(SqlType.INTEGER, new ColumnSource.FromProperty("pl1", "Rated power", Aspect.VALUE)), now))
                .isEqualTo(250L);
        assertThat(cell(of(SqlType.DOUBLE, new ColumnSource.FromProperty("other", "Power", Aspect.VALUE)), now))
                .isNull();
        assertThat(cell(of(SqlType.text(60), new ColumnSource.FromProperty("other", "Power", Aspect.QUALITY)), now))
                .isEqualTo("Bad: the equipment has no Power");
    }

    @Test
    void valuesAreScaledClampedRoundedAndGivenWords() {
        Treatment treatment = new Treatment(
                new BigDecimal("0.1"),
                new BigDecimal("-40"),
                Optional.of(new Range(0, 250)),
                OptionalInt.of(1),
                Map.of());
        Map<TagRef, TagValue> now = Map.of(OUTLET, TagValue.good(1013.6, TICK), STATE, TagValue.good(2L, TICK));
        assertThat(cell(value(SqlType.DOUBLE, OUTLET).treated(treatment), now)).isEqualTo(61.4);
        assertThat(cell(value(SqlType.DOUBLE, OUTLET).treated(treatment), Map.of(OUTLET, TagValue.good(9999.0, TICK))))
                .isEqualTo(250.0);
        assertThat(cell(
                        value(SqlType.decimal(5, 1), OUTLET).treated(treatment),
                        Map.of(OUTLET, TagValue.good(-5.0, TICK))))
                .isEqualTo(new BigDecimal("0.0"));
        Treatment words = new Treatment(
                BigDecimal.ONE,
                BigDecimal.ZERO,
                Optional.empty(),
                OptionalInt.empty(),
                Map.of("0", "idle", "1", "run", "2", "fault"));
        assertThat(cell(value(SqlType.text(10), STATE).treated(words), now)).isEqualTo("fault");
        assertThat(cell(value(SqlType.text(10), STATE).treated(words), Map.of(STATE, TagValue.good(9L, TICK))))
                .as("a code without a word")
                .isEqualTo("9");
        Made lot = make(
                        new Layout(List.of(value(SqlType.text(20), LOT).treated(treatment))),
                        Map.of(LOT, TagValue.good("L1", TICK)),
                        Map.of(),
                        Optional.empty())
                .get(0);
        assertThat(((Made.Refused) lot).reason()).contains("is \"L1\", which is not a number");
    }

    @Test
    void dateTimeJsonAndUuidAreWhatTheyAreOrRefused() {
        assertThat(cell(
                        value(SqlType.UUID, LOT),
                        Map.of(LOT, TagValue.good("f81d4fae-7dec-11d0-a765-00a0c91e6bf6", TICK))))
                .isEqualTo(UUID.fromString("f81d4fae-7dec-11d0-a765-00a0c91e6bf6"));
        assertThat(cell(value(SqlType.JSON, LOT), Map.of(LOT, TagValue.good("{\"a\":[1,2]}", TICK))))
                .isEqualTo("{\"a\":[1,2]}");
        for (String type : List.of("uuid", "json", "date", "time")) {
            Made made = make(
                            new Layout(List.of(value(SqlType.read(type), LOT))),
                            Map.of(LOT, TagValue.good("{half", TICK)),
                            Map.of(),
                            Optional.empty())
                    .get(0);
            assertThat(((Made.Refused) made).reason()).contains("{half", "as in RFC");
        }
    }

    @Test
    void theLastGoodValueStandsInForABadOne() {
        Column column = new Column(
                "c", SqlType.DOUBLE, new ColumnSource.FromTag(OUTLET, Aspect.VALUE), false, BadQuality.LAST_GOOD);
        Made made = make(
                        new Layout(List.of(column)),
                        Map.of(OUTLET, BAD),
                        Map.of(OUTLET, TagValue.good(71.5, TICK)),
                        Optional.empty())
                .get(0);
        assertThat(((Made.Whole) made).row().cells()).containsExactly(71.5);
    }

    @Test
    void severalTagsGiveTheFirstGoodOneOrARowEach() {
        Map<TagRef, TagValue> now = Map.of(OUTLET, BAD, STATE, TagValue.good(3L, TICK), LOT, TagValue.good(4L, TICK));
        assertThat(cell(of(SqlType.INTEGER, new ColumnSource.FromTags(List.of(OUTLET, STATE, LOT), false)), now))
                .isEqualTo(3L);
        Layout each = Layout.proposed()
                .plus(of(SqlType.INTEGER, new ColumnSource.FromTags(List.of(OUTLET, STATE, LOT), true)))
                .plus(Column.of("first", SqlType.INTEGER, new ColumnSource.FromTags(List.of(STATE, LOT), true)));
        List<Made> rows = make(each, now, now, Optional.empty());
        assertThat(rows)
                .hasSize(3)
                .extracting(made -> ((Made.Whole) made).row().cells()[2])
                .containsExactly(null, 3L, 4L);
        assertThat(rows)
                .extracting(made -> ((Made.Whole) made).row().cells()[3])
                .containsExactly(3L, 4L, null);
        assertThat(rows)
                .extracting(made -> ((Made.Whole) made).row().id().line())
                .containsExactly(0, 1, 2);
        assertThat(rows)
                .extracting(made -> ((Made.Whole) made).row().cells()[1])
                .doesNotHaveDuplicates();
    }

    @Test
    void aFormulaColumnIsComputedFromItsInputs() {
        ColumnSource from =
                new ColumnSource.FromFormula("if(state = 2, outlet * 2, 0)", Map.of("state", STATE, "outlet", OUTLET));
        assertThat(cell(
                        of(SqlType.DOUBLE, from),
                        Map.of(OUTLET, TagValue.good(21.0, TICK), STATE, TagValue.good(2L, TICK))))
                .isEqualTo(42.0);
        assertThat(cell(of(SqlType.DOUBLE, from), Map.of(OUTLET, BAD, STATE, TagValue.good(2L, TICK))))
                .isNull();
    }

    private static final Layout PER_TAG = Layout.proposed(Shape.ROW_PER_TAG)
            .withLines(List.of(
                    new Line(OUTLET, "Outlet", "Dryer", "°C"),
                    new Line(LOT, "Lot ID", "PL1", ""),
                    new Line(STATE, "Running", "PL1", "")));

    @Test
    void aRowPerTagHasTheTagAndItsValueByType() {
        Map<TagRef, TagValue> now = Map.of(
                OUTLET,
                TagValue.good(71.5, TICK),
                LOT,
                TagValue.good("PL1-0630", TICK),
                STATE,
                TagValue.good(true, TICK));
        List<Made> rows = make(PER_TAG, now, now, Optional.empty());
        assertThat(rows)
                .extracting(made -> java.util.Arrays.asList(
                                ((Made.Whole) made).row().cells())
                        .subList(2, 7))
                .containsExactly(
                        java.util.Arrays.asList("Outlet", "Dryer", 71.5, null, "Good"),
                        java.util.Arrays.asList("Lot ID", "PL1", null, "PL1-0630", "Good"),
                        java.util.Arrays.asList("Running", "PL1", 1.0, null, "Good"));
    }

    @Test
    void aChangeWritesTheRowsOfTheChangedTagsAloneUnlessAllAreWanted() {
        Map<TagRef, TagValue> now = Map.of(OUTLET, TagValue.good(71.5, TICK));
        assertThat(make(PER_TAG, now, now, Optional.of(Set.of(LOT))))
                .singleElement()
                .extracting(made -> ((Made.Whole) made).row().cells()[2])
                .isEqualTo("Lot ID");
        assertThat(make(PER_TAG.withChangedLinesOnly(false), now, now, Optional.of(Set.of(LOT))))
                .hasSize(3);
    }

    /** Two rows, one with a null id: the field is absent from its JSON, and if it is required that row alone is refused (common practice, no source). */
    @Test
    void aDocumentLeavesOutWhatHasNoValue() throws Exception {
        ColumnSource.Document document = new ColumnSource.Document(List.of(
                Column.of("dryer.outlet", SqlType.decimal(6, 2), new ColumnSource.FromTag(OUTLET, Aspect.VALUE)),
                Column.of("dryer.state", SqlType.INTEGER, new ColumnSource.FromTag(STATE, Aspect.VALUE)),
                Column.of("lot", SqlType.text(20), new ColumnSource.FromTag(LOT, Aspect.VALUE)),
                Column.of("at", SqlType.timestamp(3), new ColumnSource.FromRun(Variable.RECORD_TIME))));
        Map<TagRef, TagValue> now = Map.of(
                OUTLET,
                TagValue.good(71.5, TICK),
                STATE,
                TagValue.good(2L, TICK),
                LOT,
                TagValue.good("Späne \"3\"", TICK));
        String text = (String) cell(of(SqlType.JSON, document), now);
        assertThat(new ObjectMapper().readTree(text))
                .isEqualTo(
                        new ObjectMapper()
                                .readTree(
                                        "{\"dryer\":{\"outlet\":71.50,\"state\":2},\"lot\":\"Späne \\\"3\\\"\",\"at\":\"2026-06-30T23:30:00.500Z\"}"));
        assertThat((String) cell(of(SqlType.JSON, document), Map.of(LOT, BAD)))
                .isEqualTo("{\"at\":\"2026-06-30T23:30:00.500Z\"}");
        Column required = new Column(
                "lot", SqlType.text(20), new ColumnSource.FromTag(LOT, Aspect.VALUE), true, BadQuality.WRITE_NULL);
        Made refused = make(
                        new Layout(List.of(of(SqlType.JSON, new ColumnSource.Document(List.of(required))))),
                        Map.of(LOT, BAD),
                        Map.of(),
                        Optional.empty())
                .get(0);
        assertThat(((Made.Refused) refused).reason()).isEqualTo("Column lot is required and has no value.");
    }
}
