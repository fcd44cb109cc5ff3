package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.layout.Layout;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.engine.Engine;
import dachshund.engine.kept.KeptKind;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.design.DesignList;
import dachshund.office.design.Designs;
import dachshund.office.design.ListedFormula;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.office.release.ConfigurationFile;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.awaitility.Awaitility;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.interactions.Actions;

/** Finding, stopping, duplicating and removing among five hundred recorders, by hand in a browser. */
class DesignsTest {

    private static final Site SITE = Site.demo();
    private static final int MANY = 500;
    private static Definitions definitions;
    private static Drafts drafts;
    private static Actor actor;

    @BeforeAll
    static void fill() {
        definitions = SITE.bean(Definitions.class);
        drafts = SITE.bean(Drafts.class);
        List<RecorderDefinition> many = new ArrayList<>();
        for (int i = 0; i < MANY; i++) {
            many.add(new RecorderDefinition(
                    String.format("5000%04x", i),
                    String.format("Silo %03d level", i),
                    "Level of a silo in hall " + i % 7,
                    List.of(),
                    Layout.proposed(),
                    List.of()));
        }
        drafts.editAll(many, "engineer");
        actor = new Actor(SITE).signIn("engineer", "engineer-demo");
    }

    @AfterAll
    static void leave() {
        actor.close();
        drafts.discardAll("engineer");
    }

    private static int lines() {
        return actor.browser.findElements(By.cssSelector("#ticked tbody tr")).size();
    }

    private static void tick(String name) {
        actor.click("#ticked input[aria-label='" + name + "']");
    }

    private static void with(String action) {
        actor.click("#ticked button[formaction='/designs/ticked/" + action + "']");
    }

    @Test
    void oneIsFoundByWordsInAnyOrderAndTheListGoesByPages() {
        actor.go("/designs?kind=RECORDER");
        assertThat(lines()).isEqualTo(50);
        actor.click("#next-page");
        actor.see("nav[aria-label=Pages]", "Page 2 of ");
        actor.fill("#find", "level 123");
        actor.click(".find-line button");
        actor.see("#how-many", "1 found");
        actor.see("#ticked", "Silo 123 level");
    }

    /** Each kind's page is the same list with columns of its own; what is ticked stays so while its lines are drawn anew. */
    @Test
    void everyKindHasTheSameListAndTicksOutliveItsNews() throws Exception {
        actor.go("/designs?kind=RECORDER&q=dryer+log");
        assertThat(actor.browser.getCurrentUrl()).contains("/records?").contains("q=dryer");
        actor.see("#ticked thead", "Last row");
        tick("Dryer log");
        String before = actor.see("#lines").getText();
        soon(() -> !actor.see("#lines").getText().equals(before));
        assertThat(actor.see("#ticked input[aria-label='Dryer log']").isSelected())
                .isTrue();
        actor.see(".for-ticked");
        with("remove");
        actor.see("main", "Remove 1 thing?");
        actor.click("[data-leave]");
        actor.see("#ticked", "Dryer log");
        assertThat(actor.browser.getCurrentUrl()).contains("/records?").contains("q=dryer");
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        for (String each : List.of(
                "/records/destinations?q=production|Held rows|Production|Energy records",
                "/plant/sources?q=meters|Asked every|Energy meters|Silos",
                "/plant/equipment?q=pl2|Mapped|PL2|PL3")) {
            String[] part = each.split("\\|");
            String page = engineer.get(part[0].replace(' ', '+')).body();
            assertThat(page.substring(page.indexOf("id=\"ticked\"")))
                    .as(part[0])
                    .contains(part[1], ">" + part[2] + "<")
                    .doesNotContain(">" + part[3] + "<");
        }
        assertThat(engineer.get("/records?page=99999999999&sort=nothing&state=none")
                        .body())
                .contains("Nothing here is like that");
    }

    @Test
    void aDestinationIsTestedInItsLineAndTheAnswerStaysWhileTheLinesAreDrawnAnew() {
        actor.go("/records/destinations?q=event+files");
        actor.click("#lines button[hx-post]");
        actor.see("#lines .result", "It answers.");
        actor.browser.executeScript("document.querySelector('#lines').dataset.old = 'yes'");
        soon(() -> actor.see("#lines").getDomAttribute("data-old") == null);
        actor.see("#lines .result", "It answers.");
    }

    @Test
    void aRecorderIsStoppedAndStartedAfterItWasSaidWhatFollows() {
        String dryer = SITE.recorder("Dryer log");
        Engine engine = SITE.bean(Engine.class);
        actor.go("/designs?q=dryer+log&kind=RECORDER");
        tick("Dryer log");
        with("stop");
        actor.see("main", "Makes no rows until it is started.");
        assertThat(engine.local().stopped()).doesNotContainKey(dryer);
        actor.click("button[name=sure]");
        actor.see("#notice", "Dryer log is stopped.");
        actor.see("#ticked", "Stopped");
        assertThat(engine.local().stopped()).containsKey(dryer);
        tick("Dryer log");
        with("start");
        actor.see("#notice", "Dryer log is started.");
        Awaitility.await()
                .atMost(Duration.ofSeconds(20))
                .until(() -> !engine.local().stopped().containsKey(dryer));
    }

