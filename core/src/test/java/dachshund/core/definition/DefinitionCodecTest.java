package dachshund.core.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.aggregate.Aggregate;
import dachshund.core.destination.WriteMode;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Treatment;
import dachshund.core.layout.Upkeep;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.JoinedQuery;
import dachshund.core.query.Per;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TimeColumn;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.core.when.Condition;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.OptionalInt;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** Golden files hold what documents of each schema look like: they must stay readable for ever. */
class DefinitionCodecTest {

    private static final List<Definition> DEFINITIONS = List.of(
            new SourceDefinition(
                    "00000001",
                    "Pellet works",
                    "",
                    "opcua",
                    Map.of("address", "opc.tcp://127.0.0.1:4840"),
                    Duration.ofSeconds(1),
                    List.of(new TagInfo(
                            "nsu=urn:quillmoor;s=Drying/Outlet",
                            "Drying",
                            "Outlet",
                            DataKind.NUMBER,
                            "°C",
                            "Exhaust air",
                            false))),
            new EquipmentClassDefinition(
                    "00000004",
                    "Pellet line",
                    "A press",
                    List.of(new PropertyDesign("Output", DataKind.NUMBER, "t/h", true, ""))),
            new EquipmentDefinition(
                    "00000005",
                    "PL1",
                    "",
                    "00000004",
                    "Pelleting",
                    Map.of(
                            "Output",
                            new PropertySource.FromTag(
                                    new TagRef("00000001", "nsu=urn:quillmoor;s=PL1/Output"), "kg/h", "x * 2"))),
            new DestinationDefinition(
                    "00000002",
                    "Records",
                    "Production",
                    "mariadb",
                    Map.of("host", "127.0.0.1", "port", "3306", "password", "sealed:abc")),
            new RecorderDefinition(
                    "00000003",
                    "Dryer log",
                    "",
                    List.of(new When.Every(Duration.ofMillis(500))),
                    Layout.proposed()
                            .plus(new Column(
                                    "outlet",
                                    SqlType.decimal(8, 2),
                                    new ColumnSource.FromTag(
                                            new TagRef("00000001", "nsu=urn:quillmoor;s=Drying/Outlet"),
                                            ColumnSource.Aspect.VALUE),
                                    true,
                                    BadQuality.SET_ASIDE))
                            .plus(Column.of("site", SqlType.text(20), new ColumnSource.Constant("Quillmoor"))),
                    List.of(new RecorderDefinition.Where("00000002", "dryer_log", new Upkeep(true, false), true))));

    @Test
    void documentsAreReadBackEqual() {
        DEFINITIONS.forEach(definition -> assertThat(DefinitionCodec.read(DefinitionCodec.write(definition)))
                .isEqualTo(definition));
    }

