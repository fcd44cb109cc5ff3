package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.office.definition.Drafts;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.Keys;

/** A laboratory's database, which others write: added with an account that may read alone, looked at and taken as files. */
class DatabasesTest {

    private static final Site SITE = Site.demo();
    private static Visitor engineer;

    @BeforeAll
    static void fill() throws Exception {
        execute(
                "CREATE DATABASE laboratory",
                "CREATE USER reader@'127.0.0.1' IDENTIFIED BY 'reads'",
                "GRANT SELECT ON laboratory.* TO reader@'127.0.0.1'",
                "USE laboratory",
                "CREATE TABLE laboratory.samples (sample_no INT PRIMARY KEY, drawn DATETIME(3) NOT NULL, drawn_s BIGINT, lot VARCHAR(40), moisture DOUBLE)",
                // one an hour, the last one half an hour ago; the clock there is UTC
                "INSERT INTO laboratory.samples SELECT seq, UTC_TIMESTAMP(3) - INTERVAL 30 MINUTE - INTERVAL (1000 - seq) HOUR, UNIX_TIMESTAMP() - 1800 - (1000 - seq) * 3600, CONCAT('PL1-', seq), seq / 100 FROM seq_1_to_1000",
                "CREATE VIEW laboratory.wet AS SELECT sample_no, moisture FROM laboratory.samples WHERE moisture > 9");
        engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
    }

    private static void execute(String... statements) throws Exception {
        try (Connection connection = DriverManager.getConnection(SITE.database.url(""));
                Statement statement = connection.createStatement()) {
            for (String each : statements) {
                statement.execute(each);
            }
        }
    }

    @AfterAll
    static void leave() throws Exception {
        SITE.bean(Drafts.class).discardAll("engineer");
        execute("DROP DATABASE laboratory", "DROP USER reader@'127.0.0.1'");
    }

    private static HttpResponse<String> add(String name, String user, String password) throws Exception {
        return engineer.post(
                "/review/databases",
                "kind",
                "mariadb",
                "name",
                name,
                "host",
                "127.0.0.1",
                "port",
                Integer.toString(SITE.database.port()),
                "database",
                "laboratory",
                "user",
                user,
                "password",
                password,
                "authority",
                "",
                "connections",
                "4",
                "connectWithin",
                "3",
                "answerWithin",
                "30",
                "tls",
                "off",
                "zone",
                "UTC",
                "save",
                "1");
    }

    private static String tables(HttpResponse<String> added) {
        assertThat(added.statusCode()).isEqualTo(302);
        return added.headers().firstValue("Location").orElseThrow();
    }

    /** By hand in a browser: added, found, looked at by a window, ordered. */
    @Test
    void aTableOfOthersIsLookedAt() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review");
            actor.click("a[href='/review/databases']");
            actor.click("a[href='/review/databases/new']");
            actor.fill("#f-name", "Second laboratory");
            actor.fill("#f-port", Integer.toString(SITE.database.port()));
            actor.fill("#f-database", "laboratory");
            actor.fill("#f-user", "reader");
            actor.fill("#f-password", "wrong");
            actor.click("button[name=save]");
            actor.see("main", "refuses this user or password");
            actor.fill("#f-password", "reads");
            actor.click("button[name=save]");
            actor.see("aside", "samples");
            assertThat(actor.see("#notice").getText()).contains("MariaDB").doesNotContain("may do more");
            actor.click("aside a[href*='table=samples']");
            actor.see("#table-rows", "Rows 1 to 100, by sample_no, the largest first");
            assertThat(actor.see(".rows-of tbody tr").getText())
                    .startsWith("1000 ")
                    .contains("PL1-1000");
            actor.click("#table-rows .pages button");
            actor.see("#table-rows", "Rows 101 to 200");
            actor.fill("#window", "last 10 h");
            actor.click("#rows-asked button");
            actor.see("#table-rows", "Rows 1 to 10, by drawn");
            actor.choose("#rows-time", "drawn_s");
            actor.choose("#rows-form", "SECONDS");
            actor.click("#rows-asked button");
            actor.see("#table-rows", "Rows 1 to 10, by drawn_s");
            actor.click(".rows-of th a[href*='by=moisture']");
            actor.see("#table-rows", "by moisture");
            actor.fill("#window", "last 10 parsecs");
            actor.click("#rows-asked button");
            actor.see("#table-rows .field-problem");
            actor.fill(".side-find input[name=q]", "wet");
            actor.see(".side-find input[name=q]").sendKeys(Keys.ENTER);
            actor.see("aside .side-entry", "view");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    @Test
    void rowsGoOutAsFilesAndIntoTheAudit() throws Exception {
        String tables = tables(add("Laboratory for files", "reader", "reads"));
        String rows = tables.replace("/tables", "/rows.");
        String asked = "?schema=laboratory&table=samples&window=last+5+h";
        String csv = engineer.get(rows + "csv" + asked).body();
        assertThat(csv.lines()).hasSize(6);
        assertThat(csv).startsWith("\uFEFFsample_no,drawn,drawn_s,lot,moisture\r\n1000,");
        assertThat(engineer.get(rows + "jsonl" + asked).body().lines()).hasSize(5);
        HttpResponse<String> parquet = engineer.get(rows + "parquet?schema=laboratory&table=samples");
        assertThat(parquet.body()).startsWith("PAR1").endsWith("PAR1");
        assertThat(parquet.headers().firstValue("Content-Disposition").orElseThrow())
                .contains("samples.parquet");
        assertThat(engineer.get(rows + "xlsx" + asked).body()).startsWith("PK");
        assertThat(SITE.audit())
                .anyMatch(
                        each -> each.contains(
                                "engineer: took a file of a table: Laboratory for files / laboratory.samples as CSV, last 5 h"));
        assertThat(engineer.get(rows + "csv?schema=laboratory&table=gone").statusCode())
                .isEqualTo(400);
    }