    @Test
    void severalAreDuplicatedAndRemovedTogether() {
        actor.go("/designs?q=silo+04+level");
        actor.click("#ticked thead input[type=checkbox]");
        int ticked = lines();
        assertThat(ticked).isGreaterThan(9);
        with("duplicate");
        actor.see("#notice", ticked + " things duplicated");
        actor.go("/designs?q=silo+level+2+041");
        tick("Silo 041 level 2");
        with("remove");
        actor.see("main", "Remove 1 thing?");
        actor.click("button[name=sure]");
        actor.see("#notice", "1 thing goes");
        assertThat(definitions.all(RecorderDefinition.class))
                .noneMatch(each -> each.name().equals("Silo 041 level 2"))
                .anyMatch(each -> each.name().equals("Silo 041 level"));
    }

    @Test
    void allThatAreFoundAreMeantWhereThatIsTicked() {
        actor.go("/designs?q=hall+5+silo");
        int before = definitions.all(RecorderDefinition.class).size();
        actor.click("input[name=all]");
        with("duplicate");
        actor.see("#notice", "things duplicated");
        assertThat(definitions.all(RecorderDefinition.class).size() - before).isGreaterThan(50);
    }

    @Test
    void manyAreMovedToAFolderAndLabelledAndFoundByIt() {
        actor.go("/designs?q=hall+3+silo&kind=RECORDER");
        actor.click("input[name=all]");
        actor.click("#file summary");
        actor.fill("#to", "Silos/Hall 3");
        new Actions(actor.browser).sendKeys(Keys.ENTER).perform();
        actor.see("#notice", "moved to Silos/Hall 3.");
        actor.go("/designs?folder=Silos");
        int all = DesignList.found(
                        SITE.bean(Designs.class).all(),
                        new DesignList.Query("hall 3 silo", "RECORDER", "", "", "", "", 1))
                .size();
        assertThat(all).isGreaterThan(50);
        actor.see("#how-many", all + " found");
        actor.see("#ticked tbody", "Silos / Hall 3");
        tick("Silo 003 level");
        actor.click("#file summary");
        actor.fill("#labels", "being cleaned");
        with("label");
        actor.see("#notice", "1 thing is labelled being cleaned.");
        actor.go("/designs?q=cleaned");
        actor.see("#how-many", "1 found");
        assertThat(definitions.draft("50000003").orElseThrow().revision())
                .as("no edit of the design")
                .isEqualTo(1);
        actor.go("/designs/50000003");
        actor.fill("#folder", "");
        actor.click("form.filing button");
        actor.see("#notice", "this needs no release");
        assertThat(SITE.bean(Filings.class).of("50000003")).isEqualTo(new Filed("", List.of("being cleaned")));
    }

    @Test
    void aRecordersDuplicateWritesToATableOfItsOwn() {
        actor.go("/records/" + SITE.recorder("Dryer log"));
        actor.click("#duplicate");
        actor.see("#notice", "This is a duplicate of Dryer log, not released yet.");
        assertThat(definitions.all(RecorderDefinition.class).stream()
                        .filter(each -> each.name().equals("Dryer log 2"))
                        .flatMap(each -> each.wheres().stream())
                        .map(RecorderDefinition.Where::table))
                .containsExactly("dryer_log_2");
    }

    /** They stand in a source, and are filed, duplicated and removed by themselves all the same. */
    @Test
    void formulaTagsAreThingsOfTheListToo() throws Exception {
        Designs designs = SITE.bean(Designs.class);
        ListedFormula one = designs.formulas().stream()
                .filter(each -> designs.formulas().stream()
                        .noneMatch(other -> other.kind().tagsOf(other).contains(each.ref())))
                .findFirst()
                .orElseThrow();
        int before = designs.formulas().size();
        actor.go("/plant/formulas");
        assertThat(lines()).isEqualTo(before);
        tick(one.name());
        actor.click("#file summary");
        actor.fill("#to", "Figures / Energy");
        with("move");
        actor.see("#notice", "1 thing is moved to Figures / Energy.");
        actor.see("#ticked tbody", "Figures / Energy");
        tick(one.name());
        with("duplicate");
        actor.see("#notice", "This is a duplicate of " + one.name() + ", not released yet.");
        actor.see("main h1", one.tag().name() + " 2");
        actor.click("#as-design");
        actor.see("dl.facts", "Draft only");
        assertThat(actor.see("#folder").getDomProperty("value")).isEqualTo("Figures / Energy");
        ListedFormula copy = designs.formulas().stream()
                .filter(each -> each.name().equals(one.name() + " 2"))
                .findFirst()
                .orElseThrow();
        assertThat(copy.tag().how()).isEqualTo(one.tag().how());
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(engineer.get("/plant/formulas?folder=Figures").body()).contains(copy.name());
        assertThat(engineer.post("/designs/ticked/export", "id", one.id()).body())
                .contains(one.source().id());
        actor.go("/plant/formulas?q=" + copy.id());
        actor.see("#how-many", "1 found");
        tick(copy.name());
        with("remove");
        actor.see("main", "It is computed no more");
        actor.click("button[name=sure]");
        actor.see("#notice", "1 thing goes");
        assertThat(designs.formulas()).hasSize(before).contains(one);
    }

