package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.net.http.HttpResponse;
import org.junit.jupiter.api.Test;
import org.springframework.jdbc.core.simple.JdbcClient;

/** Roles, CSRF, headers and passwords, held at the server whatever a page shows. */
class SecurityTest {

    private static final Site SITE = Site.demo();

    private static String recorder() {
        return SITE.bean(Definitions.class).all(RecorderDefinition.class).get(0).id();
    }

    private static Visitor as(String name) throws Exception {
        return new Visitor(SITE).signIn(name, name + "-demo");
    }

    @Test
    void nobodySeesAnythingWithoutSigningIn() throws Exception {
        for (String path :
                new String[] {"/plant", "/plant/values", "/records", "/watch", "/pulse", "/release", "/people"}) {
            HttpResponse<String> answer = new Visitor(SITE).get(path);
            assertThat(answer.statusCode()).as(path).isEqualTo(302);
            assertThat(answer.headers().firstValue("Location")).get().asString().startsWith("/sign-in");
        }
        assertThat(new Visitor(SITE).signIn("engineer", "wrong").get("/plant").statusCode())
                .isEqualTo(302);
    }

    @Test
    void viewersLookEngineersDesignAdministratorsManagePeople() throws Exception {
        String id = recorder();
        Visitor viewer = as("viewer");
        assertThat(viewer.get("/records/" + id).statusCode()).isEqualTo(200);
        for (String path : new String[] {
            "/records/" + id + "/name",
            "/records/" + id + "/stop",
            "/records",
            "/release",
            "/plant/sources",
            "/records/destinations",
            "/plant/record",
            "/records/" + id + "/wheres/0/try",
            "/records/" + id + "/whens",
            "/records/" + id + "/shape",
            "/records/" + id + "/line-up",
            "/release/1/roll-back",
            "/release/import",
            "/plant/shifts"
        }) {
            assertThat(viewer.post(path, "name", "x", "seen", "0", "fingerprint", "")
                            .statusCode())
                    .as(path)
                    .isEqualTo(403);
        }
        assertThat(viewer.get("/people").statusCode()).isEqualTo(403);
        assertThat(as("engineer").get("/people").statusCode()).isEqualTo(403);
        assertThat(as("engineer")
                        .post("/people", "name", "mallory", "role", "ADMINISTRATOR")
                        .statusCode())
                .isEqualTo(403);
        assertThat(as("admin").get("/people").statusCode()).isEqualTo(200);
        assertThat(as("admin").get("/records/" + id).body()).contains("Try one row");
        assertThat(viewer.get("/records/" + id).body()).doesNotContain("Try one row");
    }

    @Test
    void aChangeWithoutATokenIsRefused() throws Exception {
        Visitor engineer = as("engineer");
        engineer.get("/records");
        assertThat(engineer.postBare("/records/" + recorder() + "/stop").statusCode())
                .isEqualTo(403);
    }

    @Test
    void pagesAllowNoInlineScriptAndNoFrame() throws Exception {
        HttpResponse<String> page = as("viewer").get("/plant");
        String policy = page.headers().firstValue("Content-Security-Policy").orElseThrow();
        assertThat(policy)
                .contains("default-src 'none'", "script-src 'self'", "frame-ancestors 'none'")
                .doesNotContain("unsafe");
        assertThat(page.body())
                .doesNotContain("<script>")
                .doesNotContain(" style=")
                .doesNotContain(" onclick=");
        assertThat(page.headers().firstValue("X-Content-Type-Options")).contains("nosniff");
    }

    @Test
    void passwordsAreHashedAndAfterFiveWrongOnesANameIsClosed() throws Exception {
        JdbcClient jdbc = SITE.bean(JdbcClient.class);
        assertThat(jdbc.sql("SELECT password_hash FROM person WHERE name = 'viewer'")
                        .query(String.class)
                        .single())
                .startsWith("$2")
                .doesNotContain("viewer-demo");
        for (int i = 0; i < 5; i++) {
            assertThat(new Visitor(SITE)
                            .post("/sign-in", "username", "nobody", "password", "x")
                            .headers()
                            .firstValue("Location"))
                    .get()
                    .asString()
                    .contains("?wrong");
        }
        assertThat(new Visitor(SITE)
                        .post("/sign-in", "username", "nobody", "password", "x")
                        .headers()
                        .firstValue("Location"))
                .get()
                .asString()
                .contains("?closed");
    }

    @Test
    void twoWhoEditTheSameThingAreToldAndNothingIsOverwritten() throws Exception {
        Definitions definitions = SITE.bean(Definitions.class);
        Drafts drafts = SITE.bean(Drafts.class);
        String id = recorder();
        int seen = drafts.revision(id);
        assertThat(as("engineer")
                        .post(
                                "/records/" + id + "/whens/0",
                                "kind",
                                "EVERY",
                                "period",
                                "7 s",
                                "seen",
                                Integer.toString(seen))
                        .statusCode())
                .isEqualTo(200);
        HttpResponse<String> second = as("admin")
                .post("/records/" + id + "/whens/0", "kind", "EVERY", "period", "9 s", "seen", Integer.toString(seen));
        assertThat(second.statusCode()).isEqualTo(409);
        assertThat(second.body()).contains("engineer changed this after you opened it");
        assertThat(definitions
                        .find(RecorderDefinition.class, id)
                        .orElseThrow()
                        .whens()
                        .get(0)
                        .sentence())
                .isEqualTo("every 7 s");
        drafts.discard(id, "test");
    }

    @Test
    void strangeAddressesGetASentenceNotAStackTrace() throws Exception {
        Visitor engineer = as("engineer");
        assertThat(engineer.get("/records/ffffffff").statusCode()).isEqualTo(404);
        assertThat(engineer.get("/nowhere").statusCode()).isEqualTo(404);
        assertThat(engineer.get("/records/" + recorder() + "/columns/99").statusCode())
                .isEqualTo(400);
        assertThat(engineer.get("/records/" + recorder() + "/columns/x").body()).doesNotContain("Exception");
        assertThat(engineer.get("/plant?page=x").body()).doesNotContain("Exception");
    }
}