    /** Reads the table, and returns the page of the review, whether the work was over at once or not. */
    private static String review(String... asked) throws Exception {
        HttpResponse<String> answer = engineer.post("/plant/history/table", asked);
        Matcher page = Pattern.compile("/plant/history/[0-9a-f]{8}")
                .matcher(answer.headers().firstValue("Location").orElse("") + answer.body());
        assertThat(page.find()).as(answer.body()).isTrue();
        return page.group();
    }

    /** What breaks off in the middle is no file that looks whole; what breaks off before it began is a sentence. */
    @Test
    void aFileThatBreaksOffDoesNotLookWhole() throws Exception {
        execute(
                "USE laboratory",
                "CREATE VIEW laboratory.breaks AS SELECT seq, IF(seq = 60000, (SELECT 1 UNION SELECT 2), 1) AS one FROM seq_1_to_100000",
                "CREATE VIEW laboratory.broken AS SELECT seq, IF(seq > 0, (SELECT 1 UNION SELECT 2), 1) AS one FROM seq_1_to_100000");
        String rows = tables(add("Laboratory that breaks", "root", "")).replace("/tables", "/rows.");
        for (String ending : List.of("csv", "jsonl")) {
            assertThatThrownBy(() -> engineer.get(rows + ending + "?schema=laboratory&table=breaks"))
                    .isInstanceOf(IOException.class);
        }
        for (String ending : List.of("csv", "parquet")) {
            HttpResponse<String> broken = engineer.get(rows + ending + "?schema=laboratory&table=broken");
            assertThat(broken.statusCode()).isEqualTo(503);
            assertThat(broken.body())
                    .contains("Subquery returns more than 1 row")
                    .startsWith("<!DOCTYPE html>");
            assertThat(broken.headers().firstValue("Content-Disposition")).isEmpty();
        }
        // Whoever waits for a Parquet file gets all of it or a sentence.
        assertThat(engineer.get(rows + "parquet?schema=laboratory&table=breaks").statusCode())
                .isEqualTo(503);
        assertThat(engineer.get(rows + "parquet?schema=laboratory&table=samples")
                        .body())
                .startsWith("PAR1");
    }

    /** A laboratory's values into the history of a kept tag: reviewed, written, and equal the next time. */
    @Test
    void valuesOfATableComeIntoTheArchive() throws Exception {
        String tables = tables(add("Laboratory with history", "reader", "reads"));
        String id = tables.split("/")[3];
        String[] asked = {
            "database",
            id,
            "schema",
            "laboratory",
            "table",
            "samples",
            "time",
            "drawn_s",
            "form",
            "SECONDS",
            "window",
            "last 100 h",
            "tag.moisture",
            "Pellet works / Drying / Drum dryer / Chip moisture out",
            "tag.lot",
            "No such tag"
        };
        String form = engineer.get("/plant/history/table?database=" + id + "&schema=laboratory&table=samples")
                .body();
        assertThat(form).contains("tag.moisture").doesNotContain("tag.drawn\"");
        assertThat(engineer.post(
                                "/plant/history/table",
                                "database",
                                id,
                                "schema",
                                "laboratory",
                                "table",
                                "samples",
                                "time",
                                "drawn")
                        .body())
                .contains("Choose the column that names the tag of each row");
        String page = review(asked);
        assertThat(engineer.get(page).body())
                .contains("100 values")
                .contains("No such tag")
                .contains("Pellet works / Drying / Drum dryer / Chip moisture out");
        engineer.post(page);
        String review =
                engineer.get(review(asked)).body().replaceAll("<[^>]+>", " ").replaceAll("\\s+", " ");
        assertThat(review).contains("Chip moisture out 0 100 0");
    }

    /** An account that may read everything sees our own database by no way: it holds what opens every door. */
    @Test
    void ourOwnDatabaseIsNotReadByAnyAccount() throws Exception {
        String tables = tables(add("Everything", "root", ""));
        String page = engineer.get(tables).body();
        assertThat(page).contains("quillmoor_records", "samples").doesNotContain("dachshund</p>", "schema=dachshund");
        for (String own : new String[] {"dachshund", "DACHSHUND"}) {
            assertThat(engineer.get(tables + "?schema=" + own + "&table=person").body())
                    .contains("There is no table or view " + own + ".person any more.")
                    .doesNotContain("password_hash");
        }
        assertThat(engineer.get(tables.replace("/tables", "/rows.csv") + "?schema=dachshund&table=person")
                        .statusCode())
                .isEqualTo(400);
        assertThat(SITE.audit()).anyMatch(each -> each.contains("tested a connection: Read-only database Everything"));
    }

    /** Nothing is sent where nobody has decided to connect, and what cannot be is a sentence on the page. */
    @Test
    void whatIsNotTestedIsNotLookedAt() throws Exception {
        HttpResponse<String> refused = add("Wrong", "reader", "wrong");
        assertThat(refused.statusCode()).isEqualTo(200);
        assertThat(refused.body()).contains("refuses this user or password").contains("Save it anyway");
        assertThat(add("Without", "reader", "").body()).contains("refuses this user or password");
        assertThat(engineer.get("/review/databases/no-such/tables").statusCode())
                .isEqualTo(400);
        assertThat(engineer.post("/review/databases", "kind", "mariadb", "host", "", "zone", "Mars/North")
                        .body())
                .contains("The name or IP address of the database server is needed.")
                .contains("There is no zone of that name");
    }
}
