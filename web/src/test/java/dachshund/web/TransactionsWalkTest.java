package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.engine.kept.KeptKind;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A transaction from its first line to its run in the ledger, by hand; the controller is a source of kept tags. */
class TransactionsWalkTest {

    private static final Site SITE = Site.demo();
    private static final String GATE = "50fe0001";

    @BeforeAll
    static void tables() throws Exception {
        SITE.sql(
                "CREATE TABLE walk_order (order_no INT PRIMARY KEY, line VARCHAR(8) NOT NULL, kilos DECIMAL(12,1) NOT NULL)");
        SITE.sql("INSERT INTO walk_order VALUES (7001, 'PL9', 0)");
        SITE.sql(
                "CREATE TABLE walk_lot (lot VARCHAR(20) PRIMARY KEY, order_no INT NOT NULL, kilos DECIMAL(12,1) NOT NULL)");
        List<TagInfo> tags = new ArrayList<>();
        for (String name : List.of("gate number", "gate echo", "gate code")) {
            tags.add(new TagInfo(name, "Gate", name, DataKind.INTEGER, "", "", true));
        }
        tags.add(new TagInfo("gate text", "Gate", "gate text", DataKind.TEXT, "", "", true));
        tags.add(new TagInfo("walk lot", "Gate", "walk lot", DataKind.TEXT, "", "", true));
        tags.add(new TagInfo("walk kilos", "Gate", "walk kilos", DataKind.NUMBER, "kg", "", true));
        SITE.bean(Drafts.class)
                .edit(
                        new SourceDefinition(
                                GATE, "Gate of the walk", "", KeptKind.ID, Map.of(), Duration.ofSeconds(1), tags),
                        0,
                        "engineer");
        new Visitor(SITE).signIn("engineer", "engineer-demo").release();
        soon(() -> SITE.bean(Definitions.class).live(GATE).isPresent());
        set("gate number", 0L);
        set("gate echo", 0L);
    }

