package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneState;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/**
 * A recorder writes to a table that is not there and may not be made: its rows are rehearsed, given to the corrected design, or
 * discarded. Another one writes rows that its table refuses: they are mended, tried and sent, or all sent again.
 */
class HeldRowsTest {

    private static final Column SEQUENCE =
            Column.of("n", SqlType.BIGINT, new ColumnSource.FromRun(ColumnSource.Variable.SEQUENCE));

    private static Site site;
    private static Tables tables;
    private static Actor actor;
    private static String destination;

    @BeforeAll
    static void start() {
        site = Site.demo();
        tables = new Tables(site.database.url("quillmoor_records"));
        actor = new Actor(site).signIn("engineer", "engineer-demo");
        actor.see("main");
        destination = site.bean(Definitions.class).all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals("Production"))
                .findFirst()
                .orElseThrow()
                .id();
    }

    @AfterAll
    static void stop() {
        actor.close();
    }

    private static void release(RecorderDefinition recorder) {
        Releases releases = site.bean(Releases.class);
        Drafts drafts = site.bean(Drafts.class);
        drafts.edit(recorder, drafts.revision(recorder.id()), "engineer");
        releases.releaseAll(releases.fingerprint(), "engineer");
    }

    private static RecorderDefinition design(String id, String name, String table, Upkeep upkeep, Column... more) {
        Layout layout = Layout.proposed().plus(SEQUENCE);
        for (Column column : more) {
            layout = layout.plus(column);
        }
        return new RecorderDefinition(
                id,
                name,
                "",
                List.of(new When.Every(Duration.ofMillis(200))),
                layout,
                List.of(new Where(destination, table, upkeep, false)));
    }

    private static long waiting(String id) {
        return site.bean(Engine.class).status().get(id).lanes().get(0).account().waiting();
    }

    private static Column tag() {
        return site.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Dryer log"))
                .findFirst()
                .orElseThrow()
                .layout()
                .columns()
                .get(3);
    }

    private static String faulted(String name) {
        String id = Definitions.newId();
        release(design(id, name, "never_made", Upkeep.NONE, tag()));
        soon(() -> site.bean(Engine.class).status().get(id).lanes().get(0).state() == LaneState.FAULTED
                && waiting(id) > 10);
        return id;
    }

    @Test
    void rowsOfAFaultedLaneAreGivenToTheCorrectedDesign() throws Exception {
        String id = faulted("Given on");
        actor.go("/watch/" + id);
        actor.see("#lanes", "never_made");
        actor.click(".look-held");
        actor.see("#rehearsed", "made under the design that is released");
        actor.see("#held", "never_made");

        Column renamed = tag().named("renamed").typed(SqlType.read("decimal(8,1)"));
        release(design(id, "Given on", "made_now", new Upkeep(true, true), renamed));
        actor.go("/watch/" + id + "/held/" + destination);
        actor.see("#rehearsed", "rows");
        assertThat(actor.texts("#rehearsed th")).contains("renamed", "n");
        actor.click("#give");
        actor.browser.switchTo().alert().accept();
        actor.see("#notice", "given to the released design");
        soon(() -> waiting(id) < 5
                && tables.count("SELECT COUNT(*) FROM made_now") > 20
                && tables.count("SELECT COUNT(*) FROM made_now WHERE renamed IS NOT NULL") > 0);
        site.bean(Engine.class).recorders().stop(id, "test", "counting");
        soon(() -> waiting(id) == 0);
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT n) FROM made_now"))
                .isZero();
        assertThat(tables.count("SELECT MAX(n) - COUNT(*) FROM made_now"))
                .as("from the first row on, all of them")
                .isZero();
        assertThat(site.audit())
                .anyMatch(entry -> entry.contains(": gave held rows to the released design: ")
                        && entry.contains("Given on into Production"));
    }

    @Test
    void theyAreTakenAwayAsCsvAndDiscardedAndTheAccountSaysSo() throws Exception {
        String id = faulted("Thrown away");
        Visitor engineer = new Visitor(site).signIn("engineer", "engineer-demo");
        String csv = engineer.get("/watch/" + id + "/held/" + destination + "/rows.csv")
                .body();
        assertThat(csv.lines().count()).isGreaterThan(10);
        assertThat(csv.lines().findFirst().orElseThrow()).contains("record_time", "row_id", "n");
        Visitor viewer = new Visitor(site).signIn("viewer", "viewer-demo");
        assertThat(viewer.post("/watch/" + id + "/held/" + destination + "/discard", "upTo", "5")
                        .statusCode())
                .isEqualTo(403);
        actor.go("/watch/" + id + "/held/" + destination);
        actor.click("#discard");
        actor.browser.switchTo().alert().accept();
        actor.see("#notice", "discarded, and counted as that");
        soon(() -> site.bean(Engine.class)
                        .status()
                        .get(id)
                        .lanes()
                        .get(0)
                        .account()
                        .discarded()
                > 10);
        assertThat(site.audit()).anyMatch(entry -> entry.contains(": discarded held rows: "));
        site.bean(Engine.class).recorders().stop(id, "test", "done");
    }

    @Test
    void whatIsNotThereOrNotUnderstoodSaysSo() throws Exception {
        Visitor engineer = new Visitor(site).signIn("engineer", "engineer-demo");
        assertThat(engineer.get("/watch/nobody/held/nowhere").body()).contains("What this address names is not here");
        assertThat(engineer.get("/watch/nobody/held/" + destination).statusCode())
                .isEqualTo(404);
        assertThat(engineer.post("/watch/nobody/held/nowhere/discard", "upTo", "many")
                        .statusCode())
                .isEqualTo(400);
        String id = site.recorder("Dryer log");
        assertThat(engineer.get("/watch/" + id + "/held/" + destination + "?after=-5")
                        .statusCode())
                .isEqualTo(200);
    }

    /** The pulse counts them, so the page shows them, too. */
    @Test
    void rowsOfARecorderThatWasRemovedAreStillShown() throws Exception {
        String id = faulted("Removed");
        Releases releases = site.bean(Releases.class);
        Drafts drafts = site.bean(Drafts.class);
        drafts.remove(id, "engineer");
        releases.releaseAll(releases.fingerprint(), "engineer");
        Visitor engineer = new Visitor(site).signIn("engineer", "engineer-demo");
        assertThat(engineer.get("/watch/held").body()).contains("removed: " + id);
        String path = "/watch/" + id + "/held/" + destination;
        assertThat(engineer.get(path).statusCode()).isEqualTo(200);
        assertThat(engineer.post("/watch/" + id + "/look-again").headers().firstValue("Location"))
                .get()
                .asString()
                .endsWith("/watch/held");
        engineer.post(
                path + "/discard",
                "upTo",
                Long.toString(site.bean(Engine.class)
                        .writer(destination)
                        .orElseThrow()
                        .last(id)));
        soon(() -> !engineer.get("/watch/held").body().contains("removed: " + id));
    }

    /** A recorder whose table refuses every tenth row from now on. */
    private static String refused(String name, String table) throws Exception {
        String id = Definitions.newId();
        release(design(id, name, table, new Upkeep(true, true), tag()));
        soon(() -> tables.count("SELECT COUNT(*) FROM " + table) > 2);
        tables.execute("ALTER TABLE " + table + " ADD CONSTRAINT picky CHECK (n < 8 OR n % 10 <> 3)");
        soon(() -> site.bean(Engine.class).local().aside().counts().getOrDefault(id, 0L) >= 2);
        site.bean(Engine.class).recorders().stop(id, "test", "two are enough");
        soon(() -> waiting(id) == 0);
        return id;
    }

    @Test
    void aRowThatIsSetAsideIsMendedTriedAndSent() throws Exception {
        String id = refused("Mended", "mended");
        actor.go("/watch/" + id);
        actor.click("#look-aside");
        actor.see("#groups", "Mended");
        actor.click("#groups a[href*='recorder=" + id + "']");
        actor.see("#rows", "n 13");
        actor.click("#rows a");
        actor.see("#reason", "picky");
        actor.click("#try");
        actor.see("#outcome", "picky");
        actor.click("#send");
        actor.see("#reason", "The recorder does not run");
        site.bean(Engine.class).recorders().start(id);
        actor.fill("[name='cell.n']", "very many");
        actor.click("#send");
        actor.see("#reason", "Column n is \"very many\"");
        actor.fill("[name='cell.n']", "1004");
        actor.click("#try");
        actor.see("#outcome", "1004");
        assertThat(tables.count("SELECT COUNT(*) FROM mended WHERE n = 1004"))
                .as("only tried")
                .isZero();
        actor.click("#send");
        actor.see("#notice", "1 row sent.");
        soon(() -> tables.count("SELECT COUNT(*) FROM mended WHERE n = 1004") == 1);
        assertThat(
                        tables.count(
                                "SELECT COUNT(*) FROM mended a JOIN mended b ON b.n = 12 WHERE a.n = 1004 AND a.record_time > b.record_time AND TIMESTAMPDIFF(MICROSECOND, b.record_time, a.record_time) <= 200000"))
                .as("at the time that it was made for")
                .isEqualTo(1);
        site.bean(Engine.class).recorders().stop(id, "test", "done");
    }

    @Test
    void allRowsOfOneReasonAreSentAgainOnceTheTableIsMended() throws Exception {
        String id = refused("Sent again", "sent_again");
        tables.execute("ALTER TABLE sent_again DROP CONSTRAINT picky");
        // One of them landed after all, as when a server commits and does not say so.
        String landed =
                site.bean(Engine.class).local().aside().newest(id, 1).get(0).rowId();
        tables.execute(
                "INSERT INTO sent_again (row_id, record_time, n) VALUES ('" + landed + "', UTC_TIMESTAMP(), 999999)");
        site.bean(Engine.class).recorders().start(id);
        actor.go("/watch/aside");
        actor.click("#groups a[href*='recorder=" + id + "']");
        actor.see("#rows", "n 13");
        actor.click("#send-all");
        actor.see("#notice", "1 row was in the table already.");
        soon(() -> tables.count("SELECT COUNT(*) FROM sent_again WHERE n = 13") == 1);
        site.bean(Engine.class).recorders().stop(id, "test", "counting");
        soon(() -> waiting(id) == 0);
        assertThat(site.bean(Engine.class).local().aside().counts().getOrDefault(id, 0L))
                .isZero();
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT n) FROM sent_again"))
                .isZero();
        assertThat(tables.count("SELECT COUNT(*) FROM sent_again WHERE row_id = '" + landed + "'"))
                .isEqualTo(1);
        assertThat(site.audit().toString()).contains("sent rows again that were set aside");
        actor.go("/watch/" + id);
        actor.see("#aside-now", "0 still are");
    }

    @Test
    void rowsThatTwoPeopleSendAtOneMomentLandOnce() throws Exception {
        String id = refused("Sent by two", "sent_by_two");
        tables.execute("ALTER TABLE sent_by_two DROP CONSTRAINT picky");
        site.bean(Engine.class).recorders().start(id);
        String alike =
                site.bean(Engine.class).local().aside().newest(id, 1).get(0).alike();
        List<Visitor> two = List.of(
                new Visitor(site).signIn("engineer", "engineer-demo"), new Visitor(site).signIn("admin", "admin-demo"));
        List<Thread> clicks = two.stream()
                .map(visitor -> new Thread(() -> {
                    try {
                        visitor.post("/watch/aside/send", "recorder", id, "destination", destination, "alike", alike);
                    } catch (Exception failed) {
                        throw new IllegalStateException(failed);
                    }
                }))
                .toList();
        clicks.forEach(Thread::start);
        for (Thread click : clicks) {
            click.join();
        }
        soon(() -> tables.count("SELECT COUNT(*) FROM sent_by_two WHERE n = 13") > 0);
        site.bean(Engine.class).recorders().stop(id, "test", "counting");
        soon(() -> waiting(id) == 0);
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT n) FROM sent_by_two"))
                .isZero();
    }

    @Test
    void rowsThatAreSetAsideAreTakenAwayAndDiscarded() throws Exception {
        String id = refused("Thrown away", "thrown_away");
        actor.go("/watch/aside");
        actor.click("#groups a[href*='recorder=" + id + "']");
        String csv = new Visitor(site)
                .signIn("engineer", "engineer-demo")
                .get(actor.see("a[href*='rows.csv']").getDomAttribute("href"))
                .body();
        assertThat(csv)
                .startsWith("\uFEFFidentity,made for,set aside at,reason,")
                .contains(",13,");
        actor.click("#discard-all");
        actor.browser.switchTo().alert().accept();
        actor.see("#notice", "discarded");
        assertThat(site.bean(Engine.class).local().aside().counts().getOrDefault(id, 0L))
                .isZero();
    }
}
