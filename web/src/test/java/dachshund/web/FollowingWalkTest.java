package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.query.QueryDefinition;
import dachshund.core.query.WrittenQuery;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** One transaction after another, by hand: a saved query, another database, a line of a file and a message, with mistakes on the way. */
class FollowingWalkTest {

    private static final Site SITE = Site.demo();
    private static final String FIRST = "cc770001";
    private static final String QUERY = "cc770002";

    @BeforeAll
    static void first() throws Exception {
        new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/discard");
        SITE.sql("CREATE TABLE follow_lot (lot VARCHAR(20) PRIMARY KEY)");
        SITE.sql("CREATE TABLE follow_place (lot VARCHAR(20) PRIMARY KEY, bay VARCHAR(8) NOT NULL)");
        SITE.sql("INSERT INTO follow_place VALUES ('F-1', 'B7')");
        Drafts drafts = SITE.bean(Drafts.class);
        drafts.edit(
                TransactionDefinition.begun(FIRST, "Lot made", SITE.named("Production"))
                        .withGathers(List.of(Gathered.given("lot")))
                        .withSteps(List.of(new Step.Put(
                                "made",
                                "",
                                Step.Deed.INSERT,
                                "follow_lot",
                                List.of(new Step.Cell("lot", "lot", false)),
                                1,
                                1,
                                ""))),
                0,
                "engineer");
        drafts.edit(
                new QueryDefinition(
                                QUERY,
                                "Where a lot stands",
                                "",
                                new WrittenQuery(
                                        SITE.named("Production"), "SELECT bay FROM follow_place WHERE lot = :lot"),
                                "",
                                List.of())
                        .fitted(),
                0,
                "engineer");
        new Visitor(SITE).signIn("engineer", "engineer-demo").release();
        soon(() -> SITE.bean(Engine.class).transactions().find(FIRST).isPresent());
    }

    @AfterAll
    static void clear() throws Exception {
        new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/discard");
    }