    @Test
    void goldenDocumentsAreStillUnderstoodAndStillWritten() throws Exception {
        ObjectMapper json = new ObjectMapper();
        for (Definition definition : DEFINITIONS) {
            String name = "/golden/" + definition.kind().id().toLowerCase(java.util.Locale.ROOT);
            assertThat(DefinitionCodec.read(golden(name + "-1.json"))).isEqualTo(definition);
            assertThat(json.readTree(DefinitionCodec.write(definition)))
                    .isEqualTo(json.readTree(golden(name + "-2.json")));
        }
        assertThat(json.readTree(DefinitionCodec.write(FULL)))
                .isEqualTo(json.readTree(golden("/golden/recorder-full-2.json")));
        assertThat(DefinitionCodec.read(golden("/golden/recorder-full-2.json"))).isEqualTo(FULL);
        // Kinds that came after schema 1.
        KeepingRuleDefinition rule = new KeepingRuleDefinition(
                "00000009",
                "Dryer",
                "What the dryer does",
                new Selection(
                        List.of(LOT, new TagRef("00000001", "state")),
                        "00000001",
                        "Drying",
                        "00000003",
                        "outlet temperature"),
                new Density(Optional.empty(), 0.5, true),
                90,
                3650);
        assertThat(json.readTree(DefinitionCodec.write(rule)))
                .isEqualTo(json.readTree(golden("/golden/keeping_rule-2.json")));
        assertThat(DefinitionCodec.read(golden("/golden/keeping_rule-2.json"))).isEqualTo(rule);
        DatabaseDefinition database = new DatabaseDefinition(
                "00000002",
                "Records",
                "Production",
                "mariadb",
                Map.of("host", "127.0.0.1", "port", "3306", "password", "sealed:abc"));
        assertThat(json.readTree(DefinitionCodec.write(database)))
                .isEqualTo(json.readTree(golden("/golden/database-2.json")));
        assertThat(DefinitionCodec.read(golden("/golden/database-2.json"))).isEqualTo(database);
        WrittenQuery sql =
                new WrittenQuery("00000002", "SELECT * FROM sample WHERE moisture_pct > :moisture AND taken >= :from");
        // Before there were others, a query was SQL of a database.
        assertThat(DefinitionCodec.read(golden("/golden/query-sql-2.json"))).isEqualTo(query(sql));
        for (QueryBody asks : List.of(sql, DESIGNED, TAGS, JOINED)) {
            String file = "/golden/query-" + asks.getClass().getSimpleName() + "-2.json";
            assertThat(json.readTree(DefinitionCodec.write(query(asks)))).isEqualTo(json.readTree(golden(file)));
            assertThat(DefinitionCodec.read(golden(file))).isEqualTo(query(asks));
        }
        TrendDefinition trend = new TrendDefinition(
                "00000007",
                "Dryer",
                "",
                "last 7 days",
                List.of(
                        Band.shifts("1"),
                        new Band("2", "Lot", new BandSource.OfTag(LOT)),
                        new Band("3", "Orders", new BandSource.OfQuery("00000006", "started", "ended", "order_no"))),
                List.of(
                        Curve.of("1", "Outlet", "°C", true, false, new CurveSource.OfTag(LOT))
                                .on("")
                                .between(OptionalDouble.of(95.5), OptionalDouble.empty())
                                .looking(new Curve.Look(3, true, 1)),
                        Curve.of(
                                        "2",
                                        "Moisture",
                                        "%",
                                        false,
                                        true,
                                        new CurveSource.OfTable(
                                                "00000002",
                                                "lab",
                                                "sample",
                                                "taken",
                                                TimeColumn.Form.STAMP,
                                                "moisture_pct",
                                                "line",
                                                "PL1"))
                                .on("quality")
                                .in(2)
                                .earlier(Duration.ofDays(1)),
                        Curve.of("3", "Ash", "", false, true, new CurveSource.OfQuery("00000006", "taken", "ash_pct"))
                                .drawn(false, true, true),
                        Curve.of(
                                "4",
                                "By hand",
                                "",
                                false,
                                true,
                                new CurveSource.Pasted("2026-11-28 06:00\t1,5", "DAY_FIRST"))));
        assertThat(DefinitionCodec.read(DefinitionCodec.write(trend))).isEqualTo(trend);
        assertThat(json.readTree(DefinitionCodec.write(trend)))
                .isEqualTo(json.readTree(golden("/golden/trend-2.json")));
        assertThat(DefinitionCodec.read(golden("/golden/trend-2.json"))).isEqualTo(trend);
        TrendDefinition inOnePlot = trend.under(List.of(Band.shifts("1"))).changed("2", each -> each.in(1));
        assertThat(DefinitionCodec.read(golden("/golden/trend-before-plots-2.json")))
                .isEqualTo(inOnePlot);
        assertThat(((TrendDefinition) DefinitionCodec.read(golden("/golden/trend-before-looks-2.json")))
                        .changed("1", each -> each.looking(new Curve.Look(3, true, 1))))
                .isEqualTo(inOnePlot);
        // Marks of before were kept for ever.
        assertThat(((TransactionDefinition) DefinitionCodec.read(
                                golden("/golden/transaction-2.json").replaceAll(",\\s*\"keepMarks\": 400", "")))
                        .policy()
                        .keepMarks())
                .isZero();
        // Rules of before knew no summaries.
        assertThat(DefinitionCodec.read(
                        golden("/golden/keeping_rule-2.json").replaceAll(",\\s*\"summaries\": 3650", "")))
                .isEqualTo(new KeepingRuleDefinition(
                        rule.id(), rule.name(), rule.description(), rule.which(), rule.how(), 90, 0));
    }

    private static QueryDefinition query(QueryBody asks) {
        return new QueryDefinition(
                "00000006",
                "Lots outside",
                "What the laboratory found",
                asks,
                "this week",
                List.of(new QueryParameter("moisture", QueryParameter.Sort.NUMBER, "10")));
    }

