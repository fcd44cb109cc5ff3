package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The whole path, as somebody goes it who opens an empty installation for the first time and uses nothing but the pages. */
class FirstRecorderTest {

    private static Site site;
    private static Tables tables;

    @BeforeAll
    static void start() throws Exception {
        site = new Site(false);
        tables = new Tables(site.database.url(""));
        tables.execute("CREATE DATABASE plant_records");
        tables.execute("CREATE USER recorder@'127.0.0.1' IDENTIFIED BY 'secret-of-the-test'");
        tables.execute("GRANT ALL ON plant_records.* TO recorder@'127.0.0.1'");
    }

    @AfterAll
    static void stop() {
        site.close();
    }

    @Test
    void fiveDryerTagsEverySecondIntoANewTableInAboutTwentyActions() throws Exception {
        try (Actor actor = new Actor(site)) {
            // "admin / xxxx-xxxx-xxxx-xxxx   (one-time password; …)", as the launcher prints it
            String once = Files.readString(site.folder.resolve("first-sign-in")).split("\\s+")[2];
            actor.signIn("admin", once);
            actor.fill("#present", once);
            actor.fill("#next", "a password of my own");
            actor.fill("#again", "a password of my own");
            actor.click("main form button");
            actor.see("#notice", "Your password is changed.");
            int signingIn = actor.actions();

            actor.countFromHere();
            actor.click(".empty a.btn-primary");
            actor.click("#kind-opcua");
            actor.fill("#f-address", site.plant.address());
            actor.click("button[name=save]");
            actor.see("#notice", "Quillmoor Pellet Works answered");
            actor.click("button[name=all]");
            actor.fill("#q", "temperature drum dryer");
            actor.see("#tag-count", "3 tags");
            tick(actor, "Inlet temperature", "Outlet temperature");
            actor.fill("#q", "drum dryer");
            actor.see("#tag-count", "17 tags");
            tick(actor, "Fan speed", "Wet chip feed");
            actor.fill("#q", "moisture in");
            actor.see("#tag-count", "2 tags");
            tick(actor, "Chip moisture in");
            actor.see("#ticked", "5 ticked");
            actor.click("#record-these");
            actor.see("#recorder-name");
            assertThat(actor.see("#period").getDomProperty("value")).isEqualTo("1 s");
            actor.click(".where.new a.btn");
            actor.fill("#f-port", Integer.toString(site.database.port()));
            actor.fill("#f-database", "plant_records");
            actor.fill("#f-user", "recorder");
            actor.fill("#f-password", "secret-of-the-test");
            actor.click("button[name=save]");
            actor.see(".where", "The table will be made before the first row.");
            actor.click("#review");
            actor.see(".review", "Makes the table drum_dryer_log in plant_records.");
            actor.click("#release");
            actor.see("#notice", "Release 1 is live.");
            actor.see("#last tr.landed");
            int working = actor.actions();

            System.out.println("First recorder: " + working + " actions, and " + signingIn
                    + " for the first sign-in with its own password.");
            assertThat(working).isLessThanOrEqualTo(22);
            actor.see("#status", "Recording");
            soon(() -> tables.count("SELECT COUNT(*) FROM plant_records.drum_dryer_log") >= 5);
            assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT row_id) FROM plant_records.drum_dryer_log"))
                    .isZero();
            assertThat(
                            tables.count(
                                    "SELECT COUNT(*) FROM plant_records.drum_dryer_log WHERE inlet_temperature NOT BETWEEN 50 AND 600 OR MICROSECOND(record_time) <> 0"))
                    .isZero();
            actor.see("#rows-plot canvas");

            editedAndReleasedAgain(actor);
            downloaded();
            assertThat(actor.complaints()).isEmpty();
        }
    }

    private static void tick(Actor actor, String... tags) {
        for (String tag : tags) {
            actor.click("tr[data-key$='/" + tag + "'] input");
        }
    }

    /** A column more and another rate, on a recorder that runs. */
    private void editedAndReleasedAgain(Actor actor) throws Exception {
        actor.fillAndLeave("#period", "500 ms");
        actor.see(".draft-line", "Draft, edited by admin");
        actor.fill("#add-tag", "oxygen");
        actor.click("#found button");
        actor.see("#columns", "exhaust_oxygen");
        actor.click("#columns th:nth-child(4) button");
        actor.fill("#f-name", "inlet");
        actor.fill("#f-type", "decimal(7,2)");
        actor.click("#column-editor .btn-primary");
        actor.see("#columns", "decimal(7,2)");
        actor.click("[data-key=t]");
        actor.see(".result.worked", "does not have inlet, exhaust_oxygen yet");
        actor.click("#review");
        actor.see(".review", "When from every 1 s to every 500 ms.");
        actor.see(".review", "Adds 2 columns to drum_dryer_log");
        long before = tables.count("SELECT COUNT(*) FROM plant_records.drum_dryer_log");
        actor.click("#release");
        actor.see("#notice", "Release 2 is live.");
        soon(() -> tables.count(
                        "SELECT COUNT(*) FROM plant_records.drum_dryer_log WHERE exhaust_oxygen > 5 AND inlet > 50")
                >= 4);
        assertThat(tables.count("SELECT COUNT(*) FROM plant_records.drum_dryer_log"))
                .isGreaterThan(before);
        // No second was dropped while the designs changed over.
        assertThat(tables.count(
                        "SELECT COUNT(*) FROM (SELECT TIMESTAMPDIFF(MICROSECOND, LAG(record_time) OVER (ORDER BY record_time), record_time) AS gap "
                                + "FROM plant_records.drum_dryer_log) g WHERE gap > 1000000"))
                .isZero();
    }

    private void downloaded() throws Exception {
        Visitor visitor = new Visitor(site).signIn("admin", "a password of my own");
        String recorder = site.recorder("Drum dryer log");
        String csv = visitor.get("/records/" + recorder + "/rows.csv").body();
        List<String> lines = Arrays.asList(csv.split("\r\n"));
        assertThat(lines.get(0))
                .isEqualTo(
                        "\uFEFFid,record_time,row_id,inlet,outlet_temperature,fan_speed,wet_chip_feed,chip_moisture_in,exhaust_oxygen");
        assertThat(lines).hasSizeGreaterThan(8);
        assertThat(lines.get(1))
                .matches(
                        "1,\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\dZ,[0-9a-f-]{40},,[\\d.]+,[\\d.]+,[\\d.]+,[\\d.]+,");
    }
}
