package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.web.definition.Definitions;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;

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

    @Test
    void inFifteenTabsEveryPageLoadsAndEveryEditIsHeard() {
        for (int tab = 1; tab <= TABS; tab++) {
            int n = tab;
            actor.newTab();
            actor.go("/records");
            actor.click(".title-line button.btn-primary");
            actor.see("#design");
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
        actor.newTab();
        actor.go("/records");
        actor.click(".title-line button.btn-primary");
        actor.see("#design");
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

    /** What is changed before a page's scripts are there is heard when they are. */
    @Test
    void anEditInTheFirstMomentOfAPageIsHeard() {
        actor.newTab();
        actor.go("/records");
        actor.click(".title-line button.btn-primary");
        actor.see("#design");
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