    private static final DesignedQuery DESIGNED = new DesignedQuery(
            "00000002",
            new TableName("lab", "sample"),
            List.of(new DesignedQuery.Join(
                    new TableName("lab", "lot"),
                    List.of(new DesignedQuery.Pair(new DesignedQuery.ColumnOf(0, "lot_id"), "id")),
                    true)),
            Optional.of(
                    new DesignedQuery.Time(new DesignedQuery.ColumnOf(0, "taken"), TimeColumn.Form.STAMP, "datetime")),
            Optional.of(Per.SHIFT),
            List.of(new DesignedQuery.ColumnOf(1, "line")),
            List.of(
                    new DesignedQuery.Shown(
                            DesignedQuery.How.MEAN,
                            Optional.of(new DesignedQuery.ColumnOf(0, "moisture_pct")),
                            "",
                            "moisture"),
                    new DesignedQuery.Shown(DesignedQuery.How.COMPUTED, Optional.empty(), "moisture / 100", "share")),
            List.of(new DesignedQuery.Filter(
                    new DesignedQuery.ColumnOf(0, "moisture_pct"),
                    DesignedQuery.Op.GREATER,
                    ":moisture",
                    QueryParameter.Sort.NUMBER)),
            List.of(new DesignedQuery.Order("moisture", true)),
            100);
    private static final TagHistory TAGS = new TagHistory(
            new Selection(List.of(new TagRef("00000001", "lot")), "", "Energy", "", "kWh"),
            TagHistory.Mode.AGGREGATED,
            Optional.of(Per.SHIFT),
            Duration.ofMinutes(15),
            List.of(
                    new TagHistory.Calculation.Increase(65536),
                    new TagHistory.Calculation.OfPart13(Aggregate.TIME_AVERAGE),
                    new TagHistory.Calculation.OfPercent(95),
                    new TagHistory.Calculation.TimeAbove(10.5)),
            true);
    private static final JoinedQuery JOINED = new JoinedQuery(
            List.of(new JoinedQuery.Part("lots", "00000010"), new JoinedQuery.Part("samples", "00000011")),
            "SELECT * FROM lots ASOF JOIN samples ON lots.line = samples.line AND lots.ended >= samples.taken");

    private String golden(String file) throws Exception {
        return new String(getClass().getResourceAsStream(file).readAllBytes(), StandardCharsets.UTF_8);
    }

    private static final TagRef LOT = new TagRef("00000001", "lot");
    private static final Condition RUNNING =
            new Condition("state = 1", Map.of("state", new TagRef("00000001", "state")));

    /** A recorder with one of everything that schema 2 knows. */
    private static final RecorderDefinition FULL = new RecorderDefinition(
            "00000007",
            "Everything",
            "",
            "00000005",
            List.of(
                    new When.Every(Duration.ofSeconds(1), true),
                            new When.OnChange(
                                    new Deadband(Deadband.Kind.PERCENT, 2),
                                    List.of(LOT),
                                    Duration.ofSeconds(1),
                                    Duration.ofMinutes(5)),
                    new When.AtTimes(Set.of(DayOfWeek.MONDAY), List.of(LocalTime.of(6, 0)), true, When.Missed.MARK),
                            new When.AtShiftEnds(When.Missed.RUN_LATE),
                    new When.ByCron("0 6 * * 1-5", false, When.Missed.SKIP),
                            new When.OnCondition(RUNNING, When.Edge.BOTH, Duration.ofSeconds(2), Duration.ZERO),
                    new When.OnIdentifier(LOT, Duration.ZERO, Duration.ofSeconds(5)),
                            new When.WhileTrue(RUNNING, Duration.ofMillis(10))),
            Optional.of(RUNNING),
            new Layout(
                    Shape.ROW_PER_TAG,
                    List.of(
                            new Column(
                                    "value",
                                    SqlType.decimal(8, 2),
                                    new ColumnSource.FromLine(ColumnSource.LineFact.VALUE),
                                    false,
                                    BadQuality.LAST_GOOD,
                                    new Treatment(
                                            new BigDecimal("0.001"),
                                            BigDecimal.TEN,
                                            Optional.of(new Range(0, 5)),
                                            OptionalInt.of(1),
                                            Map.of("1", "run"))),
                            Column.of("either", SqlType.DOUBLE, new ColumnSource.FromTags(List.of(LOT), true)),
                            Column.of(
                                    "output",
                                    SqlType.DOUBLE,
                                    new ColumnSource.FromProperty("", "Output", ColumnSource.Aspect.VALUE)),
                            Column.of("sum", SqlType.DOUBLE, new ColumnSource.FromFormula("a + 1", Map.of("a", LOT))),
                            Column.of(
                                    "all",
                                    SqlType.JSON,
                                    new ColumnSource.Document(List.of(Column.of(
                                            "lot",
                                            SqlType.text(20),
                                            new ColumnSource.FromTag(LOT, ColumnSource.Aspect.SOURCE_TIME_REST)))))),
                    List.of(new Line(LOT, "Lot", "PL1", "")),
                    false,
                    List.of("value"),
                    List.of(List.of("either", "output"))),
            List.of(
                    new RecorderDefinition.Where(
                            "00000002", "t_{yyyy}", Upkeep.NONE, true, new WriteMode.Call("take", List.of("a")), ""),
                    new RecorderDefinition.Where(
                            "00000008", "t", Upkeep.NONE, false, new WriteMode.InsertOrUpdate(), "00000002")),
            Optional.of(new Follows<>(
                    "00000003",
                    List.of(new Follows.Swap(LOT, new TagRef("00000001", "lot2"))),
                    Map.of("site", "Q"),
                    Optional.of(Duration.ofSeconds(5)))));

