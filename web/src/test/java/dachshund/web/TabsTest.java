package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.office.definition.Definitions;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.openqa.selenium.By;
import org.openqa.selenium.WebElement;

/** People work with a dozen tabs: every page loads, every edit is heard, and the pulse goes on in all of them. */
class TabsTest {

    private static final int TABS = 15;
    private static final List<String> MAIN_PAGES =
            List.of("/plant", "/records", "/review", "/deliver", "/watch", "/release");

    private static Site site;
    private static Actor actor;

    @BeforeAll
    static void start() {
        site = Site.demo();
        actor = new Actor(site).signIn("engineer", "engineer-demo");
        actor.see("main");
    }

    /** Tabs that nobody needs any more go on drawing what is live. */
    @AfterEach
    void oneTabIsEnough() {
        List<String> windows = List.copyOf(actor.browser.getWindowHandles());
        windows.subList(1, windows.size())
                .forEach(window -> actor.browser.switchTo().window(window).close());
        actor.browser.switchTo().window(windows.get(0));
        actor.front();
    }

    @AfterAll
    static void stop() throws Exception {
        actor.close();
        new Visitor(site).signIn("engineer", "engineer-demo").post("/release/discard");
    }

    private static List<String> drafted() {
        return site.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .map(Definition::name)
                .toList();
    }

    private static void newRecorder() {
        actor.newTab();
        actor.go("/records");
        actor.click(".title-line button.btn-primary");
        actor.see("#design");
    }

    @Test
    void inFifteenTabsEveryPageLoadsAndEveryEditIsHeard() {
        for (int tab = 1; tab <= TABS; tab++) {
            int n = tab;
            newRecorder();
            actor.edit(() -> actor.fillAndLeave("#recorder-name", "Tab " + n));
        }
        for (String page : MAIN_PAGES) {
            actor.newTab();
            actor.go(page);
            actor.see("main h1");
        }
        assertThat(drafted())
                .containsAll(
                        IntStream.rangeClosed(1, TABS).mapToObj(n -> "Tab " + n).toList());
        // Each of them again, with all the others open.
        List<String> windows = List.copyOf(actor.browser.getWindowHandles());
        for (String window : windows) {
            actor.browser.switchTo().window(window);
            actor.front();
            if (actor.browser.findElements(By.id("recorder-name")).isEmpty()) {
                continue;
            }
            String before = actor.see("#recorder-name").getDomProperty("value");
            actor.edit(() -> actor.fillAndLeave("#recorder-name", before + " again"));
        }
        assertThat(drafted())
                .containsAll(IntStream.rangeClosed(1, TABS)
                        .mapToObj(n -> "Tab " + n + " again")
                        .toList());
        String first = actor.texts("#pulse .clock").get(0);
        soon(() -> !actor.texts("#pulse .clock").get(0).equals(first));
    }

    @Test
    void anEditFromAnotherWindowIsNotOverwrittenUnseen() {
        newRecorder();
        actor.edit(() -> actor.fillAndLeave("#recorder-name", "Two windows"));
        String address = actor.browser.getCurrentUrl();
        String first = actor.browser.getWindowHandle();
        actor.newTab();
        actor.browser.get(address);
        actor.see("#design");
        actor.edit(() -> actor.fillAndLeave("#recorder-name", "Two windows, the second"));
        actor.browser.switchTo().window(first);
        actor.front();
        actor.fillAndLeave("#recorder-name", "Two windows, the first");
        actor.see("body", "another window");
        assertThat(drafted()).contains("Two windows, the second").doesNotContain("Two windows, the first");
    }

    /** Of two edits of one moment one is slow, whichever: both are saved, and the page shows both. */
    @ParameterizedTest
    @ValueSource(ints = {1, 2})
    void twoEditsOfOneMomentAreBothSavedAndShown(int slow) {
        newRecorder();
        actor.browser.executeScript(
                """
                const send = XMLHttpRequest.prototype.send, slow = arguments[0];
                let edits = 0;
                XMLHttpRequest.prototype.send = function (body) {
                  if (!body || ++edits !== slow) send.call(this, body);
                  else setTimeout(() => { send.call(this, body); this.addEventListener("loadend", () => { window.slowCame = true; }); }, 2000);
                };
                for (const [id, text] of [["recorder-name", "Both edits " + slow], ["period", "7 s"]]) {
                  const field = document.getElementById(id);
                  field.value = text;
                  field.dispatchEvent(new Event("change", { bubbles: true }));
                }""",
                slow);
        soon(() -> Boolean.TRUE.equals(actor.browser.executeScript("return window.slowCame === true")));
        soon(() -> actor.see("#period").getDomProperty("value").equals("7 s")
                && actor.see("#recorder-name").getDomProperty("value").equals("Both edits " + slow));
        assertThat(drafted()).contains("Both edits " + slow);
    }

    /** Both edits name a column by the place that the page showed; after the first one the second place is another column's. */
    @Test
    void anEditNamesNoOtherColumnWhereTheOneBeforeRearrangedThem() {
        newRecorder();
        List<String> columns = actor.texts("#columns th");
        actor.browser.executeScript(
                """
                for (let edit = 0; edit < 2; edit++)
                  htmx.ajax("post", location.pathname + "/columns/0/remove",
                    { target: "#design", swap: "outerHTML", values: { seen: document.querySelector("[name=seen]").value } });""");
        actor.see("body", "Your edit before this one");
        actor.browser.navigate().refresh();
        assertThat(actor.texts("#columns th")).isEqualTo(columns.subList(1, columns.size()));
    }

    /** The answer to the name comes while the period is being typed: what is typed stays, and the answer is drawn with the next one. */
    @Test
    void anAnswerThatComesWhileSomebodyTypesTakesNothingAway() {
        newRecorder();
        actor.browser.executeScript(
                """
                const send = XMLHttpRequest.prototype.send;
                XMLHttpRequest.prototype.send = function (body) {
                  if (!body) send.call(this, body);
                  else setTimeout(() => { send.call(this, body); this.addEventListener("loadend", () => { window.slowCame = true; }); }, 1000);
                };""");
        actor.fillAndLeave("#recorder-name", "Typed beside");
        WebElement period = actor.see("#period");
        actor.browser.executeScript("arguments[0].focus(); arguments[0].select()", period);
        period.sendKeys("1");
        soon(() -> Boolean.TRUE.equals(actor.browser.executeScript("return window.slowCame === true")));
        period.sendKeys("3 s");
        assertThat(period.getDomProperty("value")).isEqualTo("13 s");
        actor.edit(() -> actor.browser.executeScript("document.getElementById('period').blur()"));
        assertThat(actor.see("#period").getDomProperty("value")).isEqualTo("13 s");
        assertThat(actor.see("#recorder-name").getDomProperty("value")).isEqualTo("Typed beside");
    }

    /** What is changed before a page's scripts are there is heard when they are. */
    @Test
    void anEditInTheFirstMomentOfAPageIsHeard() {
        newRecorder();
        String address = actor.browser.getCurrentUrl();
        // The page is read, its scripts are not run yet: the moment in which a quick hand changes something.
        actor.browser.executeCdpCommand(
                "Page.addScriptToEvaluateOnNewDocument",
                Map.of(
                        "source",
                        "document.addEventListener('readystatechange', () => {"
                                + "const field = document.getElementById('recorder-name');"
                                + "if (document.readyState !== 'interactive' || !field || window.htmx) return;"
                                + "field.value = 'Quick hand';"
                                + "field.dispatchEvent(new Event('change', { bubbles: true })); });"));
        actor.browser.get(address);
        soon(() -> drafted().contains("Quick hand"));
    }
}
