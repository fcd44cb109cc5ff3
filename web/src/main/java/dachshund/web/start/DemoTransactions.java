package dachshund.web.start;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.lineup.TransactionLines;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Wording;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The demo's transactions: a truck over the weighbridge gets its ticket, a lot that ends is booked and its bags are judged, and what
 * the laboratory finds releases it or blocks it.
 */
final class DemoTransactions {

    private static final Logger LOG = LoggerFactory.getLogger(DemoTransactions.class);

    private static final Policy PATIENT = Policy.USUAL
            .within(Duration.ofSeconds(20))
            .trying(3, Duration.ofMillis(500))
            .stoppingAfter(0);

    private static final String ENERGY = "Energy records";

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final SourceDefinition plant;
    private final Optional<SourceDefinition> meters;
    private final DestinationDefinition records;
    private final String by;

    DemoTransactions(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            SourceDefinition plant,
            Optional<SourceDefinition> meters,
            DestinationDefinition records,
            String by) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.plant = plant;
        this.meters = meters;
        this.records = records;
        this.by = by;
    }

    void make() {
        Optional<DatabaseDefinition> orders = database("Orders");
        if (orders.isEmpty() || !tables()) {
            return;
        }
        drafts.edit(weighbridge(orders.get()), 0, by);
        List<String> ends = new ArrayList<>();
        TransactionDefinition first = lotEnd(orders.get()).withEquipment(equipment("PL1"));
        for (TransactionDefinition end : List.of(first, line(first, 2), line(first, 3))) {
            drafts.edit(end, 0, by);
            ends.add(end.id());
        }
        destination("Event files")
                .filter(files -> lotEnergy())
                .ifPresent(files -> drafts.edit(news(ends, files), 0, by));
        drafts.edit(packages(), 0, by);
        database("Laboratory").ifPresent(laboratory -> drafts.edit(release(laboratory), 0, by));
    }

    /** The same for another pellet line: a line of its line-up. */
    private TransactionDefinition line(TransactionDefinition first, int number) {
        String machine = "PL" + number;
        List<Follows.Swap> swaps = first.everyTag().stream()
                .map(tag -> new Follows.Swap(
                        tag,
                        tag.source().equals(plant.id())
                                ? tag(machine, nameOf(plant, tag))
                                : tag(meters.orElseThrow(), "Pellet line " + number, "Energy")
                                        .orElseThrow()))
                .toList();
        Follows<TransactionDefinition.Made> follows = new Follows<TransactionDefinition.Made>(
                        first.id(), swaps, Map.of(), Optional.empty())
                .withNames(Map.of("PL1", machine));
        return new TransactionLines(List::of)
                .made(
                        first,
                        first.as(Definitions.newId(), "Lot end " + machine)
                                .withEquipment(equipment(machine))
                                .withFollows(Optional.of(follows)));
    }

    private static String nameOf(SourceDefinition source, TagRef tag) {
        return source.tags().stream()
                .filter(each -> each.address().equals(tag.address()))
                .findFirst()
                .orElseThrow()
                .name();
    }

    private String equipment(String name) {
        return definitions.all(EquipmentDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow()
                .id();
    }

    private Optional<DestinationDefinition> destination(String name) {
        return definitions.all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst();
    }

    /** A table of the energy people, in the file that they take along. */
    private boolean lotEnergy() {
        Optional<DestinationDefinition> file = destination(ENERGY);
        if (file.isEmpty() || meters.isEmpty()) {
            return false;
        }
        try (RowStore store = engine.openStore(file.get())) {
            store.apply(List.of(
                    "CREATE TABLE IF NOT EXISTS lot_energy (lot_id TEXT PRIMARY KEY, kwh REAL, pellets_kg REAL)"));
            return true;
        } catch (StoreProblem away) {
            LOG.warn("The demo does not tell of lots, since a table cannot be made: {}", away.getMessage());
            return false;
        }
    }

    /** Whoever waits for lots hears of each that is booked: the energy people in their file, dispatch by a message, all in a list. */
    private TransactionDefinition news(List<String> ends, DestinationDefinition files) {
        List<Step.Cell> says = List.of(
                new Step.Cell("lot", "after_lot", false),
                new Step.Cell("kilos", "after_pellets_kg", false),
                new Step.Cell("kwh", "after_kwh", false),
                new Step.Cell("booked", "after_fired", false));
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Put(
                "energy",
                "after_booked_rows = 0",
                Step.Deed.INSERT_OR_UPDATE,
                "lot_energy",
                List.of(
                        new Step.Cell("lot_id", "after_lot", true),
                        new Step.Cell("kwh", "after_kwh", false),
                        new Step.Cell("pellets_kg", "after_pellets_kg", false)),
                1,
                1,
                "",
                destination(ENERGY).orElseThrow().id()));
        steps.add(new Step.Append(
                "list", "after_booked_rows = 0", files.id(), "lots.csv", new Wording(Wording.As.CSV, "", says)));
        definitions.all(SourceDefinition.class).stream()
                .filter(each -> engine.sources().kind(each.link()).publishes())
                .findFirst()
                .ifPresent(broker -> steps.add(new Step.Publish(
                        "tell",
                        "",
                        broker.id(),
                        "quillmoor/lots/{after_lot}",
                        new Wording(Wording.As.JSON, "", says),
                        false)));
        return new TransactionDefinition(
                Definitions.newId(),
                "Lot news",
                "A lot is booked: its energy goes to the file that is taken along, its line to a list, and dispatch hears of it",
                ends.stream().<When>map(When.AfterTransaction::new).toList(),
                Optional.empty(),
                List.of(),
                records.id(),
                Isolation.READ_COMMITTED,
                true,
                steps,
                Answer.NONE,
                PATIENT.holding(true),
                List.of("after_lot"));
    }

    private Optional<DatabaseDefinition> database(String name) {
        return definitions.all(DatabaseDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst();
    }

    /** Tables of other people, as these would have made them. */
    private boolean tables() {
        try (RowStore store = engine.openStore(records)) {
            store.apply(List.of(
                    "CREATE TABLE IF NOT EXISTS weigh_ticket (ticket_no INT PRIMARY KEY AUTO_INCREMENT, run_id VARCHAR(60) NOT NULL UNIQUE,"
                            + " weighed_at DATETIME(3) NOT NULL, plate VARCHAR(12) NOT NULL, supplier VARCHAR(40) NOT NULL,"
                            + " material VARCHAR(30) NOT NULL, gross_kg DECIMAL(8,1) NOT NULL, net_kg DECIMAL(8,1) NOT NULL) AUTO_INCREMENT = 51840",
                    "CREATE TABLE IF NOT EXISTS intake_total (supplier VARCHAR(40) PRIMARY KEY, trucks INT NOT NULL, net_kg DECIMAL(12,1) NOT NULL)",
                    "CREATE TABLE IF NOT EXISTS lot_record (lot_id VARCHAR(20) PRIMARY KEY, line VARCHAR(8) NOT NULL, order_no INT NULL,"
                            + " begun DATETIME(3) NULL, ended DATETIME(3) NOT NULL, pellets_kg DECIMAL(10,0) NULL, kwh DECIMAL(10,1) NULL,"
                            + " die_c DECIMAL(5,1) NULL)",
                    "CREATE TABLE IF NOT EXISTS order_progress (order_no INT PRIMARY KEY, lots INT NOT NULL, pellets_kg DECIMAL(12,0) NOT NULL)",
                    "CREATE TABLE IF NOT EXISTS line_setup (product_code VARCHAR(12) PRIMARY KEY, feed_rpm DECIMAL(4,1) NOT NULL, conditioner_c DECIMAL(4,1) NOT NULL)",
                    "INSERT IGNORE INTO line_setup VALUES ('WP6-15', 34, 78), ('WP8-15', 36.5, 80), ('WP6-BB', 38, 79)",
                    // Tolerable deficiencies of OIML R 87, table 1, from memory: in percent of the nominal quantity, or
                    // in grams.
                    "CREATE TABLE IF NOT EXISTS tolerable_deficiency (over_g DECIMAL(6,0) PRIMARY KEY, up_to_g DECIMAL(6,0) NOT NULL,"
                            + " percent DECIMAL(3,1) NULL, grams DECIMAL(4,1) NULL)",
                    "INSERT IGNORE INTO tolerable_deficiency VALUES (0, 50, 9, NULL), (50, 100, NULL, 4.5), (100, 200, 4.5, NULL),"
                            + " (200, 300, NULL, 9), (300, 500, 3, NULL), (500, 1000, NULL, 15), (1000, 10000, 1.5, NULL),"
                            + " (10000, 15000, NULL, 150), (15000, 50000, 1, NULL)",
                    "CREATE TABLE IF NOT EXISTS lot_bags (lot_id VARCHAR(20) PRIMARY KEY, bags INT NOT NULL, mean_g DECIMAL(7,1) NOT NULL,"
                            + " below INT NOT NULL, far_below INT NOT NULL, verdict VARCHAR(20) NOT NULL)",
                    "CREATE TABLE IF NOT EXISTS lot_release (lot_id VARCHAR(20) PRIMARY KEY, sample_no INT NOT NULL, verdict VARCHAR(10) NOT NULL,"
                            + " outside INT NOT NULL, decided_at DATETIME(3) NOT NULL)"));
            return true;
        } catch (StoreProblem away) {
            LOG.warn("The demo has no transaction, since its tables cannot be made: {}", away.getMessage());
            return false;
        }
    }

    private TransactionDefinition weighbridge(Definition orders) {
        return new TransactionDefinition(
                Definitions.newId(),
                "Weighbridge ticket",
                "A truck stands on the scale: its ticket is written, its supplier's total grows, and the display shows the number",
                List.of(new When.OnRequest(
                        tag("Request number"), Optional.of(tag("Request epoch")), Optional.of(tag("Answered number")))),
                Optional.empty(),
                List.of(
                        new Gathered("plate", tag("Truck"), Gathered.WhenBad.FAIL),
                        new Gathered("gross_kg", tag("Weight"), Gathered.WhenBad.FAIL),
                        new Gathered("stable", tag("Stable"), Gathered.WhenBad.FAIL)),
                records.id(),
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.LookUp(
                                "truck",
                                "",
                                orders.id(),
                                "SELECT supplier, material, empty_kg FROM haulage WHERE plate = :plate",
                                Step.Rows.ONE),
                        new Step.Compute("net_kg", "", "ROUND(gross_kg - truck_empty_kg, 0)"),
                        new Step.Put(
                                "ticket",
                                "",
                                Step.Deed.INSERT,
                                "weigh_ticket",
                                List.of(
                                        new Step.Cell("run_id", "run_id", false),
                                        new Step.Cell("weighed_at", "fired", false),
                                        new Step.Cell("plate", "plate", false),
                                        new Step.Cell("supplier", "truck_supplier", false),
                                        new Step.Cell("material", "truck_material", false),
                                        new Step.Cell("gross_kg", "gross_kg", false),
                                        new Step.Cell("net_kg", "net_kg", false)),
                                1,
                                1,
                                ""),
                        new Step.Statement(
                                "total",
                                "",
                                "INSERT INTO intake_total VALUES (:truck_supplier, 1, :net_kg)\nON DUPLICATE KEY UPDATE trucks = trucks + 1, net_kg = net_kg + VALUES(net_kg)",
                                1,
                                2,
                                ""),
                        new Step.LookUp(
                                "made",
                                "",
                                "",
                                "SELECT ticket_no FROM weigh_ticket WHERE run_id = :run_id",
                                Step.Rows.ONE),
                        new Step.WriteTag("display", "", tag("Ticket number"), "made_ticket_no", 0)),
                new Answer(
                        Optional.of(tag("Answer code")),
                        Optional.of(tag("Answer text")),
                        1,
                        2,
                        3,
                        "\"ticket \" + made_ticket_no"),
                PATIENT.within(Duration.ofSeconds(10))
                        .settling(Duration.ofMillis(300))
                        .queuing(20),
                List.of("plate", "truck_supplier", "made_ticket_no"));
    }

    /** What a line made, used and was like while it had the lot that has ended. */
    private TransactionDefinition lotEnd(Definition orders) {
        String line = "PL1";
        TagRef lotId = tag(line, "Lot ID");
        List<Gathered> gathers = new ArrayList<>();
        gathers.add(new Gathered("lot", tag(line, "Ended lot"), Gathered.WhenBad.FAIL));
        gathers.add(whileLot(Gathered.of("pellets_kg", "Pellets made"), new Calculation.Increase(0), lotId));
        gathers.add(whileLot(
                Gathered.of("die_c", "Die temperature"), new Calculation.OfPart13(Aggregate.TIME_AVERAGE), lotId));
        Optional<TagRef> energy = meters.flatMap(each -> tag(each, "Pellet line 1", "Energy"));
        energy.ifPresent(tag -> gathers.add(whileLot(
                new Gathered("kwh", tag, Gathered.WhenBad.NOTHING), new Calculation.Increase(10_000_000), lotId)));
        List<Step.Cell> cells = new ArrayList<>(List.of(
                new Step.Cell("lot_id", "lot", false),
                new Step.Cell("line", "equipment", false),
                new Step.Cell("order_no", "ord_order_no", false),
                new Step.Cell("begun", "pellets_kg_since", false),
                new Step.Cell("ended", "fired", false),
                new Step.Cell("pellets_kg", "pellets_kg", false),
                new Step.Cell("die_c", "die_c", false)));
        energy.ifPresent(tag -> cells.add(new Step.Cell("kwh", "kwh", false)));
        return new TransactionDefinition(
                Definitions.newId(),
                "Lot end " + line,
                "A lot has ended: what it made and used is booked, its order goes on, and the set points of its product go down to the line",
                List.of(new When.OnRequest(
                        tag(line, "Lot request number"),
                        Optional.of(tag(line, "Lot request epoch")),
                        Optional.of(tag(line, "Lot answered number")))),
                Optional.empty(),
                gathers,
                records.id(),
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.LookUp(
                                "booked",
                                "",
                                "",
                                "SELECT lot_id FROM lot_record WHERE lot_id = :lot",
                                Step.Rows.ONE_OR_NONE),
                        new Step.LookUp(
                                "ord",
                                "",
                                orders.id(),
                                "SELECT order_no, product_code FROM pellet_order\nWHERE line = :equipment AND completed IS NULL ORDER BY order_no LIMIT 1",
                                Step.Rows.ONE_OR_NONE),
                        new Step.Put("record", "booked_rows = 0", Step.Deed.INSERT, "lot_record", cells, 1, 1, ""),
                        new Step.Statement(
                                "progress",
                                "booked_rows = 0 AND ord_rows = 1",
                                "INSERT INTO order_progress VALUES (:ord_order_no, 1, COALESCE(:pellets_kg, 0))\nON DUPLICATE KEY UPDATE lots = lots + 1, pellets_kg = pellets_kg + VALUES(pellets_kg)",
                                1,
                                2,
                                ""),
                        new Step.LookUp(
                                "next",
                                "ord_rows = 1",
                                "",
                                "SELECT feed_rpm, conditioner_c FROM line_setup WHERE product_code = :ord_product_code",
                                Step.Rows.ONE_OR_NONE),
                        new Step.WriteTag(
                                "feed", "next_rows = 1", tag(line, "Feed rate set point"), "next_feed_rpm", 0.1),
                        new Step.WriteTag(
                                "steam",
                                "next_rows = 1",
                                tag(line, "Conditioner set point"),
                                "next_conditioner_c",
                                0.1)),
                new Answer(
                        Optional.of(tag(line, "Lot answer code")),
                        Optional.of(tag(line, "Lot answer text")),
                        1,
                        2,
                        3,
                        "\"lot \" + lot + \" is booked\""),
                PATIENT.settling(Duration.ofMillis(500)).queuing(20),
                List.of("lot", "ord_order_no"));
    }

    private static Gathered whileLot(Gathered what, Calculation computed, TagRef lotId) {
        return what.called(what.name(), Gathered.WhenBad.NOTHING)
                .withOver(Optional.of(new Over(Over.Since.BEFORE, Duration.ofDays(1), Optional.of(lotId), computed)));
    }

    /**
     * Whether the bags of a lot keep the rules for packages of equal nominal quantity: their mean is no less than the nominal quantity,
     * no more than 2.5 % of them lack more than the tolerable deficiency, and none lacks twice as much.
     */
    private TransactionDefinition packages() {
        return new TransactionDefinition(
                Definitions.newId(),
                "Bags of a lot",
                "A lot is booked: its bags are judged by the rules for packages",
                List.of(new When.OnNewRow(
                        records.id(),
                        "lot_record",
                        List.of("lot_id"),
                        "ended",
                        Duration.ofMinutes(10),
                        0,
                        Duration.ofSeconds(5))),
                Optional.empty(),
                List.of(),
                records.id(),
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.Compute("nominal_g", "", "15000"),
                        new Step.LookUp(
                                "rule",
                                "",
                                "",
                                "SELECT COALESCE(grams, percent * :nominal_g / 100) AS lacking FROM tolerable_deficiency\nWHERE over_g < :nominal_g AND up_to_g >= :nominal_g",
                                Step.Rows.ONE),
                        new Step.LookUp(
                                "bag",
                                "",
                                "",
                                """
                                SELECT COUNT(last_bag) AS count, AVG(last_bag) AS mean, ROUND(AVG(last_bag), 1) AS mean_g,
                                  COALESCE(SUM(last_bag < :nominal_g - :rule_lacking), 0) AS below,
                                  COALESCE(SUM(last_bag < :nominal_g - 2 * :rule_lacking), 0) AS far_below
                                FROM bag WHERE lot_id = :row_lot_id""",
                                Step.Rows.ONE),
                        new Step.Compute(
                                "verdict",
                                "bag_count > 0",
                                "IF(bag_mean >= nominal_g && bag_below <= bag_count * 0.025 && bag_far_below = 0, \"keeps the rules\", \"breaks the rules\")"),
                        new Step.Put(
                                "judge",
                                "bag_count > 0",
                                Step.Deed.INSERT_OR_UPDATE,
                                "lot_bags",
                                List.of(
                                        new Step.Cell("lot_id", "row_lot_id", true),
                                        new Step.Cell("bags", "bag_count", false),
                                        new Step.Cell("mean_g", "bag_mean_g", false),
                                        new Step.Cell("below", "bag_below", false),
                                        new Step.Cell("far_below", "bag_far_below", false),
                                        new Step.Cell("verdict", "verdict", false)),
                                1,
                                2,
                                "")),
                Answer.NONE,
                PATIENT.settling(Duration.ofSeconds(3)).atOnce(4).holding(true),
                List.of("row_lot_id"));
    }

    /** Whatever is outside its limits blocks the lot. */
    private TransactionDefinition release(Definition laboratory) {
        return new TransactionDefinition(
                Definitions.newId(),
                "Laboratory release",
                "A sample is reported: its lot is released, or blocked where a property is outside its limits",
                List.of(new When.OnNewRow(
                        laboratory.id(),
                        "sample",
                        List.of("sample_no"),
                        "sample_no",
                        Duration.ZERO,
                        200,
                        Duration.ofSeconds(5))),
                Optional.empty(),
                List.of(),
                records.id(),
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.LookUp(
                                "found",
                                "",
                                laboratory.id(),
                                """
                                SELECT COUNT(*) AS outside FROM (
                                  SELECT 'moisture' AS property, :row_moisture_pct AS is_now
                                  UNION ALL SELECT 'durability', :row_durability_pct
                                  UNION ALL SELECT 'fines', :row_fines_pct
                                  UNION ALL SELECT 'bulk density', :row_bulk_density_kg_m3
                                  UNION ALL SELECT 'ash', :row_ash_pct) AS measured
                                JOIN quality_limit USING (property) WHERE is_now < least OR is_now > greatest""",
                                Step.Rows.ONE),
                        new Step.Compute("verdict", "", "IF(found_outside = 0, \"released\", \"blocked\")"),
                        new Step.Put(
                                "decide",
                                "",
                                Step.Deed.INSERT_OR_UPDATE,
                                "lot_release",
                                List.of(
                                        new Step.Cell("lot_id", "row_lot_id", true),
                                        new Step.Cell("sample_no", "row_sample_no", false),
                                        new Step.Cell("verdict", "verdict", false),
                                        new Step.Cell("outside", "found_outside", false),
                                        new Step.Cell("decided_at", "fired", false)),
                                1,
                                2,
                                ""),
                        new Step.WriteTag("lot", "", tag("BG1", "Decided lot"), "row_lot_id", 0),
                        new Step.WriteTag("shown", "", tag("BG1", "Lot verdict"), "verdict", 0)),
                Answer.NONE,
                PATIENT.holding(true),
                List.of("row_lot_id", "row_sample_no"));
    }

    private TagRef tag(String name) {
        return tag("Weighbridge", name);
    }

    private TagRef tag(String path, String name) {
        return tag(plant, path, name).orElseThrow();
    }

    private static Optional<TagRef> tag(SourceDefinition source, String path, String name) {
        return source.tags().stream()
                .filter(each -> each.path().endsWith(path) && each.name().equals(name))
                .findFirst()
                .map(each -> new TagRef(source.id(), each.address()));
    }
}
