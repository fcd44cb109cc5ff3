package dachshund.web.start;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.JoinedQuery;
import dachshund.core.query.Per;
import dachshund.core.query.QueryBody;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.QueryParameter.Sort;
import dachshund.core.query.TagHistory;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TimeColumn;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.own.DachshundSettings;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.stream.Stream;

/** The databases of laboratory and orders in the demo, and what is asked of them. */
final class DemoQuestions {

    private final Drafts drafts;
    private final DachshundSettings.Database server;
    private final String by;

    DemoQuestions(Drafts drafts, DachshundSettings.Database server, String by) {
        this.drafts = drafts;
        this.server = server;
        this.by = by;
    }

    void make(DestinationDefinition records, SourceDefinition source, Optional<SourceDefinition> meters) {
        String laboratory =
                readOnly("Laboratory", "What the laboratory found of each lot", "quillmoor_lab", "Europe/London");
        String orders = readOnly("Orders", "Orders of pellets and the lots made for them", "quillmoor_orders", "UTC");
        ask(
                "Lots outside class A1",
                "What the laboratory found that ISO 17225-2 does not allow",
                laboratory,
                """
                SELECT lot_id, taken, moisture_pct, durability_pct, fines_pct, bulk_density_kg_m3, ash_pct
                FROM sample_outside_a1
                WHERE taken >= :from AND taken < :to
                ORDER BY taken DESC""",
                "last 7 days",
                List.of());
        ask(
                "Samples of a line",
                "",
                laboratory,
                """
                SELECT sample_no, lot_id, taken, reported, moisture_pct, durability_pct, analyst, remark
                FROM sample
                WHERE line = :line AND moisture_pct >= :least_moisture AND taken >= :from AND taken < :to
                ORDER BY taken DESC""",
                "last 7 days",
                List.of(
                        new QueryParameter("line", Sort.TEXT, "PL1"),
                        new QueryParameter("least_moisture", Sort.NUMBER, "0")));
        String lots = ask(
                "Lots of the orders",
                "Each lot with its order",
                new DesignedQuery(
                        orders,
                        new TableName("quillmoor_orders", "order_lot"),
                        List.of(new DesignedQuery.Join(
                                new TableName("quillmoor_orders", "pellet_order"),
                                List.of(new DesignedQuery.Pair(of(0, "order_no"), "order_no")),
                                false)),
                        Optional.of(new DesignedQuery.Time(of(0, "ended"), TimeColumn.Form.STAMP, "datetime")),
                        Optional.empty(),
                        List.of(),
                        Stream.of(
                                        of(0, "lot_id"),
                                        of(0, "line"),
                                        of(0, "ended"),
                                        of(0, "pellets_kg"),
                                        of(0, "order_no"),
                                        of(1, "product_code"))
                                .map(column -> shown(DesignedQuery.How.ITSELF, column, ""))
                                .toList(),
                        List.of(),
                        List.of(new DesignedQuery.Order("ended", true)),
                        0),
                "last 7 days");
        ask(
                "Pellets a line and shift",
                "Tonnes and lots by the shift in which they ended",
                new DesignedQuery(
                        orders,
                        new TableName("quillmoor_orders", "order_lot"),
                        List.of(),
                        Optional.of(new DesignedQuery.Time(of(0, "ended"), TimeColumn.Form.STAMP, "datetime")),
                        Optional.of(Per.SHIFT),
                        List.of(of(0, "line")),
                        List.of(
                                new DesignedQuery.Shown(DesignedQuery.How.COUNT, Optional.empty(), "", "lots"),
                                shown(DesignedQuery.How.SUM, of(0, "pellets_kg"), "kg"),
                                new DesignedQuery.Shown(
                                        DesignedQuery.How.COMPUTED, Optional.empty(), "kg / 1000", "tonnes")),
                        List.of(),
                        List.of(),
                        0),
                "this week");
        String samples = ask(
                "Samples",
                "What the laboratory found of each lot",
                DesignedQuery.of(laboratory, new TableName("quillmoor_lab", "sample"))
                        .by(new DesignedQuery.Time(of(0, "taken"), TimeColumn.Form.STAMP, "datetime")),
                "last 7 days");
        ask(
                "Laboratory by order",
                "Results of one database beside the lots of another",
                new JoinedQuery(
                        List.of(new JoinedQuery.Part("lots", lots), new JoinedQuery.Part("samples", samples)),
                        """
                        SELECT order_no, product_code, COUNT(*) AS lots, SUM(pellets_kg) / 1000 AS tonnes,
                               ROUND(AVG(moisture_pct), 2) AS moisture, MIN(durability_pct) AS least_durability
                        FROM lots JOIN samples USING (lot_id)
                        GROUP BY order_no, product_code
                        ORDER BY order_no DESC"""),
                "last 7 days");
        meters.ifPresent(each -> ask(
                "Pellets and energy a shift",
                "By how much the counters of the pellet lines rise",
                new TagHistory(
                        Selection.ticked(Stream.concat(
                                        tags(source, "Pelleting", "Pellets made"), tags(each, "Pellet line", "Energy"))
                                .toList()),
                        TagHistory.Mode.AGGREGATED,
                        Optional.of(Per.SHIFT),
                        Duration.ofMinutes(15),
                        List.of(new TagHistory.Calculation.Increase(10_000_000)),
                        true),
                "this week"));
        ask(
                "Dryer by the hour",
                "Means of the dryer's log",
                records.id(),
                """
                SELECT DATE_FORMAT(record_time, '%Y-%m-%d %H:00') AS hour, COUNT(*) AS log_rows,
                       AVG(outlet_temperature) AS outlet, MIN(outlet_temperature) AS least, MAX(outlet_temperature) AS greatest
                FROM dryer_log
                WHERE record_time >= :from AND record_time < :to
                GROUP BY hour
                ORDER BY hour""",
                "today",
                List.of());
        drafts.edit(
                new TrendDefinition(
                        Definitions.newId(),
                        "Dryer and laboratory",
                        "What the dryer did, and the moisture that the laboratory found",
                        "last 7 days",
                        List.of(
                                new Band(
                                        "1",
                                        "Drum runs",
                                        new BandSource.OfTag(
                                                tag(source, "Running", "Drying").ref())),
                                Band.shifts("2")),
                        List.of(
                                of(source, "1", "Outlet temperature", "Drying").on(""),
                                of(source, "2", "Inlet temperature", "Drying"),
                                of(source, "3", "Chip moisture out", "Drying").in(2),
                                Curve.of(
                                                "4",
                                                "Laboratory, moisture",
                                                "%",
                                                false,
                                                true,
                                                new CurveSource.OfTable(
                                                        laboratory,
                                                        "quillmoor_lab",
                                                        "sample",
                                                        "taken",
                                                        TimeColumn.Form.STAMP,
                                                        "moisture_pct",
                                                        "",
                                                        ""))
                                        .in(2)
                                        .between(OptionalDouble.empty(), OptionalDouble.of(10)))),
                0,
                by);
        drafts.edit(
                new TrendDefinition(
                        Definitions.newId(),
                        "Pellet line 1, lot by lot",
                        "What the line made and what it took for it, under its lots and states",
                        "last 8 h",
                        List.of(
                                new Band(
                                        "1",
                                        "Lot",
                                        new BandSource.OfTag(tag(source, "Lot ID", "Pelleting / PL1")
                                                .ref())),
                                new Band(
                                        "2",
                                        "State",
                                        new BandSource.OfTag(tag(source, "State", "Pelleting / PL1")
                                                .ref())),
                                Band.shifts("3")),
                        List.of(
                                of(source, "1", "Pellet output", "Pelleting / PL1"),
                                of(source, "2", "Main motor power", "Pelleting / PL1")
                                        .in(2),
                                of(source, "3", "Die temperature", "Pelleting / PL1")
                                        .in(2))),
                0,
                by);
    }

