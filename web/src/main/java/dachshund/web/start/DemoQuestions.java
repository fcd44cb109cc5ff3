package dachshund.web.start;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.QueryParameter.Sort;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TimeColumn;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.own.DachshundSettings;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.OptionalDouble;

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

    void make(DestinationDefinition records, SourceDefinition source) {
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
        ask(
                "Pellets a line and day",
                "Tonnes and lots by the day they ended (UTC)",
                orders,
                """
                SELECT DATE(ended) AS day, line, COUNT(*) AS lots, SUM(pellets_kg) / 1000 AS tonnes
                FROM order_lot
                WHERE ended >= :from AND ended < :to
                GROUP BY DATE(ended), line
                ORDER BY day, line""",
                "last 7 days",
                List.of());
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
                                of(source, "1", "Outlet temperature", "Drying").on(""),
                                of(source, "2", "Inlet temperature", "Drying"),
                                of(source, "3", "Chip moisture out", "Drying"),
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
                                        .between(OptionalDouble.empty(), OptionalDouble.of(10)))),
                0,
                by);
    }

    private static Curve of(SourceDefinition source, String id, String name, String folder) {
        TagInfo tag = source.tags().stream()
                .filter(each -> each.name().equals(name) && each.path().startsWith(folder))
                .findFirst()
                .orElseThrow();
        return Curve.of(
                id, name, tag.unit(), false, false, new CurveSource.OfTag(new TagRef(source.id(), tag.address())));
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
        drafts.edit(
                new QueryDefinition(
                        Definitions.newId(), name, description, new WrittenQuery(database, sql), window, parameters),
                0,
                by);
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
