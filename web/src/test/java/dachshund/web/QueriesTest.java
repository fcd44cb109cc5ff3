package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.definition.Definition;
import dachshund.core.query.QueryDefinition;
import dachshund.office.definition.Definitions;
import java.net.http.HttpResponse;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.Keys;

/** A question to a database is written, tried, saved and released; then a viewer asks it. */
class QueriesTest {

    private static final Site SITE = Site.demo();
    private static String laboratory;
    /** The rows 1 to 299, however long the test takes. */
    private static String window;

    @BeforeAll
    static void fill() throws Exception {
        Instant now = Instant.now().truncatedTo(ChronoUnit.SECONDS);
        window = now.minusSeconds(299 * 60 + 30) + " to " + now.plusSeconds(3600);
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_lab"));
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE asked (no INT PRIMARY KEY, line VARCHAR(8), taken DATETIME, moisture DECIMAL(4,2), note VARCHAR(40))");
            statement.execute(
                    "INSERT INTO asked SELECT seq, CONCAT('PL', 1 + seq % 3), UTC_TIMESTAMP() - INTERVAL seq MINUTE, seq % 100 / 10, '=1+1' FROM seq_1_to_1000");
        }
        laboratory = SITE.bean(Definitions.class).drafted().stream()
                .filter(each -> each.name().equals("Laboratory"))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    private static String query(String name) {
        return SITE.bean(Definitions.class).all(QueryDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    @Test
    void aQuestionIsWrittenTriedMendedSavedAndReleasedAndAViewerAsksIt() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review");
            actor.click("a[href='/review/queries']");
            actor.click("a[href='/review/queries/new']");
            actor.click("#way-SQL");
            actor.fill("#f-name", "Wet samples");
            actor.choose("#f-database", laboratory);
            actor.fillAndLeave(
                    "#sql",
                    "SELECT no, line, moistur\nFROM asked\nWHERE line = :line AND moisture >= :least AND taken >= :from AND taken < :to\nORDER BY no");
            actor.choose("#sort-least", "NUMBER");
            actor.fill("#start-least", "5,5");
            actor.fill("#start-line", "PL2");
            actor.fill("#window", window);
            actor.click("#ask");
            actor.see("#query-rows .field-problem", "\"5,5\" is no number for least.");
            actor.fill("#start-least", "5.5");
            actor.click("#ask");
            actor.see("#query-rows .field-problem", "Unknown column 'moistur'");
            assertThat(actor.see("#query-rows mark").getText()).isEqualTo("moistur");
            actor.fillAndLeave(
                    "#sql",
                    "SELECT no, line, moisture, note\nFROM asked\nWHERE line = :line AND moisture >= :least AND taken >= :from AND taken < :to\nORDER BY no");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            // By hand: of 1 to 299, those with remainder 1 of three, whose last two digits are 55 or more.
            long byHand = java.util.stream.IntStream.range(1, 300)
                    .filter(no -> no % 3 == 1 && no % 100 >= 55)
                    .count();
            assertThat(actor.texts(".rows-of tbody tr")).hasSize((int) byHand);
            // What is not saved yet goes out as it is here, to whoever asked it.
            String here = actor.see("#as-csv").getDomAttribute("href");
            assertThat(new Visitor(SITE)
                            .signIn("engineer", "engineer-demo")
                            .get(here)
                            .body()
                            .lines())
                    .hasSize((int) byHand + 1);
            assertThat(new Visitor(SITE)
                            .signIn("viewer", "viewer-demo")
                            .get(here)
                            .body())
                    .contains("This answer is not kept any more.");
            actor.click("#save-query");
            actor.see("#notice", "Saved as a draft");
            actor.click("#as-asked");
            actor.see("#as-parquet");
            assertThat(actor.texts(".rows-of tbody tr")).hasSize((int) byHand);
            assertThat(actor.complaints()).isEmpty();
        }
        String id = query("Wet samples");
        Visitor viewer = new Visitor(SITE).signIn("viewer", "viewer-demo");
        assertThat(viewer.get("/review/queries/" + id + "/rows").body()).contains("not there any more");
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        engineer.release();
        try (Actor actor = new Actor(SITE).signIn("viewer", "viewer-demo")) {
            actor.go("/review/queries/" + id);
            actor.see("#query-rows .rows-of");
            actor.fill("#v-line", "PL3");
            actor.see("#v-line").sendKeys(Keys.ENTER);
            actor.see("#query-rows .rows-of tbody", "PL3");
            actor.fill("#v-least", "wet");
            actor.see("#v-least").sendKeys(Keys.ENTER);
            actor.see("#query-rows .field-problem", "\"wet\" is no number for least.");
            assertThat(actor.complaints()).isEmpty();
        }
        HttpResponse<String> csv =
                viewer.get("/review/queries/" + id + "/rows.csv?window=last+5+h&v-line=PL3&v-least=9");
        assertThat(csv.body().lines().skip(1)).allMatch(line -> line.matches("\\d+,PL3,9\\.\\d\\d,'=1\\+1"));
        assertThat(csv.body().lines().count()).isGreaterThan(5);
        assertThat(SITE.audit()).anyMatch(line -> line.contains("took a file of a query: Wet samples as CSV"));
        assertThat(engineer.post("/review/databases/" + laboratory + "/remove").body())
                .doesNotContain("Error");
        assertThat(SITE.bean(Definitions.class).find(laboratory)).isPresent();
    }

