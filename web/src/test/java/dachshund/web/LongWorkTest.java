package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.filing.Filed;
import dachshund.office.release.ConfigurationFile;
import dachshund.office.work.Work;
import dachshund.office.work.Works;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.openqa.selenium.By;

/** What takes long: its page says how far it is, is left and found again, and ends where that is safe. */
class LongWorkTest {

    private static Site site;
    private static Actor actor;

    @BeforeAll
    static void start() {
        site = Site.demo();
        site.bean(Works.class).newest().forEach(Work::look);
        actor = new Actor(site).signIn("engineer", "engineer-demo");
        actor.see("main");
    }

    @AfterAll
    static void stop() {
        actor.close();
    }

    private static Work begun(String by, Works.Body body) {
        return site.bean(Works.class).begin("Something of " + by, by, "/designs", Duration.ZERO, body);
    }

    @Test
    void itIsLeftFoundAgainAndGoesOnToWhatCameOfIt() {
        CountDownLatch goOn = new CountDownLatch(1);
        Work work = begun("engineer", progress -> {
            progress.step("Counting silos", 40, false);
            progress.done(10);
            goOn.await();
            return new Work.Outcome("Forty silos are counted.", true, "/designs");
        });
        actor.go("/work/" + work.id());
        actor.see("#work", "Counting silos: 10 of 40");
        actor.see("#work", "cannot be ended");
        actor.go("/plant");
        actor.see("#under-way", "Long work (1)");
        actor.click("#under-way");
        actor.see("#works", "Something of engineer");
        actor.click("#works a");
        actor.see("#work", "10 of 40");
        goOn.countDown();
        actor.see("#notice", "Forty silos are counted.");
        soon(() -> actor.browser.getCurrentUrl().endsWith("/designs"));
        assertThat(actor.texts("#under-way")).isEmpty();
        actor.go("/work/" + work.id());
        actor.see("#work", "Forty silos are counted.");
    }

    /** Work that is over before its page is there: who waits for it goes on all the same, and the bar counts it no more. */
    @Test
    void whatIsOverBeforeItsPageIsThereGoesOnAllTheSame() {
        Work work = begun("engineer", progress -> new Work.Outcome("One silo is counted.", true, "/designs"));
        soon(() -> work.state().over());
        actor.go("/work/" + work.id());
        actor.see("#notice", "One silo is counted.");
        assertThat(actor.browser.getCurrentUrl()).endsWith("/designs");
        Work broken = begun("engineer", progress -> {
            throw new IllegalArgumentException("The silo has no bottom.");
        });
        soon(() -> broken.state().over());
        actor.go("/work/" + broken.id());
        actor.see("#work", "The silo has no bottom.");
        assertThat(actor.texts("#under-way"))
                .as("work that nobody has seen the end of")
                .isEmpty();
    }

    @Test
    void itIsEndedByWhoBeganItAndWhoMayNotIsTold() throws Exception {
        CountDownLatch goOn = new CountDownLatch(1);
        Work own = begun("engineer", progress -> {
            progress.step("Looking at silos", 0, true);
            while (!goOn.await(20, TimeUnit.MILLISECONDS)) {
                progress.done(1);
            }
            return new Work.Outcome("Not ended.", true, "/designs");
        });
        actor.go("/work/" + own.id());
        actor.see("#work", "Looking at silos");
        actor.click("#end-work");
        actor.see("#work", "Ended by a person");
        actor.see("#work", "Nothing of it was done");
        goOn.countDown();

        Work broken = begun("engineer", progress -> {
            throw new IllegalArgumentException("The silo has no bottom.");
        });
        actor.go("/work/" + broken.id());
        actor.see("#work", "The silo has no bottom.");
        Visitor viewer = new Visitor(site).signIn("viewer", "viewer-demo");
        assertThat(viewer.post("/work/" + own.id() + "/end").statusCode()).isEqualTo(403);
        assertThat(new Visitor(site)
                        .signIn("engineer", "engineer-demo")
                        .get("/work/ffffffff")
                        .statusCode())
                .isEqualTo(404);
    }

    /** A thousand recorders are more than a page waits for; they are drafts afterwards, and gone when discarded. */
    @Test
    void anImportOfThousandsIsWatchedToItsEndAndReviewedByPages(@TempDir Path folder) throws Exception {
        RecorderDefinition one = site.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Dryer log"))
                .findFirst()
                .orElseThrow();
        List<Definition> many = new ArrayList<>();
        for (int i = 0; i < 1_000; i++) {
            one.kind()
                    .duplicating(one, String.format("77%06x", i), "Imported " + i)
                    .ifPresent(many::add);
        }
        Path file = Files.writeString(folder.resolve("many.json"), ConfigurationFile.write(many, id -> Filed.NOWHERE));
        Definitions definitions = site.bean(Definitions.class);
        int before = definitions.drafts().size();
        actor.go("/release/import");
        actor.browser.findElement(By.id("import-file")).sendKeys(file.toString());
        actor.click("form .btn-primary");
        actor.see("#notice", "1000 things differ and are drafted now.");
        assertThat(definitions.drafts()).hasSize(before + 1_000);
        assertThat(site.bean(Works.class).newest().get(0))
                .matches(work -> work.title().equals("Import of a configuration")
                        && work.state() == Work.State.DONE
                        && work.looked());

        actor.see(".others", "page 1 of");
        assertThat(actor.texts("article")).hasSize(200);
        assertThat(actor.see("#release").getText()).isEqualTo("Release " + (before + 1_000) + " changes");
        actor.click("#others");
        actor.see("#release", "Release 200 changes");
        actor.click("#discard");
        actor.browser.switchTo().alert().accept();
        actor.see("#notice", "200 drafts are discarded.");
        assertThat(definitions.drafts()).hasSize(before + 800);
        site.bean(Drafts.class).discardAll(many.stream().map(Definition::id).collect(Collectors.toSet()), "engineer");
    }
}
