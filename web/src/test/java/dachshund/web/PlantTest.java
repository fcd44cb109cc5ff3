package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkState;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.engine.Engine;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.standins.PrivateProcess;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.Set;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.openqa.selenium.By;

/** The plant side by pages, on the demo: sources of each kind, their tags, writing, equipment, certificates. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class PlantTest {

    private static Site site;
    private static Actor actor;

    @BeforeAll
    static void start() {
        site = new Site(true);
        actor = new Actor(site).signIn("admin", "admin-demo");
    }

    @AfterAll
    static void stop() {
        actor.close();
        site.close();
    }

    private static LinkState state(String source) {
        return site.bean(Engine.class)
                .sources()
                .find(site.source(source))
                .orElseThrow()
                .status()
                .state();
    }

    private static void accept() {
        actor.browser.switchTo().alert().accept();
    }

    private static void release() {
        actor.go("/release");
        actor.click("#release");
        actor.see("#notice", "is live.");
    }

    @Test
    @Order(1)
    void allKindsRunAtOnceAndTheListFindsTagsByEverything() {
        actor.go("/plant");
        for (String source : new String[] {"Pellet works", "Energy meters", "Silos", "Targets", "Formulas"}) {
            actor.see("#sources", source);
            soon(() -> state(source) == LinkState.CONNECTED);
        }
        actor.see("#tag-count", "256 tags");
        actor.fill("#q", "outlet dryer");
        actor.see("#tag-count", "2 tags");
        actor.fill("#q", "PL2 running");
        actor.see("#tag-count", "1 tag");
        actor.fill("#q", "");
        actor.browser.findElement(By.cssSelector("[data-filter=kind]")).sendKeys("yes");
        actor.see("tr[data-key]", "true");
        assertThat(actor.browser.getCurrentUrl()).contains("kind=BOOLEAN");
        actor.go("/plant?quality=bad&q=zzz");
        actor.see("#no-tags", "No tag is found with this");
    }

    @Test
    @Order(2)
    void anOpcUaSourceIsAddedWithSecurityAfterItsCertificateIsAccepted() {
        actor.go("/plant/sources/new?kind=opcua");
        actor.fill("#f-name", "Secured works");
        actor.fill("#f-address", site.plant.address());
        actor.browser.findElement(By.id("f-security")).sendKeys("the best");
        actor.browser.findElement(By.id("f-signin")).sendKeys("with user");
        actor.fill("#f-user", "operator");
        actor.fill("#f-password", "pellets");
        actor.click("button[name=save]");
        actor.see("#p-address", "has not been accepted yet");
        assertThat(site.bean(OpcUaTrust.class).seen()).hasSize(1);
        actor.go("/plant/certificates");
        actor.see(".cert", "not accepted");
        actor.click(".cert button");
        accept();
        actor.see(".cert", "State\naccepted");
        actor.go("/plant/sources/new?kind=opcua");
        actor.fill("#f-name", "Secured works");
        actor.fill("#f-address", site.plant.address());
        actor.browser.findElement(By.id("f-security")).sendKeys("the best");
        actor.browser.findElement(By.id("f-signin")).sendKeys("with user");
        actor.fill("#f-user", "operator");
        actor.fill("#f-password", "wrong");
        actor.click("button[name=save]");
        actor.see("#p-address", "Compare user name and password");
        actor.fill("#f-password", "pellets");
        actor.click("button[name=save]");
        actor.see("#notice", "signed in as operator");
        actor.click("#offers details:nth-of-type(1) summary");
        actor.click("#offers details details summary");
        actor.click("#offers .offer input[type=checkbox][value$='Drum dryer/Fan speed']");
        actor.fill("#offers input[name=q]", "accepted low");
        actor.see("#offered", "1 of 178 tags found");
        actor.click("#offered .offer input[type=checkbox]");
        actor.click("#offers .btn-outline-primary");
        actor.see("#notice", "tags are taken from Secured works");
        actor.see("tr[data-key]", "Accepted weights .Low");
        actor.see("tr[data-key]", "Good");
    }

    @Test
    @Order(3)
    void aModbusSourceIsDescribedByHandAndByCsvLookedAtAndWritten() {
        actor.go("/plant/sources/new?kind=modbus");
        actor.fill("#f-host", "127.0.0.1");
        actor.fill("#f-port", Integer.toString(site.modbusPort));
        actor.fill("#f-name", "Second gateway");
        actor.click("button[name=save]");
        actor.see("#notice", "unit 1 answers");
        actor.click(".panel a.btn-primary");
        actor.fill("#f-name", "Power low first");
        actor.fill("#f-unit_id", "7");
        actor.fill("#f-register", "0");
        actor.click("#describe .btn-primary");
        actor.see(".field-problem", "Say in which table the address 0 lies");
        actor.fill("#f-register", "30001");
        actor.browser.findElement(By.id("f-type")).sendKeys("float, 32");
        actor.click("#describe [hx-post]");
        actor.see("#look tr.chosen", "ABCD");
        actor.browser.findElement(By.id("f-order")).sendKeys("CDAB");
        actor.click("#describe [hx-post]");
        actor.see("#look tr.chosen", "CDAB");
        assertThat(Double.parseDouble(actor.see("#look tr.chosen td.num").getText()))
                .isBetween(40.0, 90.0);
        actor.click("#describe .btn-primary");
        actor.see("#notice", "Power low first is added.");
        actor.see("table.described", "0 (30001)");
        String csv =
                "name,unit_id,table,register,type,scale,range\nTariff,2,holding,100,uint16,,1 to 4\nFactor,1,input,20,uint16,0.001,\n";
        String id = site.source("Second gateway");
        actor.go("/plant/sources/" + id + "/tags/csv-in");
        actor.fill("#f-text", csv + "Wrong,1,attic,3,uint16,,\n");
        actor.click("form .btn-primary");
        actor.see("main .problem", "Line 4, Wrong: A table is one of");
        actor.fill("#f-text", csv);
        actor.click("form .btn-primary");
        actor.see("#notice", "2 new tags");
        actor.see("table.described", "Tariff");

        actor.go("/plant/sources/" + id);
        actor.click(".title-line details summary");
        actor.click("form[action*=writing] button");
        accept();
        actor.see("#notice", "is on with the next release");
        release();
        soon(() -> state("Second gateway") == LinkState.CONNECTED);
        actor.go("/plant?source=" + id + "&q=tariff");
        actor.click("tr[data-key] a");
        actor.fill("#f-value", "9");
        actor.click("#write-form button");
        actor.see("#write-result", "lies outside the range 1 to 4");
        actor.fill("#f-value", "3");
        actor.click("#write-form button");
        actor.see("#write-result", "This acts on the plant at once");
        actor.click("#write-result button");
        actor.see("#write-result", "Written and read back.");
        actor.see("#value", "3");
        actor.see("#tag-live", "by admin");
        actor.go("/people/audit");
        actor.see("main", "wrote a tag");
    }

    @Test
    @Order(4)
    void aSetPointIsWrittenOverOpcUaAndThePlantFollows() {
        actor.go("/plant?q=fan%20speed%20set%20point");
        actor.click("tr[data-key] a");
        actor.fill("#f-value", "fast");
        actor.click("#write-form button");
        actor.see("#write-result", "Write a number");
        actor.fill("#f-value", "61.5");
        actor.click("#write-form button");
        actor.click("#write-result button");
        actor.see("#write-result", "Written and read back.");
        actor.see("#value", "61.5");
        actor.see("#window-span", "moving on with the clock");
        actor.click("#history-form button");
        actor.see("#tag-history", "last 1 h");
        actor.fill("#window", "yesteday 06:00 to 14:00");
        actor.see("#window-span mark", "yesteday");
        actor.click("#history-form button");
        actor.see("#tag-history", "not understood here");
        actor.fill("#window", "yesterday 06:00 to 14:00");
        LocalDate yesterday = LocalDate.now(ZoneId.of("Europe/London")).minusDays(1);
        actor.see("#window-span", yesterday + " 06:00:00 to " + yesterday + " 14:00:00 Europe/London");
        actor.fill("#fact-unit", "percent");
        actor.click(".facts-form button");
        actor.see("#notice", "The facts of Fan speed set point are changed");
        actor.see(".facts-form", "the source says: %");
    }

    /** As an installation of before holds an enumeration: of no kind, without words. */
    @Test
    @Order(4)
    void aTagThatWasTakenWithoutAKindIsTakenAgainWithItsKindAndItsWords() {
        Drafts drafts = site.bean(Drafts.class);
        SourceDefinition works = site.bean(Definitions.class)
                .find(SourceDefinition.class, site.source("Pellet works"))
                .orElseThrow();
        TagInfo phase = works.tags().stream()
                .filter(tag -> tag.name().equals("Phase"))
                .findFirst()
                .orElseThrow();
        TagInfo before =
                new TagInfo(phase.address(), phase.path(), phase.name(), DataKind.OTHER, "", "", phase.writable());
        drafts.edit(
                works.withTags(works.tags().stream()
                        .map(tag -> tag.equals(phase) ? before : tag)
                        .toList()),
                drafts.revision(works.id()),
                "admin");
        String page = "/plant/tag?key=" + URLEncoder.encode(works.id() + " " + phase.address(), StandardCharsets.UTF_8);
        actor.go(page);
        actor.see("#kind-unknown", "take it again");
        actor.click("#kind-unknown a");
        actor.fill("#offers [name=q]", "Phase");
        actor.see("#offered", "1 of");
        actor.click("#offers button:not([name])");
        actor.see("#notice", "tags are taken from Pellet works");
        actor.go(page);
        assertThat(actor.texts("#kind-unknown")).isEmpty();
        actor.see("main", "whole number");
        actor.see("main", "0=idle");
        assertThat(site.bean(Definitions.class)
                        .find(SourceDefinition.class, works.id())
                        .orElseThrow()
                        .tags())
                .contains(phase);
        drafts.discardAll(Set.of(works.id()), "admin");
    }

    @Test
    @Order(4)
    void writingIsOffUntilItIsSwitchedOn() {
        actor.go("/plant?q=tariff%20offices");
        actor.click("tr[data-key] a");
        actor.see("main", "Writing to Energy meters is off. An administrator switches it on at the source.");
    }

    @Test
    @Order(7)
    void aBrokersTopicsAreListedAndTaken() {
        actor.go("/plant/sources/new?kind=mqtt");
        actor.fill("#f-host", "127.0.0.1");
        actor.fill("#f-port", Integer.toString(site.broker.port()));
        actor.fill("#f-topics", "quillmoor/si#");
        actor.click("button[name=save]");
        actor.see("#p-topics", "# for all that follow, at the end only");
        actor.fill("#f-topics", "quillmoor/#");
        actor.fill("#f-name", "Second broker");
        actor.click("button[name=save]");
        actor.see("#notice", "A broker answered");
        soon(() -> site.bean(Engine.class)
                        .sources()
                        .find(site.source("Second broker"))
                        .orElseThrow()
                        .health()
                        .counts()
                        .get("topics heard")
                >= 13);
        actor.go("/plant/sources/" + site.source("Second broker"));
        actor.see(".latest", "quillmoor/silos/S1/level");
        actor.click("#offers details summary");
        actor.click("#offers details details summary");
        actor.click("#offers details details details summary");
        actor.see("#offers", "climate temperature");
        actor.click("button[name=all]");
        actor.see("#notice", "tags are taken from Second broker");
        actor.see("tr[data-key]", "Good");
    }

    @Test
    @Order(6)
    void aFormulaShowsItsResultAndItsTroubleWhileItIsTyped() {
        actor.go("/plant?q=PL1%20main%20motor");
        actor.click("tr[data-key] input");
        actor.click("button[formaction*=formula]");
        actor.see("#inputs", "PL1 / Main motor power");
        actor.see("#check", "It gives");
        actor.fill("#f-formula", "main_motor_power * nope");
        actor.see("#check", "There is no input named nope.");
        actor.see("#check mark", "nope");
        actor.fill("#f-formula", "convert(main_motor_power, \"kW\", \"MW\")");
        actor.see("#check", "It gives");
        actor.fill("#f-name", "Motor power in MW");
        actor.click("#formula-form .btn-primary");
        actor.see("#notice", "Motor power in MW is added.");
        actor.see("table.described", "Motor power in MW");
    }

    @Test
    @Order(5)
    void machinesThatLookAlikeAreMappedTogether() throws Exception {
        actor.go("/plant/equipment");
        actor.click("#alike");
        actor.see("form.panel", "S1, S2, S3, S4 look alike");
        String form = "form.panel[data-group='silo'] ";
        actor.fill(form + "input[name=className]", "Silo");
        actor.click(form + "button");
        actor.see("#notice", "4 of the class Silo are drafted.");
        actor.see("main", "S3");
        actor.browser.findElements(By.cssSelector("[data-open]")).stream()
                .filter(link -> link.getText().equals("S3"))
                .findFirst()
                .orElseThrow()
                .click();
        actor.see("#equipment-live", "Good");
        actor.see("#equipment-live", "level");
        String csv = new Visitor(site)
                .signIn("admin", "admin-demo")
                .get("/plant/equipment/csv")
                .body();
        assertThat(csv).contains("Pellet line,PL1,Pelleting,Lot ID,Pellet works,Pelleting / PL1 / Lot ID,,,");
        actor.go("/plant/equipment/csv-in");
        actor.browser.executeScript(
                "document.getElementById('f-text').value = arguments[0]",
                csv + "Pellet line,PL1,Pelleting,Colour,,,green,,\r\n");
        actor.click("form .btn-primary");
        actor.see("main .problem", "the class Pellet line has no property Colour");
        actor.browser.executeScript(
                "document.getElementById('f-text').value = arguments[0]",
                "class,equipment,location,property,constant\nPellet line,PL4,Pelleting,Running hours,12\n");
        actor.click("form .btn-primary");
        actor.see("#notice", "1 pieces of equipment are drafted from CSV.");
        actor.see("main", "missing: State, Lot ID");
        actor.go("/plant/sources/" + site.source("Silos"));
        actor.click(".title-line details summary");
        actor.click("form[action$=remove] button");
        accept();
        actor.see("#notice", "This source is used by");
    }

    @Test
    @Order(8)
    void aSourceIsPausedResumedCopiedExportedAndImported() throws Exception {
        String silos = site.source("Silos");
        actor.go("/plant/sources/" + silos);
        actor.click("form[action$=pause] button");
        accept();
        actor.see("#source-state", "Paused by admin");
        assertThat(state("Silos")).isEqualTo(LinkState.PAUSED);
        actor.click("form[action$=resume] button");
        actor.see("#source-state", "Connected");
        actor.click(".title-line details summary");
        actor.click("form[action$=duplicate] button");
        actor.see("#notice", "This is a copy of Silos");
        assertThat(actor.see("#f-name").getDomProperty("value")).isEqualTo("Silos 2");
        Visitor visitor = new Visitor(site).signIn("admin", "admin-demo");
        String json = visitor.get("/plant/sources/" + silos + "/export").body();
        assertThat(json).contains("\"link\":\"mqtt\"").doesNotContain("sealed:");
        actor.go("/plant/sources/import");
        actor.browser.executeScript(
                "document.getElementById('f-text').value = arguments[0]",
                "{\"is\": \"recorder\", \"schemaVersion\": 1}");
        actor.click("form .btn-primary");
        actor.see("#p-text", "This is not a definition");
        actor.browser.executeScript("document.getElementById('f-text').value = arguments[0]", json);
        actor.click("form .btn-primary");
        actor.see("#notice", "is imported as a draft with 16 tags");
        release();
    }

    @Test
    @Order(9)
    void eachKindTellsTheTruthWhileItsStandInIsAwayAndComesBack() throws Exception {
        site.broker.kill();
        soon(() -> state("Silos") == LinkState.AWAY);
        actor.go("/plant?q=silos%20S1%20level");
        actor.see("tr[data-key]", "no communication with the source");
        actor.see("#sources", "Away");
        site.broker.start();
        soon(() -> state("Silos") == LinkState.CONNECTED);
        actor.see("tr[data-key]", "Good");
        site.plant.meters().orElseThrow().silence(4, true);
        actor.go("/plant/sources/" + site.source("Energy meters"));
        actor.see("#source-state", "8 of 9 devices answer; unit 4");
        site.plant.meters().orElseThrow().silence(4, false);
        actor.see("#source-state", "All 9 devices answer");
    }

    @Test
    @Order(10)
    void failureSentencesOfModbusAndMqtt() throws Exception {
        int nobody = PrivateProcess.freePort();
        actor.go("/plant/sources/new?kind=modbus");
        actor.fill("#f-host", "127.0.0.1");
        actor.fill("#f-port", Integer.toString(nobody));
        actor.click("button[name=save]");
        actor.see("#p-host", "refuses port " + nobody + ". Is the Modbus device running");
        actor.fill("#f-host", "no such host");
        actor.click("button[name=save]");
        actor.see("#p-host", "This is no host name");
        actor.fill("#f-host", "127.0.0.1");
        actor.fill("#f-port", Integer.toString(site.broker.port()));
        actor.click("button[name=save]");
        actor.see("#p-host", "whether the device speaks Modbus TCP");
        actor.go("/plant/sources/new?kind=mqtt");
        actor.fill("#f-host", "127.0.0.1");
        actor.fill("#f-port", Integer.toString(site.modbusPort));
        actor.click("button[name=save]");
        actor.see("#p-host", "MQTT broker");
        assertThat(actor.browser.findElement(By.id("f-port")).getDomProperty("value"))
                .isEqualTo(Integer.toString(site.modbusPort));
    }
}