    /** What a tag has beyond the common facts is written only where it is there, and comes back. */
    @Test
    void aTagWithAllItsFactsIsReadBackEqual() {
        TagInfo tag = new TagInfo(
                "t1",
                "Energy",
                "Power",
                DataKind.NUMBER,
                "kW",
                "",
                true,
                Optional.of(new Range(0, 1200)),
                OptionalInt.of(1),
                Optional.of(Duration.ofMinutes(5)),
                List.of("energy"),
                Map.of("register", "30001"),
                Map.of("unit", "W"));
        SourceDefinition source = new SourceDefinition(
                "00000006",
                "Meters",
                "",
                "modbus",
                Map.of("host", "gateway"),
                Duration.ofSeconds(1),
                List.of(tag),
                true);
        assertThat(DefinitionCodec.read(DefinitionCodec.write(source))).isEqualTo(source);
        assertThat(DefinitionCodec.readTags(DefinitionCodec.writeTags(source.tags())))
                .isEqualTo(source.tags());
        assertThat(DefinitionCodec.write(DEFINITIONS.get(0))).doesNotContain("range", "labels", "writing", "folder");
    }

    @Test
    void aWhereThatNamesDatabaseAndDestinationByTheRowIsReadBackEqual() {
        RecorderDefinition byRow = FULL.withWheres(List.of(new RecorderDefinition.Where(
                "00000002", "t", Upkeep.NONE, false, new WriteMode.Insert(), "", "plant_{value}", "{value}")));
        assertThat(DefinitionCodec.read(DefinitionCodec.write(byRow))).isEqualTo(byRow);
    }

    @Test
    void aHeadingIsReadBackAndOneThatIsNoneLeavesTheDocumentAsItWas() {
        List<Column> columns = FULL.layout().columns();
        RecorderDefinition headed =
                FULL.withLayout(FULL.layout().with(0, columns.get(0).headed("Outlet [°C]")));
        assertThat(DefinitionCodec.read(DefinitionCodec.write(headed))).isEqualTo(headed);
        assertThat(DefinitionCodec.write(headed)).contains("\"heading\":\"Outlet [°C]\"");
        assertThat(DefinitionCodec.write(FULL)).doesNotContain("heading");
    }

    @Test
    void whatIsNoneIsRefusedWithASentence() {
        assertThatThrownBy(() -> DefinitionCodec.read("{\"schemaVersion\": 99, \"is\": \"source\"}"))
                .hasMessageContaining("another version");
        assertThatThrownBy(() -> DefinitionCodec.read("not json")).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> DefinitionCodec.read("{\"schemaVersion\": 1, \"is\": \"recorder\"}"))
                .isInstanceOf(IllegalArgumentException.class);
    }
}