    private static List<String> kept() throws Exception {
        Path file;
        try (Stream<Path> all = Files.walk(SITE.bean(Engine.class).folder())) {
            file = all.filter(each -> each.endsWith("energy.db")).findFirst().orElseThrow();
        }
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
                Statement statement = connection.createStatement();
                ResultSet rows =
                        statement.executeQuery("SELECT lot_id || ' ' || kwh FROM lot_energy WHERE lot_id = 'F-1'")) {
            List<String> found = new ArrayList<>();
            while (rows.next()) {
                found.add(rows.getString(1));
            }
            return found;
        }
    }

    @Test
    void whatFollowsATransactionIsDesignedTriedReleasedAndDone() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records/transactions");
            actor.click("#new-transaction");
            actor.see("#transaction-name");
            actor.type("#transaction-name", "Lot told");
            actor.pick("#add-when", "AFTER");
            actor.see(".when .must", "Choose the transaction after which it is done.");
            actor.pick("#after-0", FIRST);
            actor.see("[aria-label=Steps]", "It has no step");

            // A saved query asks for lot, which is called after_lot here.
            actor.pick("#add-step", "LOOK_UP");
            actor.see("#s-query-0");
            actor.pick("#s-query-0", QUERY);
            actor.see("#step-0 .must", "The saved query asks for lot, and nothing here is called so.");
            actor.pick("#add-step", "COMPUTE");
            actor.see("#s-value-1");
            actor.type("#s-value-1", "after_lot");
            actor.type("#s-name-1", "lot");
            actor.edit(() -> actor.click("#step-1 .step-do button"));
            actor.see("#step-0 summary", "= after_lot");
            actor.see("#step-1 summary", "ask the saved query Where a lot stands");

            // Rows of another database.
            actor.pick("#add-step", "INSERT");
            actor.see("#s-table-2");
            actor.pick("#s-in-2", SITE.named("Energy records"));
            actor.see("[aria-label=Steps]", "It changes rows of two databases");
            actor.type("#s-table-2", "lot_energy");
            actor.type("#s-col-2-0", "lot_id");
            actor.type("#s-val-2-0", "lot");
            actor.see("#s-col-2-1");
            actor.type("#s-col-2-1", "kwh");
            actor.type("#s-val-2-1", "12.5");

            // A message and a line.
            actor.pick("#add-step", "PUBLISH");
            actor.see("#step-3 .must", "Choose the broker to which it is published.");
            actor.pick("#s-source-3", SITE.named("Silos"));
            actor.type("#s-topic-3", "quillmoor/+/{lott}");
            actor.see("#step-3 .must", "A topic to publish to has no + and no #");
            actor.type("#s-topic-3", "quillmoor/bays/{look_bay}");
            actor.type("#s-col-3-0", "lot");
            actor.type("#s-val-3-0", "lot");
            actor.see("#step-3 summary", "then publish JSON (lot = lot) to quillmoor/bays/{look_bay} of Silos");
            actor.pick("#add-step", "APPEND");
            actor.see("#s-file-4");
            actor.pick("#s-folder-4", SITE.named("Event files"));
            actor.type("#s-file-4", "../bays.txt");
            actor.see("#step-4 .must", "The name of a file has letters");
            actor.type("#s-file-4", "bays.txt");
            actor.pick("#s-as-4", "TEXT");
            actor.see("#s-text-4");
            actor.type("#s-text-4", "lot + \" in \" + look_bay");
            actor.see("#step-4 summary", "then write the line lot + \" in \" + look_bay to bays.txt in Event files");
            assertThat(actor.complaints()).isEmpty();

            // Nothing is there to try it with before the first one was done.
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "It does not work yet.");
            SITE.bean(Engine.class).transactions().byHand(FIRST, "engineer", Map.of("lot", "F-0"));
            soon(() -> SITE.bean(Engine.class)
                    .transactions()
                    .lastOfFirst(SITE.bean(Definitions.class)
                            .find(TransactionDefinition.class, SITE.named("Lot told"))
                            .orElseThrow())
                    .containsKey("after_lot"));
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "It found no row, and one is needed.");
            SITE.sql("INSERT INTO follow_place VALUES ('F-0', 'B1')");
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "Tried, and taken back.");
            actor.click("#step-3 summary");
            actor.see("#step-3 .step-tried", "quillmoor/bays/B1");
            assertThat(kept()).isEmpty();

            actor.click("#review");
            actor.see("main", "Is done after each run of Lot made,");
            actor.click("#release");
            soon(() -> SITE.bean(Engine.class)
                    .transactions()
                    .find(SITE.named("Lot told"))
                    .isPresent());
            SITE.bean(Engine.class).transactions().byHand(FIRST, "engineer", Map.of("lot", "F-1"));
            soon(() -> kept().equals(List.of("F-1 12.5")));
            soon(() -> {
                actor.go("/watch/ledger?window=last%201%20h&text=lot%20told");
                return actor.texts("table.ledger tbody tr").stream()
                        .anyMatch(each -> each.contains("Lot told") && each.contains("after Lot made"));
            });
            assertThat(actor.texts("table.ledger tbody tr").get(0))
                    .contains("Done")
                    .doesNotContain("Done, but");
            actor.click("table.ledger tbody tr:nth-child(1) a");
            actor.see(".run-steps", "The broker has taken it.");
            actor.see(".run-steps", "F-1 in B7");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    /** Two that follow each other would never end. */
    @Test
    void aRingIsNotReleased() throws Exception {
        Drafts drafts = SITE.bean(Drafts.class);
        String ring = "cc770003";
        TransactionDefinition back = TransactionDefinition.begun(ring, "Round", SITE.named("Production"))
                .withWhens(List.of(new When.AfterTransaction(FIRST)))
                .withSteps(List.of(new Step.Note("said", "", "\"round\"")));
        drafts.edit(back, 0, "engineer");
        drafts.edit(
                TransactionDefinition.class,
                FIRST,
                drafts.revision(FIRST),
                "engineer",
                first -> first.withWhens(List.of(new When.AfterTransaction(ring))));
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/release");
            actor.see("main", "It is done after a transaction that is done after it, again and again.");
        } finally {
            new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/discard");
        }
    }
}
