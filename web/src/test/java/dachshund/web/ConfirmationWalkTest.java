package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
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
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A recorder that tells the plant what became of the row it asked for, from its design to the row; the controller is kept tags. */
class ConfirmationWalkTest {

    private static final Site SITE = Site.demo();
    private static final String PACKER = "50fe0007";

    @BeforeAll
    static void tags() throws Exception {
        new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/discard");
        List<TagInfo> tags = new ArrayList<>();
        for (String name : List.of("crate number", "crate taken", "crate code", "crate bottles")) {
            tags.add(new TagInfo(name, "Packer", name, DataKind.INTEGER, "", "", true));
        }
        tags.add(new TagInfo("crate why", "Packer", "crate why", DataKind.TEXT, "", "", true));
        SITE.bean(Drafts.class)
                .edit(
                        new SourceDefinition(
                                PACKER, "Packer of the walk", "", KeptKind.ID, Map.of(), Duration.ofSeconds(1), tags),
                        0,
                        "engineer");
        new Visitor(SITE).signIn("engineer", "engineer-demo").release();
        soon(() -> SITE.bean(Definitions.class).live(PACKER).isPresent());
        set("crate number", 0L);
        set("crate taken", 0L);
    }

    @AfterAll
    static void clear() throws Exception {
        new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/discard");
    }

    private static void set(String tag, Object value) {
        soon(() -> SITE.bean(Engine.class)
                .sources()
                .write(new TagRef(PACKER, tag), value, "the controller")
                .same());
    }

    private static Object get(String tag) {
        return SITE.bean(Engine.class)
                .tags()
                .entry(new TagRef(PACKER, tag))
                .value()
                .value()
                .orElse(null);
    }

    private static List<String> rows() throws Exception {
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "SELECT CONCAT(crate_number, ' ', crate_bottles) FROM crate ORDER BY id")) {
            List<String> all = new ArrayList<>();
            while (rows.next()) {
                all.add(rows.getString(1));
            }
            return all;
        }
    }

    private static String id() {
        return SITE.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Crates"))
                .findFirst()
                .orElseThrow()
                .id();
    }

    @Test
    void aRowIsAskedForWrittenAndConfirmed() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/records");
            actor.click(".title-line button.btn-primary");
            actor.see("#recorder-name");
            actor.type("#recorder-name", "Crates");
            actor.see(".draft-line");
            actor.type("#table0", "crate");
            assertThat(actor.texts("[aria-label=Confirmation]"))
                    .as("nothing to confirm yet")
                    .isEmpty();
            actor.pick("#when-0 [name=kind]", "REQUEST");
            actor.tag("#role-0-NUMBER", "crate number");
            actor.see(".request-tags", "Packer / crate number");
            for (String tag : List.of("crate number", "crate bottles")) {
                actor.fill("#add-tag", tag);
                actor.see("#found form:first-child button", tag);
                actor.edit(() -> actor.click("#found form:first-child button"));
                actor.see("#columns", tag.replace(' ', '_'));
            }

            // The ledger is to find its rows by a column that there is.
            actor.type("#ledger-keys", "crate_no");
            actor.see(".ledger-keys .field-problem", "There is no column crate_no.");
            assertThat(actor.see("#ledger-keys").getDomProperty("value")).isEqualTo("crate_no");
            actor.type("#ledger-keys", "row_id");
            actor.see(".ledger-keys .field-problem", "Each row has another row_id");
            actor.type("#ledger-keys", "crate_number");
            soon(() -> actor.texts(".ledger-keys .field-problem").isEmpty());

            // Told when it has landed; what is missing or wrong is said at once.
            actor.pick("#c-of", "LANDED");
            actor.see("[aria-label=Confirmation] .field-problem", "which tag gets the number");
            actor.tag("#role-0-ANSWERED", "crate taken");
            actor.see(".request-tags", "Packer / crate taken");
            assertThat(actor.texts("[aria-label=Confirmation] .field-problem")).isEmpty();
            actor.type("#c-failed", "1");
            actor.see("[aria-label=Confirmation] .field-problem", "nobody could tell one from the other");
            assertThat(actor.see("#c-failed").getDomProperty("value"))
                    .as("what was typed stays")
                    .isEqualTo("1");
            actor.type("#c-failed", "no");
            actor.see("[aria-label=Confirmation] .field-problem", "is no whole number");
            actor.type("#c-failed", "9");
            actor.type("#c-settle", "soon");
            actor.see("[aria-label=Confirmation] .field-problem", "for example 500 ms");
            actor.type("#c-settle", "5 min");
            actor.see("[aria-label=Confirmation] .field-problem", "up to 60 s");
            actor.type("#c-settle", "3 s");
            actor.tag("#find-confirms-code", "crate code");
            actor.see("[aria-label=Confirmation]", "Packer / crate code");
            actor.tag("#find-confirms-text", "crate why");
            actor.see("[aria-label=Confirmation]", "Packer / crate why");
            assertThat(actor.complaints()).isEmpty();

            actor.click("#review");
            actor.see("main", "Tells the plant when its row has landed: 1, else 9, in Packer / crate code");
            actor.see("main", "then the number in Packer / crate taken");
            actor.see("main", "The ledger finds its rows by crate_number.");
            actor.click("#release");
            soon(() -> SITE.bean(Definitions.class).live(id()).isPresent());
            soon(() -> SITE.bean(Engine.class).recorders().find(id()).isPresent());

            // The data comes after the number, as it does in some controllers.
            set("crate number", 31L);
            set("crate bottles", 24L);
            soon(() -> Long.valueOf(31).equals(get("crate taken")));
            assertThat(get("crate code")).isEqualTo(1L);
            assertThat(rows()).containsExactly("31 24");

            // While somebody has locked the table, nobody is told anything before it has the row.
            try (Connection other = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                    Statement lock = other.createStatement()) {
                lock.execute("LOCK TABLES crate WRITE");
                set("crate bottles", 20L);
                set("crate number", 32L);
                soon(() -> {
                    actor.go("/records/" + id());
                    return actor.texts("#status").stream()
                            .anyMatch(text -> text.contains("is not known to be in its tables"));
                });
                assertThat(get("crate taken")).isEqualTo(31L);
            }
            soon(() -> Long.valueOf(32).equals(get("crate taken")));
            assertThat(get("crate code")).isEqualTo(1L);
            assertThat(rows()).containsExactly("31 24", "32 20");
        }
    }
}
