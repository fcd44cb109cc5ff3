package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.SourceDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import jakarta.mail.MessagingException;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.openqa.selenium.JavascriptExecutor;

/** What each role meets in a browser, who is thrown out, where nobody may go, and who is told. */
class PeopleWalkTest {

    private static final Site SITE = Site.demo();
    private static Actor actor;
    private static Visitor admin;

    @BeforeAll
    static void open() throws Exception {
        actor = new Actor(SITE);
        admin = new Visitor(SITE).signIn("admin", "admin-demo");
    }

    @AfterAll
    static void leave() {
        actor.close();
    }

    private static void soon(int seconds, BooleanSupplier so) throws InterruptedException {
        for (int i = 0; i < seconds * 4 && !so.getAsBoolean(); i++) {
            Thread.sleep(250);
        }
        assertThat(so.getAsBoolean()).isTrue();
    }

    private static boolean offered(String css) {
        return !actor.browser.findElements(By.cssSelector(css)).isEmpty();
    }

    private void outAndInAs(String name) {
        actor.browser.manage().deleteAllCookies();
        actor.signIn(name, name + "-demo");
    }

    @Test
    void aViewerLooksAndIsToldWhatTheRoleLacks() {
        outAndInAs("viewer");
        actor.go("/records");
        actor.see("main", "Dryer");
        assertThat(offered("a[href='/people']")).isFalse();
        actor.go("/people/audit");
        actor.see("main", "Your role does not include this");
        actor.go("/plant/certificates");
        actor.see("main");
        assertThat(offered("form[action='/plant/certificates/trust'] button")).isFalse();
    }

    @Test
    void anOperatorIsInvitedChoosesAPasswordAndTypesIntoKeptTagsOnly() throws Exception {
        outAndInAs("admin");
        actor.go("/people");
        actor.fill("#name", "walker");
        actor.choose("#role", "OPERATOR");
        actor.click("form.inline button.btn-primary");
        String address = actor.see("#invitation").getDomProperty("value");
        assertThat(address).startsWith(SITE.address("/invitation?token="));
        actor.browser.manage().deleteAllCookies();
        actor.browser.get(address);
        actor.see("main", "Choose your password, walker.");
        actor.fill("#next", "a walker's password");
        actor.fill("#again", "a walker's password");
        actor.click("form button");
        actor.see("main", "Your password is set.");
        actor.fill("#username", "walker");
        actor.fill("#password", "a walker's password");
        actor.click("form button");
        actor.see("details.person summary", "walker"); // or the answer to the sign-in overtakes what is opened next
        String kept = SITE.source("Targets");
        actor.go("/plant?source=" + kept);
        actor.click("tr[data-key] a");
        actor.fill("#f-value", "1");
        actor.click("#write-form button");
        actor.see("#write-result");
        String works = SITE.source("Pellet works");
        actor.go("/plant?source=" + works);
        actor.click("tr[data-key] a");
        actor.see("#value");
        assertThat(offered("#write-form"))
                .as("writing to the plant is not the operator's")
                .isFalse();
        admin.post("/people/walker/remove");
        // Something of the open page may ask first, and shows nobody why it is refused.
        ((JavascriptExecutor) actor.browser)
                .executeAsyncScript(
                        "const done = arguments[arguments.length - 1]; fetch('/plant/keys').then(() => done(), () => done())");
        actor.go("/plant");
        actor.see("main", "An administrator removed you.");
    }

    @Test
    void anEngineerReleasesAndManagesNobody() {
        outAndInAs("engineer");
        actor.go("/release");
        actor.see("main");
        assertThat(offered("a[href='/people']")).isFalse();
        actor.go("/people/notices");
        actor.see("main", "Your role does not include this");
    }

    @Test
    void whoseSessionIsEndedIsToldAndGoesOnWhereTheyWere() throws Exception {
        outAndInAs("viewer");
        actor.go("/watch");
        String ends = admin.get("/people").body();
        java.util.regex.Matcher keys = java.util.regex.Pattern.compile(
                        "(?s)<td>viewer</td>.{0,600}?/people/sessions/([0-9a-f]+)/end")
                .matcher(ends);
        while (keys.find()) {
            admin.post("/people/sessions/" + keys.group(1) + "/end");
        }
        actor.go("/watch/held");
        actor.see("main", "An administrator ended your session.");
        actor.fill("#username", "viewer");
        actor.fill("#password", "viewer-demo");
        actor.click("form button");
        actor.see("main h1", "Held");
        assertThat(actor.browser.getCurrentUrl()).isEqualTo(SITE.address("/watch/held"));
    }

    @Test
    void anAddressThatIsNotAllowedIsRefusedWithItsSentence() throws Exception {
        outAndInAs("admin");
        actor.go("/people/addresses");
        actor.fill("#list", "127.0.0.1 1");
        actor.click("main form button.btn-primary");
        actor.see("#cuts-off", "This list cuts off:");
        assertThat(new Visitor(SITE)
                        .signIn("admin", "admin-demo")
                        .get("/people/addresses")
                        .body())
                .as("not saved yet")
                .doesNotContain("127.0.0.1");
        actor.click("button[name=anyway]");
        actor.see("main", "to these places only");
        try {
            outAndInAs("engineer");
            actor.go("/records/destinations/new?kind=postgresql");
            actor.fill("#f-host", "10.255.255.1");
            actor.fill("#f-database", "elsewhere");
            actor.fill("#f-user", "somebody");
            actor.click("button[name=test]");
            actor.see("main", "it is not among the addresses that an administrator allows");
            assertThat(SITE.audit())
                    .anyMatch(
                            entry -> entry.startsWith("engineer: failed to reach: ") && entry.contains("10.255.255.1"));
        } finally {
            admin.post("/people/addresses", "list", "");
        }
    }

    @Test
    void aNoticeArrivesOnceAndATestStandsInTheList() throws Exception {
        outAndInAs("admin");
        actor.go("/people/notices");
        actor.click("#rules form button");
        actor.see("main", "A test is on its way to shift@quillmoor.example");
        soon(20, () -> subjects().stream().anyMatch(each -> each.contains("this is a test")));
        Releases releases = SITE.bean(Releases.class);
        Drafts drafts = SITE.bean(Drafts.class);
        String id = Definitions.newId();
        drafts.edit(
                new SourceDefinition(
                        id,
                        "Far meter",
                        "",
                        "modbus",
                        Map.of("host", "127.0.0.1", "port", "9"),
                        Duration.ofSeconds(1),
                        List.of(),
                        false),
                0,
                "test");
        releases.releaseAll(releases.fingerprint(), "test");
        try {
            soon(60, () -> farMeter() > 0);
            actor.go("/people/notices");
            actor.see("main", "Far meter");
            actor.see("#sent", "sent");
            actor.go("/people/notices/mailbox");
            actor.see("main", "Far meter");
            Thread.sleep(11_000);
            assertThat(farMeter())
                    .as("told once, though looked at every five seconds")
                    .isEqualTo(1);
        } finally {
            drafts.remove(id, "test");
            releases.releaseAll(releases.fingerprint(), "test");
        }
    }

    private static long farMeter() {
        return subjects().stream().filter(each -> each.contains("Far meter")).count();
    }

    private static List<String> subjects() {
        return SITE.mail.arrived().stream()
                .map(mail -> {
                    try {
                        return mail.getSubject() + " " + mail.getContent();
                    } catch (MessagingException | java.io.IOException odd) {
                        throw new IllegalStateException(odd);
                    }
                })
                .toList();
    }
}