    private static List<String> ask(String query) throws Exception {
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(query)) {
            List<String> all = new ArrayList<>();
            while (rows.next()) {
                all.add(rows.getString(1));
            }
            return all;
        }
    }

    private static void set(String tag, Object value) {
        soon(() -> SITE.bean(Engine.class)
                .sources()
                .write(new TagRef(GATE, tag), value, "the controller")
                .same());
    }

    private static Object get(String tag) {
        return SITE.bean(Engine.class)
                .tags()
                .entry(new TagRef(GATE, tag))
                .value()
                .value()
                .orElse(null);
    }

    @Test
    void aTransactionIsDesignedTriedMendedReleasedAskedForAndFound() throws Exception {
        set("walk lot", "W-1");
        set("walk kilos", 812.5);
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records/transactions");
            actor.click("#new-transaction");
            actor.see("#transaction-name");
            actor.type("#transaction-name", "Lot ends at the gate");
            actor.see(".draft-line");
            actor.pick("#add-when", "REQUEST");
            actor.tag("#role-0-NUMBER", "gate number");
            actor.see(".request-tags", "Gate / gate number");
            actor.tag("#role-0-ANSWERED", "gate echo");
            actor.see(".request-tags", "Gate / gate echo");
            actor.tag("#find-add-gather", "walk lot");
            actor.see("#gather-name-0");
            actor.tag("#find-add-gather", "walk kilos");
            actor.see("#gather-name-1");
            // The only destination that can do it is chosen already.
            has(actor, "#b-database", production());

            // Three steps, of which the third names a column that is not there.
            actor.pick("#add-step", "LOOK_UP");
            actor.see("#s-sql-0");
            actor.type("#s-sql-0", "SELECT order_no FROM walk_order WHERE line = 'PL9'");
            actor.see(".step-lines", "SELECT order_no FROM walk_order");
            actor.pick("#add-step", "INSERT");
            actor.see("#s-table-1");
            actor.type("#s-table-1", "walk_lot");
            actor.see(".step-lines", "insert into walk_lot");
            actor.edit(() -> actor.click("#take-1"));
            actor.see("#s-col-1-2");
            has(actor, "#s-col-1-0", "lot");
            has(actor, "#s-val-1-0", "walk_lot");
            actor.type("#s-val-1-1", "look_order_no");
            actor.see(".step-lines", "order_no = look_order_no");
            has(actor, "#s-val-1-2", "walk_kilos");
            actor.pick("#add-step", "STATEMENT");
            actor.see("#s-sql-2");
            actor.type("#s-sql-2", "UPDATE walk_order SET kilo = kilos + :walk_kilos WHERE order_no = :look_order_no");
            actor.see(".step-lines", "run UPDATE walk_order SET kilo");
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "Step run: ");
            actor.see("#tried", "kilo");
            actor.see("#step-2 .must", "kilo");
            actor.see("#step-0 .step-fate", "done, 1 row");
            assertThat(ask("SELECT lot FROM walk_lot")).isEmpty();

            // Mended, tried again, and taken back again.
            actor.type("#s-sql-2", "UPDATE walk_order SET kilos = kilos + :walk_kilos WHERE order_no = :look_order_no");
            actor.see(".step-lines", "run UPDATE walk_order SET kilos");
            actor.tag("#find-answer-code", "gate code");
            actor.see("[aria-label=Answer]", "Gate / gate code");
            actor.tag("#find-answer-text", "gate text");
            actor.see("[aria-label=Answer]", "Gate / gate text");
            actor.type("#a-text", "\"order \" + look_order_no");
            actor.type("#b-keys", "walk_lot, look_order_no");
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "Tried, and taken back.");
            actor.see("#tried", "The plant would have been told: order 7001");
            assertThat(ask("SELECT lot FROM walk_lot")).isEmpty();
            assertThat(ask("SELECT kilos FROM walk_order")).containsExactly("0.0");
            assertThat(actor.complaints()).isEmpty();

            // One step is sent alone, for real, with a lot that is typed.
            actor.browser.executeScript("window.confirm = () => true");
            actor.click("#step-1 > summary");
            actor.click("#step-1 .send-alone > summary");
            actor.fill("#send-1-walk_lot", "W-0");
            actor.fill("#send-1-look_order_no", "7001");
            actor.edit(() -> actor.click("#send-1"));
            actor.see("#sent-1", "Sent, and done. 1 row");
            actor.see("#sent-1 table", "W-0");
            assertThat(ask("SELECT CONCAT(lot, ' ', kilos) FROM walk_lot")).containsExactly("W-0 812.5");
            // Once more as it was typed: the table has it already.
            actor.edit(() -> actor.click("#send-1"));
            actor.see("#sent-1", "It failed.");
            SITE.sql("DELETE FROM walk_lot");

            // Rehearsed: when it would have fired.
            set("gate number", 4L);
            set("gate number", 0L);
            soon(() -> {
                actor.go("/records/transactions/" + id());
                return actor.texts(".ribbon").stream().anyMatch(text -> text.contains("would have fired 1 time"));
            });

            actor.click("#review");
            actor.see("main", "Lot ends at the gate");
            actor.see("main", "Is done on a request with a number");
            actor.click("#release");
            soon(() -> SITE.bean(Definitions.class).live(id()).isPresent());
            soon(() -> SITE.bean(Engine.class).transactions().find(id()).isPresent());

            // The handshake.
            set("gate number", 5L);
            soon(() -> Long.valueOf(5).equals(get("gate echo")));
            assertThat(get("gate code")).isEqualTo(1L);
            assertThat(get("gate text")).isEqualTo("order 7001");
            assertThat(ask("SELECT CONCAT(lot, ' ', order_no, ' ', kilos) FROM walk_lot"))
                    .containsExactly("W-1 7001 812.5");
            assertThat(ask("SELECT kilos FROM walk_order")).containsExactly("812.5");

            // The same lot once more: the database refuses it, and the plant is told why.
            set("gate number", 6L);
            soon(() -> Long.valueOf(6).equals(get("gate echo")));
            assertThat(get("gate code")).isEqualTo(3L);
            assertThat(get("gate text").toString()).startsWith("Step insert: ");
            assertThat(ask("SELECT kilos FROM walk_order")).containsExactly("812.5");

            // What happened to lot W-1 has one answer.
            soon(() -> {
                actor.go("/watch/ledger?key=W-1");
                return actor.texts("table.ledger tbody tr").size() == 2;
            });
            assertThat(actor.texts("table.ledger tbody tr").get(0))
                    .contains("Failed")
                    .contains("request 6");
            assertThat(actor.texts("table.ledger tbody tr").get(1))
                    .contains("Done")
                    .contains("look_order_no 7001");
            actor.click("table.ledger tbody tr:nth-child(2) a");
            actor.see("dl.facts", "order 7001");
            actor.see(".run-steps", "walk_kilos = 812.5");
            actor.go("/watch/ledger?text=w-1&window=last%201%20h");
            assertThat(actor.texts("table.ledger tbody tr")).hasSize(2);

            // Again with what it had, though the lot is another one by now: the database knows that lot.
            set("walk lot", "W-2");
            actor.click("table.ledger tbody tr:nth-child(2) a");
            actor.see("#again-old");
            actor.browser.executeScript("window.confirm = () => true");
            actor.click("#again-old");
            actor.see("main", "It is begun, as it is released.");
            soon(() -> {
                actor.go("/watch/ledger?key=W-1");
                return actor.texts("table.ledger tbody tr").size() == 3;
            });
            assertThat(actor.texts("table.ledger tbody tr").get(0))
                    .contains("Failed")
                    .contains("again, engineer, with the values of run");
            actor.click("table.ledger tbody tr:nth-child(1) a");
            actor.see("#again-now");
            actor.browser.executeScript("window.confirm = () => true");
            actor.click("#again-now");
            soon(() -> ask("SELECT lot FROM walk_lot ORDER BY lot").equals(List.of("W-1", "W-2")));
            actor.go("/watch");
            actor.see(".business", "Lot ends at the gate");
            assertThat(actor.complaints()).isEmpty();
        }
        String csv = new Visitor(SITE)
                .signIn("engineer", "engineer-demo")
                .get("/watch/ledger/runs.csv?key=W-1")
                .body();
        assertThat(csv.lines().count()).isEqualTo(4);
        assertThat(csv).contains("order 7001").contains("Step insert: ");
    }

    @Test
    void oneIsAboutAPieceOfEquipment() throws Exception {
        SITE.sql("CREATE TABLE walk_line (line VARCHAR(20) NOT NULL, die DECIMAL(8,1) NOT NULL)");
        String line = SITE.bean(Definitions.class).all(EquipmentDefinition.class).stream()
                .filter(each -> each.name().equals("PL2"))
                .findFirst()
                .orElseThrow()
                .id();
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records/transactions");
            actor.click("#new-transaction");
            actor.see("#transaction-name");
            actor.type("#transaction-name", "Line now");
            actor.pick("#equipment", line);
            actor.pick("#add-property", "Die temperature");
            actor.see(".gathers", "Die temperature of PL2");
            has(actor, "#gather-name-0", "die_temperature");
            actor.pick("#equipment", "");
            actor.see(".must", "Choose the equipment whose Die temperature is die_temperature.");
            actor.pick("#equipment", line);
            actor.pick("#add-step", "INSERT");
            actor.see("#s-table-0");
            actor.type("#s-table-0", "walk_line");
            actor.edit(() -> actor.click("#take-0"));
            actor.see("#s-col-0-1");
            actor.type("#s-val-0-0", "equipment");
            actor.type("#s-val-0-1", "die_temperature");
            actor.see(".step-lines", "line = equipment");
            actor.edit(() -> actor.click("#b-apart"));
            actor.edit(() -> actor.click("#try-all"));
            actor.see("#tried", "Tried, and taken back.");
            assertThat(actor.complaints()).isEmpty();
            actor.click("#review");
            actor.see("main", "Is about PL2.");
            actor.see("main", "die_temperature = Die temperature of its equipment");
            actor.click("#release");
            soon(() ->
                    SITE.bean(Engine.class).transactions().find(id("Line now")).isPresent());
            actor.go("/records/transactions/" + id("Line now"));
            actor.browser.executeScript("window.confirm = () => true");
            actor.click("#run-now");
            soon(() -> ask("SELECT line FROM walk_line WHERE die > 0").equals(List.of("PL2")));

            // The same for the other two lines, with one of them edited by hand and the original changed.
            actor.go("/records/transactions/" + id("Line now"));
            actor.click("#line-up");
            actor.see("#offers", "Line now PL3");
            actor.click("#make");
            actor.see("#notice", "2 transactions are drafted.");
            assertThat(actor.texts("#lines tbody tr")).hasSize(2).allMatch(each -> each.contains("yes"));
            actor.go("/records/transactions/" + id("Line now PL3"));
            actor.see(".section-title", "Follows Line now");
            actor.click("#step-0 > summary");
            actor.type("#s-val-0-1", "die_temperature + 1000");
            actor.see(".step-lines", "die = die_temperature + 1000");
            actor.go("/records/transactions/" + id("Line now"));
            actor.click("#step-0 > summary");
            actor.type("#s-val-0-0", "equipment + \"!\"");
            actor.see(".step-lines", "line = equipment + \"!\"");
            actor.click("#line-up");
            assertThat(actor.texts("#lines tbody tr")).hasSize(2).allMatch(each -> each.contains("behind"));
            actor.see("#lines .own-edits", "edited by hand: 1");
            actor.click("#bring");
            actor.see("#notice", "2 lines are brought along, as drafts. 1 keeps what was edited by hand.");
            actor.click(".title-line a.btn-primary");
            actor.see(".review", "Follows Line now.");
            actor.click("#release");
            for (String each : List.of("Line now PL1", "Line now PL3")) {
                soon(() -> SITE.bean(Engine.class).transactions().find(id(each)).isPresent());
                actor.go("/records/transactions/" + id(each));
                actor.browser.executeScript("window.confirm = () => true");
                actor.click("#run-now");
            }
            soon(() -> ask("SELECT CONCAT(line, die > 1000) FROM walk_line WHERE line <> 'PL2' ORDER BY line")
                    .equals(List.of("PL1!0", "PL31")));
            assertThat(actor.complaints()).isEmpty();
        }
    }

    /** A field has it, once the page stands still. */
    private static void has(Actor actor, String field, String value) {
        soon(() -> value.equals(actor.see(field).getDomProperty("value")));
    }

    private static String id() {
        return id("Lot ends at the gate");
    }

    private static String id(String name) {
        return SITE.bean(Definitions.class).all(TransactionDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    private static String production() {
        return SITE.bean(Definitions.class).drafted().stream()
                .filter(each -> each.name().equals("Production"))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    /** For each new row of a table, with what the archive knows of a tag. */
    @Test
    void newRowsAndWhatTheArchiveKnowsAreDesignedAndDone() throws Exception {
        SITE.sql(
                "CREATE TABLE walk_sample (id INT AUTO_INCREMENT PRIMARY KEY, lot VARCHAR(20), moisture DECIMAL(4,1))");
        SITE.sql("INSERT INTO walk_sample (lot, moisture) VALUES ('S-0', 9.5)");
        SITE.sql(
                "CREATE TABLE walk_freed (lot VARCHAR(20) NOT NULL, good BOOLEAN NOT NULL, mean DECIMAL(8,1) NULL, since DATETIME(3) NULL)");
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records/transactions");
            actor.click("#new-transaction");
            actor.see("#transaction-name");
            actor.type("#transaction-name", "Freed by the laboratory");
            actor.pick("#add-when", "NEW_ROW");
            actor.see(".when .must", "Choose the database whose new rows are looked for.");
            actor.pick("#rows-database-0", production());
            actor.type("#rows-table-0", "walk_sample");
            actor.type("#rows-key-0", "id");
            actor.type("#rows-order-0", "id");
            actor.type("#rows-back-0", "soon");
            actor.see(".when .field-problem", "Write a number and a unit");
            has(actor, "#rows-back-0", "soon");
            actor.type("#rows-back-0", "50");
            actor.type("#rows-every-0", "10 ms");
            actor.see(".when .field-problem", "every 200 ms to 1 h");
            actor.type("#rows-every-0", "200 ms");
            actor.tag("#find-add-gather", "walk kilos");
            actor.see("#gather-name-0");
            actor.pick("#gather-since-0", "LENGTH");
            actor.see("#gather-what-0");
            actor.type("#gather-longest-0", "for ever");
            actor.see(".gathers .field-problem", "Write a number and a unit");
            has(actor, "#gather-longest-0", "for ever");
            actor.type("#gather-longest-0", "10 min");
            actor.pick("#gather-what-0", "part13:Average");
            actor.type("#gather-name-0", "mean");
            actor.pick("#add-step", "INSERT");
            actor.see("#s-table-0");
            actor.type("#s-table-0", "walk_freed");
            actor.type("#s-col-0-0", "lot");
            actor.type("#s-val-0-0", "row_lot");
            actor.type("#s-col-0-1", "good");
            actor.type("#s-val-0-1", "row_moisture < 10");
            actor.type("#s-col-0-2", "mean");
            actor.type("#s-val-0-2", "mean");
            actor.type("#s-col-0-3", "since");
            actor.type("#s-val-0-3", "mean_since");
            actor.see(".step-lines", "since = mean_since");

            // Nothing is kept of the tag, and the review says so.
            actor.click("#review");
            actor.see("main", "are not kept, so nothing can be computed from them");
            SITE.bean(Drafts.class)
                    .edit(
                            new KeepingRuleDefinition(
                                    "50fe0002", "Gate", "", Selection.source(GATE), Density.CHANGES, 10, 0),
                            0,
                            "engineer");
            actor.go("/release");
            actor.click("#release");
            soon(() -> SITE.bean(Engine.class).transactions().all().stream()
                    .anyMatch(each -> each.name().equals("Freed by the laboratory")));
            set("walk kilos", 100.0);
            set("walk kilos", 300.0);

            // A try takes the newest row.
            actor.go("/records/transactions/" + id("Freed by the laboratory"));
            soon(() -> {
                actor.edit(() -> actor.click("#try-all"));
                return actor.texts("#tried").get(0).contains("Tried, and taken back.");
            });
            actor.see("#tried", "row_lot = S-0");
            assertThat(ask("SELECT lot FROM walk_freed")).isEmpty();
            SITE.sql("INSERT INTO walk_sample (lot, moisture) VALUES ('S-1', 9.5), ('S-2', 10.5)");
            soon(() -> ask("SELECT CONCAT(lot, ' ', good) FROM walk_freed ORDER BY lot")
                    .equals(List.of("S-1 1", "S-2 0")));
            assertThat(ask("SELECT lot FROM walk_freed WHERE mean IS NULL OR since IS NULL"))
                    .isEmpty();
            soon(() -> {
                actor.go("/watch/ledger?thing=" + id("Freed by the laboratory"));
                return actor.texts("table.ledger tbody tr").size() == 2;
            });
            assertThat(actor.texts("table.ledger tbody tr").get(1)).contains("row 2 of walk_sample");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    @Test
    void whatIsTypedWrongIsSaidAtItsPlace() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records/transactions");
            actor.click("#new-transaction");
            actor.see("#b-limit");
            actor.type("#b-limit", "soon");
            actor.see("[aria-label='Where and bounds'] .field-problem", "Write a number and a unit");
            has(actor, "#b-limit", "soon");
            actor.type("#b-limit", "2 h");
            actor.see("[aria-label='Where and bounds'] .field-problem", "between 100 ms and 10 min");
            actor.type("#b-limit", "5 s");
            actor.type("#b-parallel", "99");
            actor.see("[aria-label='Where and bounds'] .field-problem", "between 1 and 32");
            actor.type("#b-parallel", "1");
            actor.type("#b-keep", "5");
            actor.see("[aria-label='Where and bounds'] .field-problem", "between 8 and 3650");
            actor.type("#b-keep", "30");
            actor.type("#a-done", "yes");
            actor.see("[aria-label=Answer] .field-problem", "\"yes\" is no whole number");
            actor.pick("#add-step", "DELETE");
            actor.see("#s-table-0");
            actor.see("#step-0 .must", "Say which table");
            actor.type("#s-table-0", "walk_lot");
            actor.see("#step-0 .must", "Say which columns get what");
            actor.fill("#s-col-0-0", "lot");
            actor.type("#s-val-0-0", "nosuch + 1");
            actor.see("#step-0 .must", "Tick the columns that tell which rows");
            actor.edit(() -> actor.click("#s-key-0-0"));
            actor.see("#step-0 .must", "There is no input named nosuch");
            actor.type("#s-most-0", "-3");
            actor.see("#step-0 .field-problem", "\"-3\" is no number of rows");
            has(actor, "#s-most-0", "-3");
            actor.type("#s-most-0", "3");
            actor.type("#s-name-0", "1st");
            actor.see("#step-0 .must", "A step needs a name");
        }
    }
}
