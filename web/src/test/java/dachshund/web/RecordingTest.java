package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** An engineer designs recorders of every shape, maps a table that is there, rehearses, tries, releases, repeats and rolls back. */
class RecordingTest {

    private static Site site;
    private static Tables tables;
    private static Actor actor;

    @BeforeAll
    static void start() {
        site = Site.demo();
        tables = new Tables(site.database.url("quillmoor_records"));
        actor = new Actor(site).signIn("engineer", "engineer-demo");
        actor.see("main");
    }

    @AfterAll
    static void stop() {
        actor.close();
    }

    /** The next one begins with what is released. */
    @AfterEach
    void discard() throws Exception {
        new Visitor(site).signIn("engineer", "engineer-demo").post("/release/discard");
    }

    private static void newRecorder(String name, String... searches) {
        actor.go("/records");
        actor.click(".title-line button.btn-primary");
        actor.see("#design");
        actor.edit(() -> actor.fillAndLeave("#recorder-name", name));
        for (String search : searches) {
            add(search);
        }
    }

    private static void add(String search) {
        actor.fill("#add-tag", search);
        actor.edit(() -> actor.click("#found form:first-child button"));
    }

    private static void release(String... consequences) {
        actor.click("#review");
        for (String each : consequences) {
            actor.see(".review", each);
        }
        actor.click("#release");
        actor.see("#notice", "is live.");
    }

