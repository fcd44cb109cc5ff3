package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.deque.html.axecore.selenium.AxeBuilder;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** axe-core finds nothing serious on any main view, nothing scrolls sideways at 1280, and the browser has no complaint. */
class AccessibilityTest {

    private static final Site SITE = Site.demo();
    private static Actor actor;

    /** The browser gets axe once and runs it on every page: half a megabyte is not sent again with each question. */
    @BeforeAll
    static void signIn() throws IOException {
        actor = new Actor(SITE);
        try (InputStream axe = AxeBuilder.class.getResourceAsStream("/axe.min.js")) {
            actor.browser.executeCdpCommand(
                    "Page.addScriptToEvaluateOnNewDocument",
                    Map.of("source", new String(axe.readAllBytes(), StandardCharsets.UTF_8)));
        }
        actor.signIn("admin", "admin-demo");
    }

    @AfterAll
    static void leave() {
        actor.close();
    }

    private static void check() {
        assertThat((List<?>) actor.browser.executeAsyncScript("const done = arguments[0];"
                        + "axe.run(document, {resultTypes: ['violations']}).then("
                        + "found => done(found.violations.filter(each => /serious|critical/.test(each.impact)).map(each => each.id + ': ' + each.nodes[0].html)),"
                        + "broke => done(['axe broke: ' + broke]))"))
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
        actor.go("/records/" + SITE.recorder("Dryer log"));
        actor.see("#last tr.landed");
        actor.click("#columns th:nth-child(5) button");
        actor.see("#f-name");
        check();
    }

    @Test
    void theSourcePageAndTheMinutesOfARecorder() {
        for (String source : List.of("Pellet works", "Energy meters", "Silos", "Formulas", "Targets")) {
            actor.go("/plant/sources/" + SITE.source(source));
            actor.see("#source-state", "Connected");
            check();
        }
        actor.go("/plant/sources/" + SITE.source("Energy meters") + "/tags");
        actor.see("table.described");
        check();
        actor.go("/plant/sources/" + SITE.source("Energy meters") + "/tags/edit?address=t1");
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
