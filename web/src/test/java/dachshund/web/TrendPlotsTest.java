package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.WrittenQuery;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Several plots over one window, and the bands above them: shifts, what a tag was, rows of a saved query. */
class TrendPlotsTest {

    private static final Site SITE = Site.demo();
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String QUERY = "b0b0b0b1";

    private static Instant end;
    private static TagRef one;
    private static TagRef other;
    private static TagRef lot;

    @BeforeAll
    static void fill() throws Exception {
        end = Instant.now().truncatedTo(ChronoUnit.HOURS);
        SourceDefinition works = (SourceDefinition)
                SITE.bean(Definitions.class).find(SITE.source("Targets")).orElseThrow();
        one = new TagRef(works.id(), works.tags().get(1).address());
        other = new TagRef(works.id(), works.tags().get(2).address());
        lot = new TagRef(works.id(), works.tags().get(3).address());
        SITE.bringIn(one, numbers(1));
        SITE.bringIn(other, numbers(100));
        Column texts = new Column(Column.Sort.TEXT, 4);
        texts.addText(ticks(36_000), "L-1", 0);
        texts.addText(ticks(20_000), "L-2", 0);
        texts.addText(ticks(5_000), "", Marks.of(Marks.Gap.AWAY));
        texts.addText(ticks(4_000), "L-3", 0);
        SITE.bringIn(lot, texts);
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_lab"));
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE campaign (name VARCHAR(20), began DATETIME, ended DATETIME NULL) AS SELECT 'Beech' AS name, NOW() - INTERVAL 30 HOUR AS began, NOW() - INTERVAL 5 HOUR AS ended UNION ALL SELECT 'Spruce', NOW() - INTERVAL 5 HOUR, NULL UNION ALL SELECT 'Backwards', NOW() - INTERVAL 2 HOUR, NOW() - INTERVAL 4 HOUR UNION ALL SELECT NULL, NOW() - INTERVAL 2 HOUR, NULL");
        }
        SITE.bean(Drafts.class)
                .edit(
                        new QueryDefinition(
                                        QUERY,
                                        "Campaigns",
                                        "",
                                        new WrittenQuery(
                                                SITE.named("Laboratory"),
                                                "SELECT name, began, ended FROM campaign WHERE began < :to AND (ended IS NULL OR ended > :from)"),
                                        "today",
                                        List.of())
                                .fitted(),
                        0,
                        "engineer");
    }

    private static long ticks(int secondsBefore) {
        return OpcUaTime.toTicks(end.minusSeconds(secondsBefore));
    }

    private static Column numbers(int scale) {
        Column column = new Column(Column.Sort.NUMBER, 600);
        for (int i = 600; i > 0; i--) {
            column.addNumber(ticks(60 * i), scale * (i % 10), 0);
        }
        return column;
    }

    private static TrendDefinition trend(String address) {
        String id = address.replaceAll("\\?.*", "").replaceAll(".*/", "");
        return SITE.bean(Definitions.class).find(TrendDefinition.class, id).orElseThrow();
    }

    private static JsonNode band(Visitor who, String trend, String band, Instant from, Instant to) throws Exception {
        String lines = who.get("/review/trends/" + trend + "/drawn?only=bands&begin=" + from.toEpochMilli() + "&end="
                        + to.toEpochMilli())
                .body();
        return TrendsTest.line(lines, "band", band);
    }

    private static String words(JsonNode band) {
        StringBuilder words = new StringBuilder(band.get("problem").asText());
        band.path("stretches").forEach(each -> words.append(each.get("name").asText())
                .append(' ')
                .append(Math.round(each.get("from").asDouble() - end.getEpochSecond()))
                .append(' ')
                .append(Math.round(each.get("to").asDouble() - end.getEpochSecond()))
                .append('\n'));
        return words.toString();
    }

    @Test
    void eachBandSaysWhatWasGoingOnOrWhyItCannot() throws Exception {
        String id = "b0b0b0b2";
        SITE.bean(Drafts.class)
                .edit(
                        new TrendDefinition(
                                id,
                                "Bands",
                                "",
                                "last 8 h",
                                List.of(
                                        Band.shifts("1"),
                                        new Band("2", "Lot", new BandSource.OfTag(lot)),
                                        new Band(
                                                "3",
                                                "Campaign",
                                                new BandSource.OfQuery(QUERY, "began", "ended", "name")),
                                        new Band("4", "Gone", new BandSource.OfTag(new TagRef(lot.source(), "gone")))),
                                List.of()),
                        0,
                        "engineer");
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(words(band(engineer, id, "2", end.minusSeconds(30_000), end.minusSeconds(1000))))
                .isEqualTo("L-1 -30000 -20000\nL-2 -20000 -5000\nL-3 -4000 -1000\n");
        // What has not been yet is nothing: the last value holds until now.
        JsonNode ahead = band(engineer, id, "2", end.minusSeconds(3000), end.plusSeconds(864_000));
        assertThat(ahead.get("stretches")).hasSize(1);
        assertThat(ahead.get("stretches").get(0).get("to").asDouble())
                .isLessThanOrEqualTo(Instant.now().getEpochSecond() + 1.0);
        // Shifts cover the window without a gap, one behind the other.
        JsonNode shifts =
                band(engineer, id, "1", end.minus(2, ChronoUnit.DAYS), end).get("stretches");
        assertThat(shifts.size()).isBetween(6, 7);
        for (int i = 1; i < shifts.size(); i++) {
            assertThat(shifts.get(i).get("from")).isEqualTo(shifts.get(i - 1).get("to"));
        }
        JsonNode campaigns = band(engineer, id, "3", end.minus(2, ChronoUnit.DAYS), end.plusSeconds(7200));
        assertThat(campaigns.get("problem").asText()).isEmpty();
        assertThat(campaigns.get("stretches")).hasSize(2);
        assertThat(campaigns.get("told").asText()).startsWith("2 rows are left out: without a name");
        assertThat(campaigns.get("stretches").get(1).get("name").asText()).isEqualTo("Spruce");
        assertThat(campaigns.get("stretches").get(1).get("to").asLong())
                .isEqualTo(end.plusSeconds(7200).getEpochSecond());
        assertThat(words(band(engineer, id, "4", end.minusSeconds(10), end))).contains("not there any more");
        assertThat(words(band(engineer, id, "1", end.minus(3000, ChronoUnit.DAYS), end)))
                .contains("more than 300 stretches");
        assertThat(words(band(engineer, id, "1", end, end))).contains("from a time after 1970");
        assertThat(engineer.get("/review/trends/" + id + "/drawn?only=curves&begin=1&end=2")
                        .body())
                .isEmpty();
        SITE.bean(Drafts.class)
                .edit(
                        ((TrendDefinition) SITE.bean(Definitions.class).find(id).orElseThrow())
                                .under(List.of(
                                        new Band("1", "Wrong", new BandSource.OfQuery(QUERY, "begun", "ended", "name")),
                                        new Band("2", "None", new BandSource.OfQuery("b0b0b0b9", "a", "b", "c")))),
                        SITE.bean(Drafts.class).revision(id),
                        "engineer");
        assertThat(words(band(engineer, id, "1", end.minusSeconds(10), end)))
                .isEqualTo("The query gives no column begun. It gives name, began, ended.");
        assertThat(words(band(engineer, id, "2", end.minusSeconds(10), end)))
                .isEqualTo("The saved query is not there any more.");
    }

    /** Who changed what a tag is: the release of the demo, and then somebody who drafts another unit. */
    @Test
    void tagsAreFoundByWhoChangedThemAndWhen() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        // Other tests may have changed a few before.
        soon(() -> found(engineer, "&by=demo") > 0);
        int byDemo = found(engineer, "&by=demo");
        int byEngineer = found(engineer, "&by=engineer");
        int drafted = found(engineer, "&designed=drafted");
        assertThat(byDemo).isLessThanOrEqualTo(found(engineer, ""));
        assertThat(found(engineer, "&by=demo&designed=1+h")).isEqualTo(byDemo);
        String key = JSON.readTree(
                        engineer.get("/plant/tags?unit=t%2Fh&by=demo").body())
                .get("rows")
                .get(0)
                .get("key")
                .asText();
        unit(engineer, key, "kg/h");
        assertThat(found(engineer, "&designed=drafted")).isEqualTo(drafted + 1);
        assertThat(found(engineer, "&by=engineer")).isEqualTo(byEngineer + 1);
        assertThat(found(engineer, "&by=demo")).isEqualTo(byDemo - 1);
        assertThat(card(engineer, key)).containsPattern("id=\"tag-changed\">[-0-9: ]+ by engineer, drafted<");
        unit(engineer, key, "t/h");
        assertThat(found(engineer, "&by=engineer")).isEqualTo(byEngineer);
        assertThat(card(engineer, key)).containsPattern("id=\"tag-changed\">[-0-9: ]+ by demo<");
        assertThat(engineer.get("/plant/tags?designed=lately").statusCode()).isEqualTo(400);
        // What an address asks for stays asked for, though nothing is like it.
        String none = engineer.get("/plant?by=nobody&unit=furlongs").body();
        assertThat(none).contains(">by nobody</option>", ">furlongs</option>", ">0 tags<");
    }

    private static String card(Visitor who, String key) throws Exception {
        return who.get("/plant/tag?key=" + URLEncoder.encode(key, StandardCharsets.UTF_8))
                .body();
    }

    private static void unit(Visitor who, String key, String unit) throws Exception {
        Matcher seen = Pattern.compile("name=\"seen\" value=\"(\\d+)\"").matcher(card(who, key));
        assertThat(seen.find()).isTrue();
        assertThat(who.post("/plant/tag/facts", "key", key, "unit", unit, "seen", seen.group(1))
                        .statusCode())
                .isEqualTo(302);
    }

    private static int found(Visitor who, String asked) throws Exception {
        return JSON.readTree(who.get("/plant/tags?count=1" + asked).body())
                .get("total")
                .asInt();
    }

    /** The list of tags is where they are found, by unit and equipment too; those that are ticked are drawn or asked together. */
    @Test
    void tagsThatAreTickedInTheirListAreDrawnOrAsked() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        JsonNode all = JSON.readTree(engineer.get("/plant/tags?count=500").body());
        JsonNode tonnes =
                JSON.readTree(engineer.get("/plant/tags?count=500&unit=t%2Fh").body());
        assertThat(tonnes.get("total").asInt()).isBetween(1, all.get("total").asInt() - 1);
        tonnes.get("rows").forEach(row -> assertThat(row.get("unit").asText()).isEqualTo("t/h"));
        JsonNode ofLine = JSON.readTree(
                engineer.get("/plant/tags?count=500&equipment=PL1").body());
        assertThat(ofLine.get("total").asInt()).isBetween(1, all.get("total").asInt() - 1);
        String first = ofLine.get("rows").get(0).get("key").asText();
        String second = ofLine.get("rows").get(1).get("key").asText();
        assertThat(JSON.readTree(engineer.get("/plant/tags?unit=furlongs").body())
                        .get("total")
                        .asInt())
                .isZero();
        TrendDefinition drawn = trend(engineer.post("/review/trends/new", "tag", first, "tag", second)
                .headers()
                .firstValue("Location")
                .orElseThrow());
        assertThat(drawn.curves()).hasSize(2);
        assertThat(drawn.name()).endsWith(" and others");
        assertThat(engineer.post("/review/trends/new", "tag", first, "tag", "nothing like it")
                        .headers()
                        .firstValue("Location"))
                .contains("/plant");
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/plant?equipment=PL1");
            actor.click("#tags tbody tr:nth-child(2) input");
            actor.click("#tags tbody tr:nth-child(3) input");
            actor.click("#ask-these");
            actor.see("#query-lines .chip:nth-of-type(2)");
            assertThat(actor.texts("#query-lines .chip")).hasSize(2);
            actor.go("/plant?unit=t%2Fh");
            actor.click("#tags tbody tr:nth-child(2) input");
            actor.click("#draw-these");
            actor.see(".readings [data-curve='1']", "t/h");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    @Test
    void aPlotIsMadeAgainOfAnotherTagUnderItsLots() throws Exception {
        Definitions definitions = SITE.bean(Definitions.class);
        String address;
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review/trends");
            actor.click("#new-trend");
            actor.fill("#add-words", definitions.tag(one).orElseThrow().name());
            actor.click("#add-picks .pick[data-key='" + one.source() + " " + one.address() + "']");
            actor.see(".readings", definitions.tag(one).orElseThrow().name());
            actor.fill("#window", end.minusSeconds(36_000) + " to " + end);
            actor.click("#trend-window button");
            actor.see(".trend-one canvas");
            actor.click(".plot-head button");
            actor.see(".plot-head", "Plot 2");
            assertThat(actor.texts(".readings [data-plot='2']")).hasSize(1);
            actor.click(".readings [data-plot='2'] .curve-edit summary");
            actor.fill("#other-2", definitions.tag(other).orElseThrow().name());
            actor.click("#others-2 .pick[data-key='" + other.source() + " " + other.address() + "']");
            actor.see(
                    ".readings [data-curve='2']",
                    definitions.tag(other).orElseThrow().name());
            soon(() -> actor.browser
                    .executeScript("return document.querySelectorAll('.trend-one canvas').length")
                    .equals(2L));
            actor.see(".readings [data-curve='1']", "9.000");
            actor.see(".readings [data-curve='2']", "900.000");
            // One time stands under the other, whatever the scales need.
            assertThat(
                            actor.browser.executeScript(
                                    "const [a, b] = [...document.querySelectorAll('.trend-one .u-over')].map(each => each.getBoundingClientRect()); return [a.left - b.left, a.width - b.width].join()"))
                    .isEqualTo("0,0");
            actor.click("#add-band summary");
            actor.fill("#band-words", definitions.tag(lot).orElseThrow().name());
            actor.click("#band-picks .pick[data-key='" + lot.source() + " " + lot.address() + "']");
            actor.see("#trend-bands", definitions.tag(lot).orElseThrow().name());
            actor.click("#trend-bands [data-band='1'] button.danger");
            soon(() -> actor.texts("#trend-bands li").size() == 1);
            actor.click("#add-band summary");
            actor.click("#add-shifts");
            actor.see("#trend-bands", "the plant's shift calendar");
            assertThat(actor.texts("#add-shifts")).isEmpty();
            actor.click("#add-band summary");
            actor.choose("#band-query", QUERY);
            actor.see("#band-begins");
            actor.choose("#band-begins", "began");
            actor.choose("#band-ends", "ended");
            actor.choose("#band-names", "name");
            actor.click("#query-band button");
            actor.see("#trend-bands", "Campaigns");
            actor.see("#trend-bands", "2 rows are left out");
            actor.click("#trend-bands [data-band='3'] form:first-of-type button");
            actor.see("#trend-bands li:first-child", "Campaigns");
            actor.see("#trend-bands li:first-child", "lies behind the curves");
            soon(() -> actor.texts("#reading-bands").get(0).contains("L-3"));
            actor.see("#reading-bands", "Campaigns: Spruce");
            actor.click("#trend-svg");
            String svg = (String) actor.browser.executeScript("return document.getElementById('trend-plot').svg");
            assertThat(svg).contains(">L-1</title>", ">L-2</title>", ">Beech</title>");
            // A curve goes to a plot of its own and back; a plot without curves is gone.
            actor.click(".readings [data-curve='2'] .curve-edit summary");
            actor.choose("#plot-2", "1");
            actor.click(".readings [data-curve='2'] .curve-edit button.btn-primary");
            soon(() -> actor.texts(".plot-head").size() == 1);
            assertThat(actor.complaints()).isEmpty();
            address = actor.browser.getCurrentUrl();
        }
        TrendDefinition made = trend(address);
        assertThat(made.curves())
                .extracting(Curve::from)
                .containsExactly(new CurveSource.OfTag(one), new CurveSource.OfTag(other));
        assertThat(made.bands())
                .extracting(Band::from)
                .containsExactly(
                        new BandSource.OfQuery(QUERY, "began", "ended", "name"),
                        new BandSource.OfTag(lot),
                        new BandSource.OfShifts());
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        assertThat(engineer.get("/release").body())
                .contains(definitions.find(made.id()).orElseThrow().name());
        // Too many plots are a sentence, and nothing is lost.
        for (int i = 0; i < 8; i++) {
            engineer.post(
                    "/review/trends/" + made.id() + "/plots/1/again",
                    "seen",
                    Integer.toString(SITE.bean(Drafts.class).revision(made.id())));
        }
        assertThat(trend(address).plots()).containsExactly(1, 2, 3, 4, 5, 6);
        assertThat(trend(address).curves()).hasSize(12);
        engineer.post(
                "/review/trends/" + made.id() + "/plots/2/remove",
                "seen",
                Integer.toString(SITE.bean(Drafts.class).revision(made.id())));
        assertThat(trend(address).plots()).containsExactly(1, 2, 3, 4, 5);
    }
}
