package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.engine.Engine;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Triggers that wait for a transaction that nobody released any more stand on Watch until somebody discards them. */
class WaitingTriggersTest {

    private static final Site SITE = Site.demo();

    @AfterEach
    void clear() {
        SITE.bean(Engine.class).local().keptTriggers().discard("dddd0009");
    }

    @Test
    void whatWaitsForNoneIsSeenAndDiscardedByWhoMay() throws Exception {
        SITE.bean(Engine.class).local().keptTriggers().keep("dddd0009", Map.of("one", "{}", "two", "{}"));
        Visitor viewer = new Visitor(SITE).signIn("viewer", "viewer-demo");
        assertThat(viewer.get("/watch").body())
                .contains("2 triggers wait on disk, and it is not released any more.")
                .doesNotContain("/watch/waiting/dddd0009/discard");
        assertThat(viewer.post("/watch/waiting/dddd0009/discard").statusCode()).isEqualTo(403);
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/watch");
            actor.see(".waiting", "A transaction that is gone");
            actor.click(".waiting button");
            actor.browser.switchTo().alert().accept();
            actor.see("#notice", "Discarded.");
            assertThat(actor.texts(".waiting")).isEmpty();
            assertThat(actor.complaints()).isEmpty();
        }
        assertThat(SITE.bean(Engine.class).local().keptTriggers().waiting()).doesNotContainKey("dddd0009");
        assertThat(SITE.audit())
                .anyMatch(line -> line.contains("discarded triggers: 2 of A transaction that is gone (dddd0009)"));
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(engineer.post("/watch/waiting/dddd0009/discard").body()).contains("Nothing waits there any more.");
    }
}
