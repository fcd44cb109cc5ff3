package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.archive.Column;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.trend.Curve;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.DoubleBuffer;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;

/** A trend is made of tags, a table, a query and pasted cells, read, zoomed, saved, and looked at by a viewer. */
class TrendsTest {

    private static final Site SITE = Site.demo();
    private static Instant end;
    private static final ObjectMapper JSON = new ObjectMapper();

    private static TagRef tag;

    /** Ten hours of a value each second of a tag that nobody keeps, and a laboratory beside it. */
    @BeforeAll
    static void fill() throws Exception {
        end = Instant.now().truncatedTo(ChronoUnit.HOURS);
        SourceDefinition works = (SourceDefinition)
                SITE.bean(Definitions.class).find(SITE.source("Targets")).orElseThrow();
        tag = new TagRef(works.id(), works.tags().get(0).address());
        Column column = new Column(Column.Sort.NUMBER, 36_000);
        for (int i = 0; i < 36_000; i++) {
            column.addNumber(OpcUaTime.toTicks(end.minusSeconds(36_000 - i)), value(i), 0);
        }
        SITE.bringIn(tag, column);
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_lab"));
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE drawn (id INT AUTO_INCREMENT PRIMARY KEY, line VARCHAR(8), taken DATETIME, moisture DOUBLE, word VARCHAR(9))");
            statement.execute(
                    "INSERT INTO drawn (line, taken, moisture, word) SELECT CONCAT('PL', 1 + seq % 2), TIMESTAMP('"
                            + end.toString().substring(0, 19).replace('T', ' ')
                            + "') - INTERVAL seq MINUTE, seq, 'wet' FROM seq_1_to_600");
        }
    }

    /** With one extreme of a second that no thinning may lose. */
    private static double value(int second) {
        return second == 12_345 ? 999 : second % 600;
    }

    private static TrendDefinition trend(String address) {
        String id = address.replaceAll("\\?.*", "").replaceAll(".*/", "");
        return SITE.bean(Definitions.class).find(TrendDefinition.class, id).orElseThrow();
    }

    private static double[] numbers(JsonNode curve, String name) throws IOException {
        DoubleBuffer numbers = ByteBuffer.wrap(curve.get(name).binaryValue())
                .order(ByteOrder.LITTLE_ENDIAN)
                .asDoubleBuffer();
        double[] all = new double[numbers.remaining()];
        numbers.get(all);
        return all;
    }

    private static JsonNode points(Visitor who, TrendDefinition trend, Curve curve, int points) throws Exception {
        String lines = who.get("/review/trends/" + trend.id() + "/drawn?begin="
                        + end.minusSeconds(36_000).toEpochMilli() + "&end=" + end.toEpochMilli() + "&points=" + points)
                .body();
        return line(lines, "curve", curve.id());
    }

    /** The line of one of them. */
    static JsonNode line(String lines, String sort, String id) throws Exception {
        for (String each : lines.split("\n")) {
            JsonNode line = JSON.readTree(each);
            if (line.path(sort).asText().equals(id)) {
                return line;
            }
        }
        throw new AssertionError("There is no " + sort + " " + id + " in " + lines);
    }

    private static void drawn(Actor actor) {
        soon(() -> Boolean.TRUE.equals(
                actor.browser.executeScript("return document.getElementById('trend-plot')?.dataset.drawn > 0")));
    }

    /** Rows of one line, of a table that has those of many. */
    private static void chooseLines(Actor actor) throws Exception {
        actor.click("#add-table summary");
        actor.choose("#curve-database", SITE.named("Laboratory"));
        actor.see("#curve-table");
        actor.choose("#curve-table", "quillmoor_lab\ndrawn");
        actor.see("#curve-value");
        actor.choose("#curve-where", "line");
    }

    @Test
    void aTrendOfFourSortsOfCurvesIsMadeReadZoomedAndGivenToAViewer() throws Exception {
        String address;
        String window = end.minusSeconds(36_000) + " to " + end;
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review");
            actor.click("a[href='/review/trends']");
            actor.click("#new-trend");
            actor.see("main", "No curve yet");
            address = actor.browser.getCurrentUrl();
            actor.fill(
                    "#add-words",
                    SITE.bean(Definitions.class).tag(tag).orElseThrow().name());
            actor.click("#add-picks .pick[data-key='" + tag.source() + " " + tag.address() + "']");
            actor.see(".readings");
            actor.click("#add-pasted summary");
            actor.fill("#add-called", "By hand");
            actor.fill("#add-cells", "hello");
            actor.click("#add-pasted form button");
            actor.see("#notice", "No line has a time and a number.");
            actor.click("#add-pasted summary");
            actor.fill("#add-called", "By hand");
            String cells = end.minusSeconds(7200).toString() + ";7,5\n" + end.minusSeconds(3600) + ";8,5";
            actor.fill("#add-cells", cells);
            actor.click("#add-pasted form button");
            actor.see(".readings", "By hand");
            chooseLines(actor);
            soon(() -> actor.browser
                            .findElements(By.cssSelector("#curve-names option[value='PL2']"))
                            .size()
                    == 1);
            actor.click("#table-curve button");
            actor.see("#notice", "Say which rows are meant: what stands in line of each of them.");
            chooseLines(actor);
            actor.fill("#curve-named", "PL2");
            actor.click("#table-curve button");
            actor.see(".readings", "PL2 moisture");
            actor.fill("#window", window);
            actor.click("#trend-window button");
            actor.see("#trend-plot canvas");
            actor.see(".readings", "999.000");
            drawn(actor);
            // The readings are those of all values, whatever the plot thins out.
            List<String> first = actor.texts(".readings [data-curve='1'] td");
            assertThat(first.get(5)).isEqualTo("0.000");
            assertThat(first.get(7)).isEqualTo("999.000");
            assertThat(Double.parseDouble(first.get(6))).isBetween(299.0, 300.1);
            List<String> pasted = actor.texts(".readings [data-curve='2'] td");
            assertThat(pasted.get(5)).isEqualTo("7.500");
            assertThat(actor.see(".readings [data-curve='2']").getText())
                    .contains("separated by semicolons", "decimal comma");
            // What the canvas has is what was asked for: least and greatest of it are those of the readings.
            assertThat(
                            actor.browser.executeScript(
                                    "const ys = document.getElementById('trend-plot').plotted[1].filter(y => y !== null && y !== undefined); return Math.min(...ys) + ' ' + Math.max(...ys)"))
                    .isEqualTo("0 999");
            // The same points as a table, and as lines for whoever prints.
            actor.click("#trend-values summary");
            actor.see("#trend-values", "points");
            assertThat(actor.texts("#trend-values thead th").get(0)).isEqualTo("Time");
            assertThat(actor.texts("#trend-values tbody tr")).hasSizeGreaterThan(5);
            actor.click("#trend-svg");
            String svg = (String) actor.browser.executeScript("return document.getElementById('trend-plot').svg");
            javax.xml.parsers.DocumentBuilderFactory.newInstance()
                    .newDocumentBuilder()
                    .parse(new org.xml.sax.InputSource(new java.io.StringReader(svg)));
            assertThat(svg).contains("<path d=\"M", "By hand");
            actor.click("[data-trend-step=wider]");
            soon(() -> actor.browser.getCurrentUrl().contains("window="));
            assertThat(actor.see("#window").getDomProperty("value"))
                    .isEqualTo(end.minusSeconds(54_000) + " to " + end.plusSeconds(18_000));
            // An answer that breaks off amid the second curve: the first is there, and the others say so.
            actor.browser.executeScript(
                    "const real = fetch; window.fetch = async (...all) => { const answer = await real(...all); if (!String(all[0]).includes('/drawn?')) return answer; const text = await answer.text(); return new Response(text.slice(0, text.indexOf('\\n') + 20)); }");
            actor.click("[data-trend-step=wider]");
            actor.see(".readings [data-curve='2']", "It did not answer; show it again.");
            actor.see(".readings [data-curve='3']", "It did not answer; show it again.");
            assertThat(actor.texts(".readings [data-curve='1'] td").get(7)).isEqualTo("999.000");
            actor.click(".readings [data-curve='1'] .curve-edit summary");
            actor.fill("#called-1", "Kept, a day before");
            actor.choose("#colour-1", "5");
            actor.fill("#decimals-1", "1");
            actor.fill("#back-1", "1 d");
            actor.fill("#high-1", "much");
            actor.click(".readings [data-curve='1'] .curve-edit button.btn-primary");
            actor.see("#notice", "\"much\" is no limit.");
            actor.click(".readings [data-curve='1'] .curve-edit summary");
            actor.fill("#called-1", "Kept, a day before");
            actor.fill("#back-1", "1 d");
            actor.fill("#high-1", "550");
            actor.click(".readings [data-curve='1'] .curve-edit button.btn-primary");
            actor.see(".readings", "Kept, a day before");
            actor.click(".trend-heads summary");
            actor.fill("#f-name", "Dryer beside its laboratory");
            actor.fill("#heads-window", window);
            actor.click("#save-heads");
            actor.see("h1", "Dryer beside its laboratory");
            assertThat(actor.complaints()).isEmpty();
        }
        TrendDefinition trend = trend(address);
        assertThat(trend.curves())
                .extracting(Curve::name)
                .containsExactly("Kept, a day before", "By hand", "PL2 moisture");
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(engineer.get("/release").body()).contains("Everybody who signs in may look at it.");
        engineer.release();
        try (Actor actor = new Actor(SITE).signIn("viewer", "viewer-demo")) {
            actor.go("/review/trends/" + trend.id());
            actor.see("#trend-plot canvas");
            drawn(actor);
            String csv = new Visitor(SITE)
                    .signIn("viewer", "viewer-demo")
                    .get("/review/trends/" + trend.id() + "/values.csv?begin="
                            + end.minusSeconds(7300).toEpochMilli() + "&end="
                            + end.minusSeconds(3599).toEpochMilli())
                    .body();
            assertThat(csv.lines())
                    .contains(
                            "By hand,," + end.minusSeconds(7200) + ",7.5",
                            "By hand,," + end.minusSeconds(3600) + ",8.5")
                    .filteredOn(line -> line.startsWith("PL2 moisture,"))
                    .hasSize(31);
            assertThat(actor.texts(".readings [data-curve='3'] td").get(7)).isEqualTo("599.000");
            assertThat(actor.texts("#add-words")).isEmpty();
            assertThat(actor.complaints()).isEmpty();
        }
    }

    @Test
    void everyCurveIsWhatAPlainClientFindsAndOneThatCannotBeDrawnSaysWhy() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String place = engineer.post("/review/trends/new", "key", tag.source() + " " + tag.address())
                .headers()
                .firstValue("Location")
                .orElseThrow();
        String id = trend(place).id();
        String laboratory = SITE.named("Laboratory");
        for (String value : List.of("moisture", "word", "nosuch")) {
            engineer.post(
                    "/review/trends/" + id + "/table",
                    "seen",
                    Integer.toString(
                            SITE.bean(dachshund.office.definition.Drafts.class).revision(id)),
                    "database",
                    laboratory,
                    "table",
                    "quillmoor_lab\ndrawn",
                    "time",
                    "taken",
                    "form",
                    "STAMP",
                    "value",
                    value);
        }
        TrendDefinition trend = trend(place);
        assertThat(trend.curves()).hasSize(4);
        JsonNode ofTag = points(engineer, trend, trend.curves().get(0), 100);
        assertThat(ofTag.get("greatest").asDouble()).isEqualTo(999);
        assertThat(numbers(ofTag, "times").length).isLessThan(600);
        assertThat(numbers(ofTag, "values")).contains(999);
        JsonNode ofTable = points(engineer, trend, trend.curves().get(1), 4000);
        assertThat(numbers(ofTable, "values")).hasSize(600).startsWith(600);
        // In microseconds since the beginning of what is drawn.
        assertThat(numbers(ofTable, "times")).startsWith(0, 60_000_000);
        assertThat(ofTable.get("count").asLong()).isEqualTo(600);
        assertThat(points(engineer, trend, trend.curves().get(2), 100)
                        .get("problem")
                        .asText())
                .contains("holds texts such as \"wet\"", "a trend draws numbers");
        assertThat(points(engineer, trend, trend.curves().get(3), 100)
                        .get("problem")
                        .asText())
                .contains("nosuch");
        assertThat(engineer.get("/review/trends/" + id + "/drawn?begin=5&end=5").body())
                .contains("from a time after 1970");
        // Nobody takes a picture of what is not drawn yet.
        assertThat(engineer.get("/review/trends/" + id).body()).contains("id=\"trend-svg\" disabled");
        // Somebody else's page that was open meanwhile overwrites nothing.
        assertThat(engineer.post("/review/trends/" + id + "/curves/1/remove", "seen", "1")
                        .statusCode())
                .isBetween(300, 499);
        assertThat(trend(place).curves()).hasSize(4);
        Visitor viewer = new Visitor(SITE).signIn("viewer", "viewer-demo");
        assertThat(viewer.post("/review/trends/" + id + "/curves/1/remove", "seen", "9")
                        .statusCode())
                .isEqualTo(403);
        assertThat(viewer.get("/review/trends/" + id).body()).contains("not there any more");
    }
}
