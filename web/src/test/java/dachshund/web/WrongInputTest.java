package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.DestinationDefinition;
import dachshund.office.definition.Definitions;
import dachshund.standins.PrivateProcess;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Wrong input on every step of the path gets a sentence at its place, and the rest of the form stays. */
class WrongInputTest {

    private static final Site SITE = Site.demo();
    private static Actor actor;

    @BeforeAll
    static void signIn() {
        actor = new Actor(SITE).signIn("engineer", "engineer-demo");
    }

    @AfterAll
    static void leave() {
        actor.close();
    }

    private static String value(String css) {
        return actor.see(css).getDomProperty("value");
    }

    @Test
    void aBadSourceAddress() throws Exception {
        actor.go("/plant/sources/new?kind=opcua");
        actor.fill("#f-name", "Kiln");
        actor.fill("#f-address", "http://kiln:4840");
        actor.click("button[name=save]");
        actor.see("#p-address", "An OPC UA address begins with opc.tcp://.");
        assertThat(value("#f-name")).isEqualTo("Kiln");
        actor.fill("#f-address", "opc.tcp://no-such-host.invalid");
        actor.click("button[name=save]");
        actor.see("#p-address", "There is no host named no-such-host.invalid.");
        actor.fill("#f-address", "opc.tcp://127.0.0.1:" + PrivateProcess.freePort());
        actor.click("button[name=save]");
        actor.see("#p-address", "refuses port");
        actor.fill("#f-address", SITE.plant.address() + "/nothing");
        actor.fill("#f-rate", "often");
        actor.click("button[name=save]");
        actor.see("#p-rate", "Write a number and a unit");
        actor.fill("#f-rate", "1 s");
        actor.click("button[name=save]");
        actor.see("#p-address", "no endpoint /nothing");
        assertThat(value("#f-name")).isEqualTo("Kiln");
    }

    @Test
    void aWrongPasswordAndADatabaseThatIsNotThere() {
        actor.go("/records/destinations/new");
        actor.fill("#f-port", "33o6");
        actor.fill("#f-user", "quillmoor");
        actor.click("button[name=save]");
        actor.see("#p-port", "whole number from 1 to 65535");
        actor.see("#p-database", "The name of the database is needed.");
        assertThat(value("#f-user")).isEqualTo("quillmoor");
        actor.fill("#f-port", Integer.toString(SITE.database.port()));
        actor.fill("#f-database", "quillmoor_records");
        actor.fill("#f-password", "wrong");
        actor.click("button[name=save]");
        actor.see("#p-password", "refuses this user or password");
        assertThat(value("#f-database")).isEqualTo("quillmoor_records");
        assertThat(value("#f-password")).as("a password is never sent back").isEmpty();
        actor.fill("#f-password", "quillmoor-demo");
        actor.fill("#f-database", "no_such_database");
        actor.click("button[name=save]");
        actor.see("#p-database", "may not use the database");
    }

    private void newRecorderOf(String words, int tags) {
        actor.go("/plant?q=" + words.replace(" ", "%20"));
        for (int i = 1; i <= tags; i++) {
            actor.click(
                    "tr[data-key]:nth-child(" + (i + 1) + ") input"); // the first child keeps the place of rows above
        }
        actor.click("#record-these");
        actor.see("#design");
    }

    private void discard() {
        actor.click(".title-line .danger");
        actor.browser.switchTo().alert().accept();
        actor.see("#notice", "is removed.");
    }

    @Test
    void columnNamesAndTypes() {
        newRecorderOf("HM2 vibration", 1);
        actor.click("#columns th:nth-child(4) button");
        actor.fill("#f-name", "record_time");
        actor.click("#column-editor .btn-primary");
        actor.see("#p-name", "Column 2 is named record_time already.");
        actor.fill("#f-name", "x".repeat(65));
        actor.click("#column-editor .btn-primary");
        actor.see("#p-name", "up to 64 characters");
        actor.fill("#f-name", "vibration");
        actor.fill("#f-type", "varchr(5)");
        actor.click("#column-editor .btn-primary");
        actor.see("#p-type", "There is no type \"varchr\".");
        assertThat(value("#f-name")).isEqualTo("vibration");
        actor.fill("#f-type", "decimal(6,2)");
        actor.fill("#f-name", "drive end \"vib`ration\" it's");
        actor.click("#column-editor .btn-primary");
        actor.see(".advice", "must quote a name with spaces or special characters");
        actor.click("#columns th:nth-child(4) button");
        actor.fill("#f-name", "select");
        actor.click("#column-editor .btn-primary");
        actor.see(".advice", "reserved word");
        actor.click("[data-key=t]");
        actor.see(".result.worked", "1 row was written and rolled back");
        actor.fillAndLeave("#period", "often");
        actor.see(".when .field-problem", "Write a number and a unit");
        actor.fillAndLeave("#period", "25 h");
        actor.see(".when .field-problem", "between 10 ms and 24 h");
        actor.fillAndLeave("#table0", " ");
        actor.see(".where .field-problem", "A name is needed.");
        discard();
    }

    @Test
    void aTextTagIntoANumberColumnIsSetAsideAndCountedNeverWrittenWrong() {
        newRecorderOf("PL2 lot", 1);
        actor.edit(() -> actor.fillAndLeave("#recorder-name", "Lot as number"));
        actor.click("#columns th:nth-child(4) button");
        actor.fill("#f-type", "integer");
        actor.click("#column-editor .btn-primary");
        actor.see(".advice", "is text and this column holds numbers");
        actor.see(".now-reason", "This row would be set aside.");
        actor.click("[data-key=t]");
        actor.see(".result.failed", "which is not a number");
        actor.click("#review");
        actor.click("#release");
        actor.see("#status", "set aside");
        actor.go("/watch");
        actor.see(".strips", "Lot as number");
        actor.browser.findElements(org.openqa.selenium.By.cssSelector(".strips [data-open]")).stream()
                .filter(link -> link.getText().equals("Lot as number"))
                .findFirst()
                .orElseThrow()
                .click();
        actor.see("main", "Set aside (");
        actor.see("main", "PL2-");
    }

    @Test
    void aReleaseThatCannotWorkIsRefusedWithItsReason() {
        newRecorderOf("HM1 starts", 1);
        actor.click("#columns th:nth-child(4) button");
        actor.click(".editor-more .danger");
        actor.see("[aria-label=Row] .problem", "There is no tag in this row yet.");
        actor.click("#review");
        actor.see(".review .must", "There is no tag in this row yet.");
        assertThat(actor.see("#release").isEnabled()).isFalse();
        actor.browser.navigate().back();
        actor.see("#design");
        discard();
    }

    @Test
    void theDestinationsPasswordIsSealedAtRest() {
        String kept = SITE.bean(Definitions.class).all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals("Production"))
                .findFirst()
                .orElseThrow()
                .settings()
                .get("password");
        assertThat(kept).startsWith("sealed:").doesNotContain("quillmoor-demo");
    }
}