    /** Nothing is said to be free to go that another formula is made of. */
    @Test
    void aFormulaThatIsAnInputOfAnotherIsSaidToBeUsed() throws Exception {
        Designs designs = SITE.bean(Designs.class);
        ListedFormula input = designs.formulas().get(0);
        TagInfo twice = input.tag()
                .named("twice", "Twice the same")
                .withHow(Map.of(
                        FormulaTag.FORMULA, "a * 2", FormulaTag.INPUTS, FormulaTag.lines(Map.of("a", input.ref()))));
        List<TagInfo> tags = new ArrayList<>(input.source().tags());
        tags.add(twice);
        drafts.editAll(List.of(input.source().withTags(tags)), "engineer");
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(engineer.post("/designs/ticked/remove", "id", input.id()).body())
                .contains("It is still used by " + twice.fullName() + ".");
        String other = ListedFormula.of(input.source(), twice).id();
        assertThat(engineer.post("/designs/ticked/remove", "id", input.id(), "id", other)
                        .body())
                .doesNotContain("still used by " + twice.fullName());
        engineer.post("/designs/ticked/remove", "id", other, "sure", "true");
        assertThat(designs.find(other)).isEmpty();
        assertThat(designs.find(input.id())).isPresent();
    }

    /** More text than a form may hold by default: what a configuration of a plant is. */
    @Test
    void aConfigurationOfManyTagsIsImported() throws Exception {
        List<TagInfo> tags = new ArrayList<>();
        for (int i = 0; i < 15_000; i++) {
            tags.add(new TagInfo(
                    "target " + i, "Targets of hall " + i % 9, "Target " + i, DataKind.NUMBER, "t/h", "", true));
        }
        SourceDefinition many = new SourceDefinition(
                "50ff0001", "Many targets", "", KeptKind.ID, Map.of(), Duration.ofSeconds(1), tags);
        String file = ConfigurationFile.write(List.of(many), id -> Filed.NOWHERE);
        assertThat(file.length()).isGreaterThan(3_000_000);
        new Visitor(SITE).signIn("engineer", "engineer-demo").post("/release/import", "text", file);
        assertThat(definitions
                        .find(SourceDefinition.class, "50ff0001")
                        .orElseThrow()
                        .tags())
                .hasSize(15_000);
    }

    /** What an installation of ten thousand recorders exports goes in again as a file; what is more is told so, and not that a role lacks. */
    @Test
    void aFileIsTakenThatIsLargerThanAFormAndWhatIsTooLargeIsToldSo() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String spaces = " ".repeat(34 << 20);
        HttpResponse<String> form = engineer.post("/release/import", "text", spaces);
        assertThat(form.statusCode()).isEqualTo(413);
        assertThat(form.body()).contains("Too large").doesNotContain("role");
        SourceDefinition one = new SourceDefinition(
                "50ff0002", "A wide file", "", KeptKind.ID, Map.of(), Duration.ofSeconds(1), List.of());
        engineer.send("/release/import", "file", ConfigurationFile.write(List.of(one), id -> Filed.NOWHERE) + spaces);
        assertThat(definitions.find(SourceDefinition.class, "50ff0002")).isPresent();
    }

    /** Read before anybody is asked who they are, it would take the memory that recording needs. */
    @Test
    void aLargeFormOfSomebodyWhoIsNotSignedInIsNotRead() throws Exception {
        String large = "x".repeat(3_000_000);
        for (String path : List.of("/sign-in", "/release/import", "/api/v1/tags")) {
            assertThat(new Visitor(SITE).post(path, "username", large).statusCode())
                    .isEqualTo(413);
        }
        assertThat(new Visitor(SITE)
                        .postBare("/sign-in", "username", "x".repeat(10_000))
                        .statusCode())
                .as("what is no larger than a form is answered as ever")
                .isNotEqualTo(413);
    }

    @Test
    void escapeLeavesTheRecordersPage() {
        actor.go("/records/" + SITE.recorder("Dryer log"));
        actor.see("#design");
        new Actions(actor.browser).sendKeys(Keys.ESCAPE).perform();
        actor.see("main h1", "Recorders");
    }
}
