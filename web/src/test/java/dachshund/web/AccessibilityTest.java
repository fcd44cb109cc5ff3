package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.deque.html.axecore.results.Results;
import com.deque.html.axecore.selenium.AxeBuilder;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** axe-core finds nothing serious on any main view, nothing scrolls sideways at 1280, and the browser has no complaint. */
class AccessibilityTest {

    private static Actor actor;

    @BeforeAll
    static void signIn() {
        actor = new Actor(Site.demo()).signIn("admin", "admin-demo");
    }

    @AfterAll
    static void leave() {
        actor.close();
    }

    private static void check() {
        AxeBuilder axe = new AxeBuilder();
        axe.setOptions("{\"resultTypes\": [\"violations\"]}");
        Results results = axe.analyze(actor.browser);
        assertThat(results.getViolations().stream()
                        .filter(rule -> rule.getImpact().matches("serious|critical"))
                        .map(rule ->
                                rule.getId() + ": " + rule.getNodes().get(0).getHtml())
                        .toList())
                .isEmpty();
        assertThat(
                        (Boolean)
                                actor.browser.executeScript(
                                        "return document.documentElement.scrollWidth <= window.innerWidth"
                                                + " && document.querySelector('main').scrollWidth <= document.querySelector('main').clientWidth"))
                .as("nothing scrolls sideways")
                .isTrue();
        assertThat(actor.complaints()).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({
        "/plant,tr[data-key] .quality",
        "/plant/sources/new,.kinds",
        "/plant/sources/new?kind=opcua,#f-address",
        "/plant/sources/new?kind=modbus,#f-host",
        "/plant/sources/new?kind=mqtt,#f-topics",
        "/plant/equipment,table.list",
        "/plant/equipment/alike,form.panel",
        "/plant/certificates,.facts",
        "/plant/tokens,#f-name",
        "/plant/formulas/new,#f-formula",
        "/records,#lines",
        "/records/destinations,table.list",
        "/records/destinations/new,#f-host",
        "/records/destinations/new?kind=folder,#f-folder",
        "/plant/shifts,.week",
        "/release/import,#import-text",
        "/release,.past",
        "/review,table.list",
        "/deliver,table.list",
        "/watch,.strips",
        "/watch/held,#held-list",
        "/watch/aside,.title-line",
        "/people,table.list",
        "/password,#present"
    })
    void views(String path, String sign) {
        actor.go(path);
        actor.see(sign);
        check();
    }

    @Test
    void theRecorderPageWithItsColumnEditorOpen() {
        actor.go("/records/" + Site.demo().recorder("Dryer log"));
        actor.see("#last tr.landed");
        actor.click("#columns th:nth-child(5) button");
        actor.see("#f-name");
        check();
    }

    @Test
    void theSourcePageAndTheMinutesOfARecorder() {
        for (String source : List.of("Pellet works", "Energy meters", "Silos", "Formulas", "Targets")) {
            actor.go("/plant/sources/" + Site.demo().source(source));
            actor.see("#source-state", "Connected");
            check();
        }
        actor.go("/plant/sources/" + Site.demo().source("Energy meters") + "/tags");
        actor.see("table.described");
        check();
        actor.go("/plant/sources/" + Site.demo().source("Energy meters") + "/tags/edit?address=t1");
        actor.see("#f-register");
        check();
        actor.go("/plant?q=PL1%20output");
        actor.click("tr[data-key] a");
        actor.see("#tag-plot canvas");
        check();
        actor.go("/watch");
        actor.click(".strips [data-open]");
        actor.see("main", "Minutes");
        check();
    }

    @Test
    void keysLeadAround() {
        actor.go("/plant");
        actor.see("tr[data-key]");
        org.openqa.selenium.WebElement page = actor.browser.findElement(org.openqa.selenium.By.tagName("body"));
        page.sendKeys("j");
        actor.see("tr.at");
        page.sendKeys("2");
        actor.see("#lines");
        actor.browser.switchTo().activeElement().sendKeys("?");
        actor.see("#keys[open]");
    }
}