    /** A grid of 200,000 rows scrolls; one that takes too long is cancelled. */
    @Test
    void aLongAnswerScrollsWhileItComesAndIsCancelled() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review/queries/new?way=SQL");
            actor.choose("#f-database", laboratory);
            actor.fillAndLeave("#sql", "SELECT seq AS n, CONCAT('Row ', seq) AS t FROM seq_1_to_200000");
            actor.click("#ask");
            actor.see("#query-rows", "200,000 rows, the last of them");
            // It is as high as all of its rows.
            await().until(() -> actor.browser
                    .executeScript("return document.querySelector('.answer-grid').scrollHeight >= 30 * 200000")
                    .equals(true));
            actor.browser.executeScript("document.querySelector('.answer-grid').scrollTop = 30 * 150000");
            actor.see(".rows-of tbody", "Row 150001");
            assertThat(actor.texts(".rows-of tbody tr").size()).isLessThan(700);
            actor.browser.executeScript("document.querySelector('.answer-grid').scrollTop = 1e9");
            actor.see(".rows-of tbody", "Row 200000");
            actor.fillAndLeave("#sql", "SELECT SLEEP(300)");
            actor.click("#ask");
            actor.see("#query-rows", "no row is there yet");
            actor.click("#cancel-answer");
            actor.see("#query-rows", "Cancelled; 0 rows came");
            actor.fillAndLeave("#sql", "SELECT 42 AS answer");
            actor.click("#ask");
            actor.see("#query-rows", "1 row, the last");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    @Test
    void whatIsBadIsRefusedWithASentenceAtItsPlace() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        Map<String, String> sentences = Map.of(
                "", "There is no query yet",
                "DELETE FROM asked", "A query begins with SELECT",
                "SELECT * FROM asked FOR UPDATE", "hold up whoever writes",
                "SELECT 1; SELECT 2", "A query is one statement",
                "SELECT * FROM asked WHERE taken > :from", "Say the window",
                "SELECT SLEEP(60)", "no row is there yet",
                "SELECT :a", "no place");
        for (Map.Entry<String, String> each : sentences.entrySet()) {
            String body = engineer.post(
                            "/review/queries/try", "way", "SQL", "database", laboratory, "sql", each.getKey())
                    .body();
            if (each.getKey().equals("SELECT :a")) {
                assertThat(body).contains("1 row, the last");
            } else {
                assertThat(body).as(each.getKey()).contains(each.getValue());
            }
        }
        assertThat(engineer.post("/review/queries", "way", "SQL", "name", "", "database", "", "sql", "x")
                        .body())
                .contains("Give it a name", "Choose the database");
        assertThat(engineer.post("/review/queries/try", "way", "SQL", "database", "nowhere", "sql", "SELECT 1")
                        .body())
                .contains("not there any more");
        Visitor viewer = new Visitor(SITE).signIn("viewer", "viewer-demo");
        assertThat(viewer.post("/review/queries/try", "way", "SQL", "database", laboratory, "sql", "SELECT 1")
                        .statusCode())
                .isEqualTo(403);
        assertThat(List.of(SITE.database.runs())).containsExactly(true);
    }
}
