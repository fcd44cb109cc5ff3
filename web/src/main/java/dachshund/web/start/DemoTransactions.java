package dachshund.web.start;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The demo's transactions: a truck over the weighbridge gets its ticket. */
final class DemoTransactions {

    private static final Logger LOG = LoggerFactory.getLogger(DemoTransactions.class);

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final SourceDefinition plant;
    private final DestinationDefinition records;
    private final String by;

    DemoTransactions(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            SourceDefinition plant,
            DestinationDefinition records,
            String by) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.plant = plant;
        this.records = records;
        this.by = by;
    }

    void make() {
        Optional<DatabaseDefinition> orders = definitions.all(DatabaseDefinition.class).stream()
                .filter(each -> each.name().equals("Orders"))
                .findFirst();
        if (orders.isEmpty() || !tables()) {
            return;
        }
        drafts.edit(weighbridge(orders.get()), 0, by);
    }

    /** Tables of other people, as these would have made them. */
    private boolean tables() {
        try (RowStore store = engine.openStore(records)) {
            store.apply(
                    List.of(
                            "CREATE TABLE IF NOT EXISTS weigh_ticket (ticket_no INT PRIMARY KEY AUTO_INCREMENT, run_id VARCHAR(60) NOT NULL UNIQUE,"
                                    + " weighed_at DATETIME(3) NOT NULL, plate VARCHAR(12) NOT NULL, supplier VARCHAR(40) NOT NULL,"
                                    + " material VARCHAR(30) NOT NULL, gross_kg DECIMAL(8,1) NOT NULL, net_kg DECIMAL(8,1) NOT NULL) AUTO_INCREMENT = 51840",
                            "CREATE TABLE IF NOT EXISTS intake_total (supplier VARCHAR(40) PRIMARY KEY, trucks INT NOT NULL, net_kg DECIMAL(12,1) NOT NULL)"));
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
                new Policy(Duration.ofSeconds(10), 3, Duration.ofMillis(500), Duration.ofMillis(300), 1, 20, 0),
                List.of("plate", "truck_supplier", "made_ticket_no"));
    }

    private TagRef tag(String name) {
        return plant.tags().stream()
                .filter(each ->
                        each.path().endsWith("Weighbridge") && each.name().equals(name))
                .findFirst()
                .map(each -> new TagRef(plant.id(), each.address()))
                .orElseThrow();
    }
}