    @Test
    void aRowPerTagOnChangeIsRehearsedAndReleased() throws Exception {
        newRecorder("Mill changes", "HM1 vibration", "HM2 vibration", "HM1 motor power");
        actor.see("#unreleased", "Unreleased changes (");
        actor.edit(() -> actor.choose("#shape", "ROW_PER_TAG"));
        actor.see("table.lines");
        assertThat(actor.texts("table.lines tbody tr")).hasSize(3);
        actor.edit(() -> actor.choose("#when-0 [name=kind]", "CHANGE"));
        actor.see("#when-0", "not more often than");
        actor.see("#rehearsed .row-label", "rehearsed");
        actor.see("#ribbon", "rows an hour");
        actor.edit(() -> actor.choose("#when-0 [name=deadband]", "ABSOLUTE"));
        actor.edit(() -> actor.fillAndLeave("#when-0 [name=amount]", "much"));
        actor.see("#when-0 .field-problem", "A deadband is a number");
        actor.edit(() -> actor.fillAndLeave("#when-0 [name=amount]", "0.02"));
        actor.see("#when-0 [name=amount]");
        actor.see("#now", "HM1");
        release("Makes the table mill_changes in Production.");
        soon(() -> tables.count("SELECT COUNT(*) FROM mill_changes WHERE value_number > 0 AND quality = 'Good'") > 5);
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT row_id) FROM mill_changes"))
                .isZero();
        assertThat(tables.query("SELECT DISTINCT equipment FROM mill_changes ORDER BY 1"))
                .contains(List.of("HM1"), List.of("HM2"));
    }

    @Test
    void aDocumentWithAGateAndAConditionThatSpeaksOfAnotherTag() throws Exception {
        newRecorder("Cooler documents");
        actor.edit(() -> actor.choose("#shape", "DOCUMENT"));
        actor.see("#columns", "document of 0 fields");
        add("cooler outlet temperature");
        add("PL1 pellet output");
        actor.see(".fields", "outlet_temperature");
        actor.click(".fields .chip:first-of-type");
        actor.fill("#f-name", "cooler.outlet");
        actor.fill("#f-type", "decimal(6,1)");
        actor.click("#column-editor .btn-primary");
        actor.see("#now", "{\"cooler\":{\"outlet\":");
        actor.edit(() -> actor.choose("#when-0 [name=kind]", "CONDITION"));
        actor.see("#when-0 [name=condition]");
        actor.see(".when .must", "cannot be read");
        actor.edit(() -> actor.fillAndLeave("#when-0 [name=condition]", "pellet_output > 1000000"));
        actor.see(".condition-inputs", "pellet_output is");
        actor.edit(() -> actor.choose("#add-when", "WHILE"));
        actor.see("#when-1 [name=condition]");
        actor.fill("#input-when-1", "silo S1 level");
        actor.edit(() -> actor.click("#found-when-1 button"));
        actor.see("#when-1 [name=condition]");
        actor.see(".when-line:nth-of-type(3) .condition-inputs, .condition-inputs", "level is");
        actor.edit(() -> actor.fillAndLeave("#when-1 [name=condition]", "level >= 0"));
        actor.edit(() -> actor.click("#add-gate"));
        actor.edit(() -> actor.fillAndLeave("#gate [name=condition]", "pellet_output >= 0"));
        actor.see("#rehearsed .row-label");
        release("Gate", "pellet_output");
        assertThat(site.recorder("Cooler documents")).isNotEmpty();
        // While true ticks from its rise; a level is there all the time, so a period after the start.
        soon(() ->
                tables.count("SELECT COUNT(*) FROM cooler_documents WHERE JSON_VALUE(document, '$.cooler.outlet') > 0")
                        > 2);
    }

    @Test
    void anExistingTableIsMappedAndATypeConflictExplained() throws Exception {
        tables.execute(
                "CREATE TABLE old_dryer (stamp DATETIME(3), record_time DATETIME(3) NOT NULL, outlet_temperature INT, fan_speed DOUBLE, fan DOUBLE, operator VARCHAR(20) NOT NULL DEFAULT '?', KEY (record_time))");
        newRecorder("Old dryer", "drum dryer outlet temperature", "drum dryer fan speed");
        actor.see(".where");
        actor.click(".where .table-line button");
        actor.see(".where .found", "old_dryer");
        actor.click("[data-choose=table0][data-value=old_dryer]");
        actor.see(".where .problem", "outlet_temperature of old_dryer is int(11); this layout writes double there");
        actor.click("#review");
        actor.see(".review .must", "Make it integer here, or write to another column.");
        assertThat(actor.see("#release").isEnabled()).isFalse();
        actor.browser.navigate().back();
        actor.click("#take-0");
        actor.see("#columns", "operator");
        assertThat(actor.texts("#columns .c-name"))
                .contains("stamp", "record_time", "outlet_temperature", "fan_speed", "operator")
                .doesNotContain("row_id", "id");
        // An int takes a temperature when it is rounded, and the unknown columns go.
        for (String gone : List.of("stamp", "operator")) {
            int at = actor.texts("#columns .c-name").indexOf(gone) + 1;
            actor.click("#columns th:nth-child(" + at + ") button");
            actor.see("#column-editor", "constant");
            actor.edit(() -> actor.click("#column-editor .danger"));
            assertThat(actor.texts("#columns .c-name")).doesNotContain(gone);
        }
        // A constant gives its place to a tag, under the name and type that the table has.
        int fan = actor.texts("#columns .c-name").indexOf("fan") + 1;
        actor.click("#columns th:nth-child(" + fan + ") button");
        actor.see("#column-editor", "constant");
        actor.fill("#add-feed", "drum dryer inlet temperature");
        actor.edit(() -> actor.click("#found-feed button"));
        actor.see("#columns .c-source", "Inlet temperature");
        int outlet = actor.texts("#columns .c-name").indexOf("outlet_temperature") + 1;
        actor.click("#columns th:nth-child(" + outlet + ") button");
        actor.click("#column-editor summary");
        actor.fill("#f-decimals", "many");
        actor.click("#column-editor .btn-primary");
        actor.see("#p-decimals", "Round to 0 to 10 digits");
        actor.fill("#f-decimals", "0");
        actor.click("#column-editor .btn-primary");
        actor.see("#columns .c-source", "Outlet temperature [°C] *");
        actor.click("[data-key=t]");
        actor.see(".result.worked", "written and rolled back");
        assertThat(tables.count("SELECT COUNT(*) FROM old_dryer")).isZero();
        release("The table old_dryer in Production is there and stays as it is; rows are added.");
        soon(() -> tables.count(
                        "SELECT COUNT(*) FROM old_dryer WHERE outlet_temperature BETWEEN 20 AND 300 AND operator = '?'")
                > 2);
    }

    @Test
    void rowsKeptUpByTheirKeyAlsoIntoAFileAShift() throws Exception {
        newRecorder("Latest of the bagger", "BG1 lot id", "BG1 bag count");
        actor.click("#columns th:nth-child(4) button");
        actor.click("#column-editor [name=key]");
        actor.click("#column-editor .btn-primary");
        actor.see("#columns .c-key", "key");
        actor.edit(() -> actor.choose("#mode0", "INSERT_OR_UPDATE"));
        actor.see(".where .guarantee", "finds its own key");
        String files = destination("Event files");
        actor.click(".where.new form:has(input[value='" + files + "']) button");
        actor.see("#table1");
        actor.edit(() -> actor.fillAndLeave("#table1", "../bags"));
        actor.see(".where:nth-of-type(2) .field-problem", "A file name has letters");
        actor.edit(() -> actor.fillAndLeave("#table1", "bags_{who}"));
        actor.see(".where:nth-of-type(2) .field-problem", "{who} stands for nothing");
        actor.edit(() -> actor.fillAndLeave("#table1", "bags_{shift date}_{shift}"));
        actor.see(".where:nth-of-type(2) .guarantee", "the end of the file is compared");
        release("Writes files bags_{shift date}_{shift} in Event files.");
        soon(() -> tables.count("SELECT COUNT(*) FROM latest_of_the_bagger") >= 1 && lines() > 3);
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT lot_id) FROM latest_of_the_bagger"))
                .isZero();
    }

    @Test
    void theRowNamesItsDatabaseAndItsDestination() throws Exception {
        newRecorder("Mills apart", "HM1 vibration", "HM2 vibration");
        actor.edit(() -> actor.choose("#shape", "ROW_PER_TAG"));
        actor.click(".elsewhere summary");
        actor.edit(() -> actor.fillAndLeave("#database0", "records_{who}"));
        actor.see(".elsewhere .field-problem", "{who} stands for nothing");
        assertThat(actor.see("#database0").getDomProperty("value"))
                .as("what was typed is kept")
                .isEqualTo("records_{who}");
        actor.edit(() -> actor.fillAndLeave("#database0", "quillmoor_records_{equipment}"));
        actor.edit(() -> actor.fillAndLeave("#named0", "{equipment} apart"));
        actor.see(".elsewhere", "A row whose name no destination has goes to Production.");
        release("quillmoor_records_{equipment}", "{equipment} apart");
        for (String mill : List.of("HM1", "HM2")) {
            soon(() -> tables.count("SELECT COUNT(*) FROM quillmoor_records_" + mill
                            + ".mills_apart WHERE equipment = '" + mill + "'")
                    > 2);
            assertThat(tables.count("SELECT COUNT(*) FROM quillmoor_records_" + mill
                            + ".mills_apart WHERE equipment <> '" + mill + "'"))
                    .isZero();
        }
        actor.go("/records/" + site.recorder("Mills apart"));
        actor.see("#status", "no destination named HM1 apart, HM2 apart; such rows go to the usual one");

        actor.go("/records/destinations/new?kind=sqlite");
        actor.fill("#f-name", "HM2 apart");
        actor.click("button[name=save]");
        actor.see("#notice", "opened records.db");
        actor.go("/release");
        actor.see(".review", "HM2 apart");
        actor.click("#release");
        actor.see("#notice", "is live.");
        soon(() -> {
            List<String> counts = new Tables("jdbc:sqlite:" + only("quillmoor_records_HM2"))
                    .query(
                            "SELECT COUNT(*) > 2, COUNT(*) = COUNT(DISTINCT row_id), COUNT(*) = SUM(equipment = 'HM2') FROM mills_apart")
                    .get(0);
            return counts.equals(List.of("1", "1", "1"));
        });
    }

    /** The file of a name's beginning, wherever the site keeps it. */
    private static Path only(String name) throws IOException {
        try (Stream<Path> files = Files.walk(site.folder)) {
            return files.filter(each -> each.getFileName().toString().startsWith(name))
                    .min(Comparator.comparing(Path::toString))
                    .orElseThrow();
        }
    }

    private static String destination(String name) {
        return site.bean(Definitions.class).all(dachshund.core.definition.DestinationDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow()
                .id();
    }

    private static long lines() throws Exception {
        Path folder = site.folder.resolve("files/events");
        if (!Files.isDirectory(folder)) {
            return 0;
        }
        try (Stream<Path> files = Files.list(folder)) {
            Path file = files.filter(each -> each.getFileName()
                            .toString()
                            .matches("bags_\\d{4}-\\d\\d-\\d\\d_(Early|Late|Night)\\.jsonl"))
                    .findFirst()
                    .orElse(null);
            return file == null ? 0 : Files.readAllLines(file).size();
        }
    }

    @Test
    void aDesignIsRepeatedForThreeLinesTheOriginalEditedAndAllRolledBack() throws Exception {
        newRecorder("Press of PL1", "PL1 die temperature", "PL1 main motor power");
        actor.click("#line-up");
        actor.see("#offers", "PL3");
        assertThat(actor.texts("#offers tbody tr"))
                .hasSize(2)
                .anyMatch(line ->
                        line.contains("Press of PL2") && line.contains("press_of_pl2") && line.contains("all 2 tags"));
        actor.click("#make");
        actor.see("#notice", "2 recorders are drafted.");
        assertThat(actor.texts("#lines tbody tr")).hasSize(2).allMatch(line -> line.contains("yes"));
        actor.click(".title-line a.btn-primary");
        actor.see(".review", "Follows Press of PL1.");
        actor.click("#release");
        actor.see("#notice", "is live.");
        for (String table : List.of("press_of_pl1", "press_of_pl2", "press_of_pl3")) {
            soon(() -> tables.count("SELECT COUNT(*) FROM " + table + " WHERE die_temperature > 0") > 0);
        }
        long before = site.bean(Definitions.class).release();

        actor.go("/records/" + site.recorder("Press of PL2"));
        actor.edit(() -> actor.fillAndLeave("#period", "3 s"));
        actor.see(".draft-line");
        String id = site.recorder("Press of PL1");
        actor.go("/records/" + id);
        actor.edit(() -> actor.fillAndLeave("#period", "500 ms"));
        actor.see(".draft-line");
        actor.click("#line-up");
        actor.see("#lines", "behind");
        assertThat(actor.texts("#lines tbody tr")).hasSize(2).allMatch(line -> line.contains("behind"));
        actor.see("#lines .own-edits", "edited by hand: 1");
        actor.fill("#lines-text", "name;rate;equipment\nPress of PL3;2 s;no such machine");
        actor.click("form[action$='/line-up/lines'] button");
        actor.see(".advice .must", "Line 2: there is no equipment named no such machine.");
        actor.click("#bring");
        actor.see("#notice", "2 lines are brought along, as drafts. 1 keeps what was edited by hand.");
        actor.click(".title-line a.btn-primary");
        actor.see(".review", "When from every 1 s to every 500 ms.");
        actor.click("#release");
        actor.see("#notice", "is live.");
        assertThat(sentence("Press of PL3")).isEqualTo("every 500 ms");
        assertThat(sentence("Press of PL2")).isEqualTo("every 3 s");
        actor.go("/records/" + id + "/line-up");
        actor.click("#lines .own-edits summary");
        actor.click("#lines .own-edits [name=drop]");
        actor.click("#lines .own-edits button");
        actor.see("#notice", "1 line is brought along, as drafts.");
        assertThat(((RecorderDefinition) site.bean(Definitions.class)
                                .find(site.recorder("Press of PL2"))
                                .orElseThrow())
                        .whens()
                        .get(0)
                        .sentence())
                .isEqualTo("every 500 ms");
        discard();

        actor.go("/release");
        actor.click(".past details:nth-of-type(2) summary");
        actor.click("#roll-back-" + before);
        actor.see("#notice", "This is what release " + before + " was, as drafts.");
        actor.see(".review", "When from every 500 ms to every 1 s.");
        actor.click("#release");
        actor.see("#notice", "is live.");
        assertThat(sentence("Press of PL3")).isEqualTo("every 1 s");
        assertThat(sentence("Press of PL1")).isEqualTo("every 1 s");
    }

    private static String sentence(String recorder) {
        return ((RecorderDefinition) site.bean(Definitions.class)
                        .live(site.recorder(recorder))
                        .orElseThrow())
                .whens()
                .get(0)
                .sentence();
    }

    @Test
    void shiftsThatOverlapOrCannotBeReadAreSaidAndLoseNothing() {
        actor.go("/plant/shifts");
        actor.see(".week");
        actor.fill("tbody tr:nth-child(2) [name=start]", "13:30");
        actor.fill("#holidays", "Christmas");
        actor.click("#shifts-form .btn-primary");
        actor.see(".problem", "Early and Late run at the same time.");
        actor.see(".problem", "Holidays stand one a line with their date first");
        assertThat(actor.see("tbody tr:nth-child(2) [name=start]").getDomProperty("value"))
                .isEqualTo("13:30");
        assertThat(actor.see("#holidays").getDomProperty("value")).isEqualTo("Christmas");
        actor.fill("tbody tr:nth-child(2) [name=start]", "14:00");
        actor.fill("#holidays", "2026-12-25 Christmas Day");
        actor.click("#shifts-form .btn-primary");
        actor.see("#notice", "The shift calendar is drafted");
        actor.go("/release");
        actor.see(".review", "Holidays from nothing to 2026-12-25 Christmas Day.");
    }

    @Test
    void aWholeConfigurationGoesOutAndComesBackReviewed() throws Exception {
        Visitor visitor = new Visitor(site).signIn("engineer", "engineer-demo");
        String exported = visitor.get("/release/export").body();
        assertThat(exported).contains("\"Dryer log\"").doesNotContain("sealed:");
        assertThat(visitor.post("/release/import", "text", exported)
                        .headers()
                        .firstValue("Location")
                        .orElse(""))
                .endsWith("/release");
        assertThat(site.bean(Definitions.class).drafts())
                .as("nothing differs, and the password was kept")
                .isEmpty();
        visitor.post(
                "/release/import", "text", exported.replace("\"name\" : \"Dryer log\"", "\"name\" : \"Dryer diary\""));
        actor.go("/release");
        actor.see(".review", "Name from Dryer log to Dryer diary.");
        assertThat(visitor.post("/release/import", "text", "{\"half\":").body()).contains("This is no JSON");
        assertThat(visitor.post("/release/import", "text", "{\"file\":\"something\"}")
                        .body())
                .contains("no configuration that was exported here");
    }

    @Test
    void linesGoOutAsCsvAndComeBackFromASpreadsheet() throws Exception {
        Visitor visitor = new Visitor(site).signIn("engineer", "engineer-demo");
        String path = "/records/" + site.recorder("Pellet line 1") + "/line-up";
        String lines = visitor.get(path + "/lines.csv").body();
        assertThat(lines.lines().toList())
                .hasSize(3)
                .anyMatch(line -> line.startsWith("Pellet line 3,PL3,pellet_line_3,,"));
        visitor.post(path + "/lines", "text", lines);
        assertThat(site.bean(Definitions.class).drafts()).as("nothing differs").isEmpty();
        assertThat(visitor.post(path + "/lines", "text", lines.replace(",rate,", ",rat,"))
                        .body())
                .contains("There is no column named so: &quot;rat&quot;")
                .contains("name, equipment, table, rate");
        visitor.post(
                path + "/lines",
                "text",
                lines.replace("Pellet line 3,PL3,pellet_line_3,", "Pellet line 3,PL3,pellet_line_three,30 s")
                        .replace("Pellet line 2,", "Pellet line 2b,"));
        actor.go("/release");
        actor.see(".review", "When from every 10 s to every 30 s.");
        actor.see(".review", "Writes to table pellet_line_three in Production");
        actor.see(".review", "Recorder Pellet line 2b");
    }

    @Test
    void aGapOfSeveralLinesIsDecidedOnce() throws Exception {
        Visitor visitor = new Visitor(site).signIn("engineer", "engineer-demo");
        String path = "/records/" + site.recorder("Pellet line 1") + "/line-up";
        String lines = visitor.get(path + "/lines.csv").body();
        visitor.post(path + "/lines", "text", lines.replaceAll("(?m)^(Pellet line .*),[^,\r]*\r?$", "$1,"));
        actor.go(path);
        actor.see("#shared-gaps", "2 lines have no ");
        actor.click("#shared-gaps form:nth-of-type(1) button");
        actor.see("#notice", "is left out in 2 lines.");
        assertThat(actor.texts("#shared-gaps")).isEmpty();
        assertThat(visitor.get(path + "/lines.csv").body().lines().skip(1))
                .hasSize(2)
                .allMatch(line -> line.endsWith(",left out"));
    }

    @Test
    void aPageThatStandsOpenAsksForItsRowsNowAndThen() throws Exception {
        actor.go("/records/" + site.recorder("Dryer log"));
        actor.see("#last");
        String asked =
                "return performance.getEntriesByType('resource').filter(each => each.name.endsWith('/last')).map(each => each.startTime)";
        soon(() -> ((List<?>) actor.browser.executeScript(asked)).size() >= 3);
        List<?> times = (List<?>) actor.browser.executeScript(asked);
        for (int i = 1; i < times.size(); i++) {
            assertThat(((Number) times.get(i)).doubleValue() - ((Number) times.get(i - 1)).doubleValue())
                    .as("it asks again after two seconds, and does not hurry")
                    .isGreaterThan(1000);
        }
    }

    @Test
    void aFieldListGoesOutAndComesBack() throws Exception {
        Visitor visitor = new Visitor(site).signIn("engineer", "engineer-demo");
        String id = site.recorder("Dryer log");
        String path = "/records/" + id;
        Drafts drafts = site.bean(Drafts.class);
        String list = visitor.get(path + "/fields.csv").body();
        assertThat(list).contains("outlet_temperature,double,,,tag,Pellet works:");
        visitor.post(path + "/fields-in", "text", list, "seen", Integer.toString(drafts.revision(id)));
        assertThat(site.bean(Definitions.class).drafts()).as("nothing differs").isEmpty();
        visitor.post(
                path + "/fields-in",
                "text",
                list.replace("outlet_temperature,double", "outlet_c,\"decimal(6,1)\""),
                "seen",
                Integer.toString(drafts.revision(id)));
        actor.go("/release");
        actor.see(".review", "to column outlet_c instead of outlet_temperature");
        assertThat(visitor.post(
                                path + "/fields-in",
                                "text",
                                "name,type,source,of\nx,varchr(3),constant,1\n,double,constant,2\ny,double,tag,nowhere",
                                "seen",
                                Integer.toString(drafts.revision(id)))
                        .body())
                .contains("Line 2: type: There is no type", "Line 3: the name is missing.", "Line 4: there is no tag");
    }

    @Test
    void statementsOfAnEngineThatWasNeverRunAreShownAndNotReleased() {
        actor.go("/records/destinations/new?kind=sqlserver");
        actor.see(".problem", "never executed");
        actor.fill("#f-name", "Head office");
        actor.fill("#f-database", "records");
        actor.click("button[name=save]");
        actor.see("#notice", "Saved, not tested.");
        newRecorder("For head office", "PL1 pellet output");
        actor.click(".where.new form:has(input[value='" + destination("Head office") + "']) button");
        actor.see(".where:nth-of-type(2) summary", "Statements for SQL Server, generated, never executed here");
        actor.click("#review");
        actor.see(".review .must", "its statements are generated and were never executed");
    }
}