    private record Found(TagRef ref, TagInfo info) {}

    private static Found tag(SourceDefinition source, String name, String folder) {
        return source.tags().stream()
                .filter(each -> each.name().equals(name) && each.path().startsWith(folder))
                .map(each -> new Found(new TagRef(source.id(), each.address()), each))
                .findFirst()
                .orElseThrow();
    }

    private static Curve of(SourceDefinition source, String id, String name, String folder) {
        Found found = tag(source, name, folder);
        return Curve.of(id, name, found.info().unit(), false, false, new CurveSource.OfTag(found.ref()));
    }

    /** A database of other people's programs, with an account that may read. */
    private String readOnly(String name, String description, String database, String zone) {
        Map<String, String> settings =
                new HashMap<>(onItsServer(server, database, "quillmoor_reader", "quillmoor-reader-demo"));
        settings.put("zone", zone);
        String id = Definitions.newId();
        drafts.edit(new DatabaseDefinition(id, name, description, "mariadb", settings), 0, by);
        return id;
    }

    private void ask(
            String name,
            String description,
            String database,
            String sql,
            String window,
            List<QueryParameter> parameters) {
        edit(name, description, new WrittenQuery(database, sql), window, parameters);
    }

    private String ask(String name, String description, QueryBody asks, String window) {
        return edit(name, description, asks, window, List.of());
    }

    private String edit(
            String name, String description, QueryBody asks, String window, List<QueryParameter> parameters) {
        String id = Definitions.newId();
        drafts.edit(new QueryDefinition(id, name, description, asks, window, parameters), 0, by);
        return id;
    }

    private static DesignedQuery.ColumnOf of(int table, String column) {
        return new DesignedQuery.ColumnOf(table, column);
    }

    private static DesignedQuery.Shown shown(DesignedQuery.How how, DesignedQuery.ColumnOf column, String as) {
        return new DesignedQuery.Shown(how, Optional.of(column), "", as);
    }

    private static Stream<TagRef> tags(SourceDefinition source, String folder, String name) {
        return source.tags().stream()
                .filter(tag -> tag.path().contains(folder) && tag.name().equals(name))
                .map(tag -> new TagRef(source.id(), tag.address()));
    }

    static Map<String, String> onItsServer(
            DachshundSettings.Database server, String database, String user, String password) {
        return Map.of(
                "host", server.host(),
                "port", Integer.toString(server.port()),
                "database", database,
                "user", user,
                "password", password);
    }
}
