package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.ledger.Run;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.springframework.jdbc.core.simple.JdbcClient;

/** The API as a program meets it, with tokens made on the page. */
class ApiTest {

    private static final Site SITE = Site.demo();
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final HttpClient HTTP = HttpClient.newHttpClient();

    private static Actor actor;
    private static String reader;
    private static String writer;

    @BeforeAll
    static void makeTokens() {
        actor = new Actor(SITE).signIn("admin", "admin-demo");
        reader = token("Dashboard", List.of("read"));
        writer = token("Order system", List.of("read", "write-kept", "write-plant"));
    }

    @AfterAll
    static void leave() {
        actor.close();
    }

    private static String token(String name, List<String> scopes) {
        actor.go("/plant/tokens");
        actor.fill("#f-name", name);
        actor.browser.findElements(By.name("scope")).stream()
                .filter(box -> box.isSelected() != scopes.contains(box.getDomProperty("value")))
                .forEach(box -> box.click());
        actor.click("form .btn-primary");
        return actor.see("#clear-token").getText();
    }

    private static HttpResponse<String> send(String token, String method, String path, String body) throws Exception {
        HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(SITE.address("/api/v1" + path)))
                .method(
                        method,
                        body.isEmpty()
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofString(body))
                .header("Content-Type", "application/json");
        if (!token.isEmpty()) {
            request.header("Authorization", "Bearer " + token);
        }
        return HTTP.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    /** The same request is done once; what nobody has given, and who may not, is said. */
    @Test
    void aTransactionIsDoneByACall() throws Exception {
        String production = SITE.bean(Definitions.class).all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals("Production"))
                .findFirst()
                .orElseThrow()
                .id();
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE TABLE called (lot VARCHAR(20), kilos DECIMAL(8,1))");
        }
        SITE.bean(Drafts.class)
                .edit(
                        TransactionDefinition.begun("ca11ed01", "Booked by a call", production)
                                .withGathers(List.of(Gathered.given("lot"), Gathered.given("kilos")))
                                .withSteps(List.of(new Step.Put(
                                        "book",
                                        "",
                                        Step.Deed.INSERT,
                                        "called",
                                        List.of(
                                                new Step.Cell("lot", "lot", false),
                                                new Step.Cell("kilos", "kilos", false)),
                                        1,
                                        1,
                                        ""))),
                        0,
                        "engineer");
        new Visitor(SITE).signIn("engineer", "engineer-demo").release();
        String runner = token("Order system that books", List.of("read", "run"));
        String path = "/transactions/ca11ed01/runs";
        String call = "{\"request\": \"A-1\", \"values\": {\"lot\": \"X-1\", \"kilos\": 12.5}}";
        soon(() -> send(runner, "POST", path, call).statusCode() == 200);
        JsonNode again = JSON.readTree(send(runner, "POST", path, call).body());
        assertThat(again.get("outcome").asText()).isEqualTo(Run.Outcome.ALREADY.words());
        assertThat(again.get("code").asInt()).isEqualTo(1);
        JsonNode other = JSON.readTree(
                send(runner, "POST", path, "{\"request\": \"A-2\", \"values\": {\"lot\": \"X-2\", \"kilos\": null}}")
                        .body());
        assertThat(other.get("outcome").asText()).isEqualTo(Run.Outcome.DONE.words());
        JsonNode without = JSON.readTree(
                send(runner, "POST", path, "{\"values\": {\"lot\": \"X-3\"}}").body());
        assertThat(without.get("outcome").asText()).isEqualTo(Run.Outcome.FAILED.words());
        assertThat(without.get("reason").asText()).isEqualTo("kilos was not given.");
        assertThat(send(runner, "POST", path, "{\"values\": {\"lott\": 1}}").body())
                .contains("It gathers nothing that is called lott.");
        assertThat(send(runner, "POST", path, "{\"values\": {\"lot\": [1]}}").statusCode())
                .isEqualTo(400);
        assertThat(send(runner, "POST", path, "{\"request\": \"" + "x".repeat(101) + "\"}")
                        .statusCode())
                .isEqualTo(400);
        assertThat(send(runner, "POST", "/transactions/nosuch/runs", "{}").statusCode())
                .isEqualTo(404);
        assertThat(send(writer, "POST", path, call).statusCode()).isEqualTo(403);
        assertThat(send(runner, "POST", "/values", "{}").statusCode()).isEqualTo(403);
        assertThat(send(runner, "GET", "/transactions", "").body()).contains("Booked by a call");
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT GROUP_CONCAT(lot ORDER BY lot) FROM called")) {
            rows.next();
            assertThat(rows.getString(1)).isEqualTo("X-1,X-2");
        }
    }

    @Test
    void tagsAreFoundAndRead() throws Exception {
        JsonNode tags = JSON.readTree(send(reader, "GET", "/tags?q=" + encoded("outlet dryer") + "&count=1", "")
                .body());
        assertThat(tags.get("total").asInt()).isEqualTo(2);
        assertThat(tags.get("tags")).hasSize(1);
        JsonNode tag = tags.get("tags").get(0);
        assertThat(tag.get("unit").asText()).isEqualTo("°C");
        JsonNode value = JSON.readTree(send(
                        reader,
                        "GET",
                        "/values?source=" + encoded("Pellet works") + "&address="
                                + encoded(tag.get("address").asText()),
                        "")
                .body());
        assertThat(value.get("value").isNumber()).isTrue();
        assertThat(value.get("quality").asText()).isEqualTo("good");
        assertThat(value.get("sourceTime").asText()).matches("\\d{4}-\\d\\d-\\d\\dT.*Z");
        JsonNode both = JSON.readTree(send(
                        reader,
                        "POST",
                        "/values/read",
                        "{\"tags\": [{\"source\": \"Targets\", \"address\": \"t4\"}, {\"source\": \"Targets\", \"address\": \"t1\"}]}")
                .body());
        assertThat(both).hasSize(2);
        assertThat(JSON.readTree(send(reader, "GET", "/sources", "").body()))
                .anyMatch(source -> source.get("name").asText().equals("Energy meters"));
    }

    @Test
    void historyIsReadAggregatedAndEnteredLate() throws Exception {
        JsonNode tag = JSON.readTree(send(reader, "GET", "/tags?q=" + encoded("outlet dryer") + "&count=1", "")
                        .body())
                .get("tags")
                .get(0);
        String which = "source=" + encoded("Pellet works") + "&address="
                + encoded(tag.get("address").asText());
        String window = "&window=" + encoded("2026-10-31 06:00 to 07:00");
        String late = "{\"source\": \"Pellet works\", \"address\": "
                + JSON.writeValueAsString(tag.get("address").asText())
                + ", \"time\": \"2026-10-31T06:%s:00Z\", \"value\": %s, \"why\": \"%s\"}";
        assertThat(send(reader, "POST", "/history", late.formatted("15", "20", "late"))
                        .statusCode())
                .isEqualTo(403);
        assertThat(send(writer, "POST", "/history", late.formatted("15", "20", ""))
                        .body())
                .contains("Say why");
        assertThat(send(writer, "POST", "/history", late.formatted("15", "20", "late"))
                        .statusCode())
                .isEqualTo(200);
        send(writer, "POST", "/history", late.formatted("45", "40", "late"));
        assertThat(JSON.readTree(send(writer, "POST", "/history", late.formatted("45", "60", "misread"))
                                .body())
                        .get("was")
                        .asDouble())
                .isEqualTo(40);
        JsonNode values = JSON.readTree(
                send(reader, "GET", "/history?" + which + window, "").body());
        assertThat(values.get("points")).hasSize(2);
        assertThat(values.get("points").get(1).get("value").asDouble()).isEqualTo(60);
        assertThat(values.get("points").get(1).get("words").asText()).contains("entered by hand");
        JsonNode halves = JSON.readTree(send(
                        reader,
                        "GET",
                        "/history?" + which + window + "&aggregate=Interpolative&interval=" + encoded("30 min"),
                        "")
                .body());
        assertThat(halves.get("points")).hasSize(2);
        assertThat(halves.get("points").get(1).get("value").asDouble())
                .as("half way between the two")
                .isEqualTo(40);
        assertThat(send(reader, "GET", "/history?" + which + window + "&aggregate=middle", "")
                        .body())
                .contains("There is no aggregate");
        assertThat(send(reader, "GET", "/history?" + which + "&window=" + encoded("once in a blue moon"), "")
                        .body())
                .contains("is not understood");
    }

    @Test
    void problemsAreProblemDetails() throws Exception {
        HttpResponse<String> none = send("", "GET", "/tags", "");
        assertThat(none.statusCode()).isEqualTo(401);
        assertThat(none.headers().firstValue("Content-Type"))
                .hasValueSatisfying(type -> assertThat(type).startsWith("application/problem+json"));
        assertThat(send("dh_wrong", "GET", "/tags", "").statusCode()).isEqualTo(401);
        HttpResponse<String> scope =
                send(reader, "POST", "/values", "{\"source\": \"Targets\", \"address\": \"t1\", \"value\": 3}");
        assertThat(scope.statusCode()).isEqualTo(403);
        assertThat(JSON.readTree(scope.body()).get("title").asText()).isEqualTo("Not in the scope of this token");
        HttpResponse<String> gone = send(reader, "GET", "/values?source=Targets&address=t99", "");
        assertThat(gone.statusCode()).isEqualTo(404);
        assertThat(JSON.readTree(gone.body()).get("detail").asText()).contains("has no tag with the address t99");
        assertThat(send(reader, "GET", "/tags?count=5000", "").statusCode()).isEqualTo(400);
        assertThat(send(reader, "POST", "/values/read", "{").statusCode()).isEqualTo(400);
        HttpResponse<String> range =
                send(writer, "POST", "/values", "{\"source\": \"Targets\", \"address\": \"t1\", \"value\": 99}");
        assertThat(range.statusCode()).isEqualTo(409);
        assertThat(JSON.readTree(range.body()).get("detail").asText()).contains("outside the range");
        assertThat(JSON.readTree(send(
                                        writer,
                                        "POST",
                                        "/values",
                                        "{\"source\": \"Targets\", \"address\": \"t1\", \"value\": \"many\"}")
                                .body())
                        .get("detail")
                        .asText())
                .contains("Write a number");
        HttpResponse<String> off =
                send(writer, "POST", "/values", "{\"source\": \"Energy meters\", \"address\": \"t5\", \"value\": 2}");
        assertThat(off.statusCode()).isEqualTo(409);
        assertThat(off.body()).contains("Writing to Energy meters is off");
        assertThat(send(reader, "POST", "/values/read", "{\"tags\":[null]}").statusCode())
                .isEqualTo(400);
        HttpResponse<String> nowhere = send(reader, "GET", "/nowhere", "");
        assertThat(nowhere.statusCode()).isEqualTo(404);
        HttpResponse<String> notSo = send(writer, "PUT", "/tags", "");
        assertThat(notSo.statusCode()).isEqualTo(405);
        assertThat(notSo.headers().firstValue("Allow")).hasValue("GET");
        for (HttpResponse<String> each : List.of(nowhere, notSo)) {
            assertThat(each.headers().firstValue("Content-Type"))
                    .hasValueSatisfying(type -> assertThat(type).startsWith("application/problem+json"));
        }
    }

    @Test
    void keptTagsAreWrittenAndHeardAndFormulasFollow() throws Exception {
        String formula = SITE.bean(Definitions.class).all(SourceDefinition.class).stream()
                .filter(source -> source.name().equals("Formulas"))
                .findFirst()
                .orElseThrow()
                .id();
        HttpRequest listen = HttpRequest.newBuilder(URI.create(SITE.address(
                        "/api/v1/stream?tag=" + encoded("Targets t2").replace("Targets", SITE.source("Targets"))
                                + "&tag=" + encoded(formula + " t4"))))
                .header("Authorization", "Bearer " + reader)
                .build();
        HttpResponse<Stream<String>> stream = HTTP.send(listen, HttpResponse.BodyHandlers.ofLines());
        assertThat(stream.statusCode()).isEqualTo(200);
        assertThat(JSON.readTree(send(
                                        writer,
                                        "POST",
                                        "/values",
                                        "{\"source\": \"Targets\", \"address\": \"t2\", \"value\": 2.5}")
                                .body())
                        .get("same")
                        .asBoolean())
                .isTrue();
        assertThat(stream.body()
                        .filter(line -> line.startsWith("data:")
                                && line.contains("\"address\":\"t2\"")
                                && line.contains("\"value\":2.5"))
                        .findFirst())
                .isPresent();
        assertThat(SITE.bean(Engine.class)
                        .local()
                        .kept(SITE.source("Targets"))
                        .get("t2")
                        .value())
                .isEqualTo("2.5");
    }

    @Test
    void aRevokedTokenIsShutOutAtOnceAndOnlyHashesAreKept() throws Exception {
        String once = token("Short lived", List.of("read"));
        assertThat(send(once, "GET", "/tags?count=1", "").statusCode()).isEqualTo(200);
        actor.go("/plant/tokens");
        actor.see("table.list", "Short lived");
        actor.browser.findElements(By.cssSelector("tbody tr")).stream()
                .filter(row -> row.getText().contains("Short lived"))
                .findFirst()
                .orElseThrow()
                .findElement(By.tagName("button"))
                .click();
        actor.browser.switchTo().alert().accept();
        actor.see("table.list", "revoked");
        assertThat(send(once, "GET", "/tags?count=1", "").statusCode()).isEqualTo(401);
        assertThat(SITE.bean(JdbcClient.class)
                        .sql("SELECT COUNT(*) FROM api_token WHERE hash = ? OR name = ?")
                        .params(once, once)
                        .query(Integer.class)
                        .single())
                .isZero();
        assertThat(SITE.bean(JdbcClient.class)
                        .sql("SELECT hash FROM api_token LIMIT 1")
                        .query(String.class)
                        .single())
                .matches("[0-9a-f]{64}");
    }

    @Test
    void recordersSayHowTheyStandAndGiveTheirRows() throws Exception {
        assertThat(JSON.readTree(send(reader, "GET", "/recorders", "").body()))
                .anyMatch(each -> each.get("name").asText().equals("Dryer log"));
        JsonNode one =
                JSON.readTree(send(reader, "GET", "/recorders/dryer%20log", "").body());
        assertThat(one.get("destinations").get(0).get("destination").asText()).isEqualTo("Production");
        soon(() ->
                JSON.readTree(send(reader, "GET", "/recorders/" + one.get("id").asText() + "/rows?most=3", "")
                                        .body())
                                .get("rows")
                                .size()
                        == 3);
        JsonNode rows = JSON.readTree(
                send(reader, "GET", "/recorders/Dryer%20log/rows?most=3", "").body());
        int time = JSON.convertValue(rows.get("columns"), List.class).indexOf("record_time");
        assertThat(rows.get("rows").get(0).get(time).asText()).matches("\\d{4}-\\d\\d-\\d\\dT.*Z");
        assertThat(rows.get("rows").get(0).get(time).asText())
                .as("the newest first")
                .isGreaterThan(rows.get("rows").get(2).get(time).asText());
        for (String wrong : List.of("/recorders/nobody", "/recorders/nobody/rows")) {
            assertThat(send(reader, "GET", wrong, "").statusCode()).isEqualTo(404);
        }
        assertThat(send(reader, "GET", "/recorders/Dryer%20log/rows?most=0", "").statusCode())
                .isEqualTo(400);
        assertThat(send("", "GET", "/recorders", "").statusCode()).isEqualTo(401);
    }

    @Test
    void theDescriptionNamesEveryPath() throws Exception {
        JsonNode description =
                JSON.readTree(send("", "GET", "/openapi.json", "").body());
        assertThat(description.get("openapi").asText()).startsWith("3.");
        assertThat(description.get("paths").fieldNames())
                .toIterable()
                .contains(
                        "/api/v1/tags",
                        "/api/v1/values",
                        "/api/v1/values/read",
                        "/api/v1/stream",
                        "/api/v1/sources",
                        "/api/v1/recorders",
                        "/api/v1/recorders/{id}/rows");
        assertThat(new Visitor(SITE)
                        .signIn("viewer", "viewer-demo")
                        .get("/plant/tokens")
                        .body())
                .contains("Not allowed");
    }
}
