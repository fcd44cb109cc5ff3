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
import dachshund.standins.PrivateProcess;
import dachshund.web.backup.BackupCommand;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer.OrderAnnotation;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.openqa.selenium.By;

/**
 * The database's plug is pulled (kill -9) under running recorders, and the application is started while it is out.
 * Counted by row identity, and on a table without one by the sequence that each row carries.
 */
@TestMethodOrder(OrderAnnotation.class)
class OutageTest {

    private static Site site;
    private static Tables tables;
    private static String byId;
    private static String byMark;

    @BeforeAll
    static void start() {
        site = new Site(true);
        tables = new Tables(site.database.url("quillmoor_records"));
        Definitions definitions = site.bean(Definitions.class);
        Releases releases = site.bean(Releases.class);
        String destination = definitions.all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals("Production"))
                .findFirst()
                .orElseThrow()
                .id();
        Column tag = definitions.all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Dryer log"))
                .findFirst()
                .orElseThrow()
                .layout()
                .columns()
                .get(3);
        Column sequence = Column.of("n", SqlType.BIGINT, new ColumnSource.FromRun(ColumnSource.Variable.SEQUENCE));
        Layout withId = Layout.proposed().plus(sequence).plus(tag);
        Layout bare = new Layout(List.of(Layout.proposed().columns().get(1), sequence, tag));
        byId = recorder("By id", "by_id", withId, destination, false);
        byMark = recorder("By mark", "by_mark", bare, destination, true);
        releases.releaseAll(releases.fingerprint(), "test");
    }

    private static String recorder(String name, String table, Layout layout, String destination, boolean mark) {
        RecorderDefinition recorder = new RecorderDefinition(
                Definitions.newId(),
                name,
                "",
                List.of(new When.Every(Duration.ofMillis(100))),
                layout,
                List.of(new Where(destination, table, new Upkeep(true, false), mark)));
        site.bean(Drafts.class).edit(recorder, 0, "test");
        return recorder.id();
    }

    @AfterAll
    static void stop() {
        site.close();
    }

    private static LaneState state(String recorder) {
        return site.bean(Engine.class).status().get(recorder).state();
    }

    private static long held(String recorder) {
        return site.bean(Engine.class).status().get(recorder).held();
    }

    private static long waiting(String recorder) {
        return site.bean(Engine.class).status().get(recorder).lanes().stream()
                .mapToLong(lane -> lane.account().waiting())
                .sum();
    }

    /** Stops both recorders, waits until all landed, and counts: every sequence of every epoch once. */
    private static void allThereOnce(String table, String epoch) throws Exception {
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT " + (epoch.isEmpty() ? "" : epoch + ", ") + "n) FROM "
                        + table))
                .as("doubled in " + table)
                .isZero();
        assertThat(tables.count("SELECT COUNT(*) FROM " + table))
                .as("lost in " + table)
                .isEqualTo(tables.count("SELECT SUM(most) FROM (SELECT MAX(n) AS most FROM " + table
                        + (epoch.isEmpty() ? "" : " GROUP BY " + epoch) + ") e"));
    }

    @Test
    @Order(1)
    void pullingTheDatabasesPlugLosesNothingAndDoublesNothing() throws Exception {
        soon(() -> state(byId) == LaneState.RECORDING && state(byMark) == LaneState.RECORDING);
        Visitor viewer = new Visitor(site).signIn("viewer", "viewer-demo");
        for (int round = 0; round < 3; round++) {
            site.database.kill();
            soon(() -> state(byId) == LaneState.HOLDING && held(byId) >= 20 && held(byMark) >= 20);
            String sentence = site.bean(Engine.class).status().get(byMark).sentence();
            assertThat(sentence).contains("rows are safe on disk and will be sent when it is back");
            assertThat(viewer.get("/watch/held").body()).contains("By id", "By mark", "when it is back");
            site.database.start();
            soon(() -> state(byId) == LaneState.RECORDING
                    && state(byMark) == LaneState.RECORDING
                    && held(byId) < 10
                    && held(byMark) < 10);
        }
        Instant stopped = Instant.now();
        Stream.of(byId, byMark)
                .forEach(id -> site.bean(Engine.class).recorders().stop(id, "test", "counting"));
        soon(() -> waiting(byId) == 0 && waiting(byMark) == 0);
        assertThat(tables.count("SELECT TIMESTAMPDIFF(SECOND, MAX(record_time), '"
                        + LocalDateTime.ofInstant(stopped, ZoneOffset.UTC) + "') FROM by_id"))
                .as("seconds without a row before it was stopped: a row was due each tenth of one")
                .isLessThanOrEqualTo(1);
        for (String id : List.of(byId, byMark)) {
            assertThat(tables.count("SELECT MAX(n) FROM " + (id.equals(byId) ? "by_id" : "by_mark")))
                    .as("the last one that was made")
                    .isEqualTo(site.bean(Engine.class)
                            .status()
                            .get(id)
                            .lanes()
                            .get(0)
                            .account()
                            .offered());
        }
        assertThat(tables.count("SELECT COUNT(*) FROM by_id")).isGreaterThan(60);
        allThereOnce("by_id", "");
        allThereOnce("by_mark", "");
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT row_id) FROM by_id"))
                .isZero();
        Stream.of(byId, byMark)
                .forEach(id -> site.bean(Engine.class).recorders().start(id));
    }

    @Test
    @Order(2)
    void anApplicationStartedWhileItsOwnDatabaseIsAwayRecordsFromTheLastRelease() throws Exception {
        soon(() -> state(byId) == LaneState.RECORDING);
        site.stop();
        site.database.kill();
        site.start();
        assertThat(site.bean(Definitions.class).release()).isEqualTo(2);
        soon(() -> held(byId) >= 10);
        assertThat(new Visitor(site).get("/sign-in").body())
                .contains("Our own database is away")
                .contains("Recording goes on from the last release");
        Visitor refused = new Visitor(site);
        assertThat(refused.post("/sign-in", "username", "engineer", "password", "engineer-demo")
                        .headers()
                        .firstValue("Location"))
                .get()
                .asString()
                .contains("?away");

        site.database.start();
        soon(() -> state(byId) == LaneState.RECORDING && held(byId) < 10);
        soon(() -> new Visitor(site)
                        .signIn("engineer", "engineer-demo")
                        .get("/watch")
                        .statusCode()
                == 200);
        assertThat(site.bean(Definitions.class).all(RecorderDefinition.class))
                .hasSizeGreaterThan(10)
                .extracting(RecorderDefinition::name)
                .contains("By id", "Dryer log");
        site.bean(Engine.class).recorders().stop(byId, "test", "counting");
        soon(() -> held(byId) == 0);
        allThereOnce("by_id", "SUBSTRING(row_id, 17, 8)");
    }

    @Test
    @Order(3)
    void whileOurOwnDatabaseIsAwayPagesSaySoAndNothingIsChanged() throws Exception {
        Visitor engineer = new Visitor(site).signIn("engineer", "engineer-demo");
        site.database.kill();
        soon(() -> engineer.get("/watch").body().contains("Our own database is away."));
        String seen = Integer.toString(site.bean(Drafts.class).revision(byMark));
        assertThat(engineer.post("/records/" + byMark + "/whens/0", "kind", "EVERY", "period", "9 s", "seen", seen)
                        .statusCode())
                .isEqualTo(503);
        assertThat(engineer.get("/plant").statusCode()).isEqualTo(200);
        assertThat(engineer.get("/records").statusCode()).isEqualTo(200);
        site.database.start();
        soon(() -> !engineer.get("/watch").body().contains("Our own database is away."));
    }

    /** As a person walks it: break the database, see what is held and when it will land, mend it, watch it drain. */
    @Test
    @Order(4)
    void whatIsHeldIsSeenWithThePromiseAndSeenToDrain() {
        try (Actor actor = new Actor(site).signIn("engineer", "engineer-demo")) {
            actor.see("main");
            site.bean(Engine.class).recorders().start(byMark);
            soon(() -> state(byMark) == LaneState.RECORDING);
            actor.go("/watch/held");
            actor.see("#held-list", "Nothing is held");
            site.database.kill();
            actor.see("#held-list", "By mark");
            actor.see("#held-list", "when it is back");
            actor.see("#held-list", "rows are safe on disk");
            actor.go("/watch");
            actor.see("#strips .remark", "rows are safe on disk and will be sent when it is back");
            actor.see("#strips .remark", "Production: ");
            actor.see("#strips .remark", " held. The host is there, but refuses");
            actor.go("/watch/held");
            soon(() -> held(byMark) >= 20);
            site.database.start();
            actor.see("#held-list", "Nothing is held");
            site.bean(Engine.class).recorders().stop(byMark, "test", "counting");
            soon(() -> held(byMark) == 0);
        }
    }

    /** The machine is gone, and a backup of it is brought back onto an empty one beside the same destinations. */
    @Test
    @Order(5)
    void aBackupIsBroughtBackOntoAnEmptyFolderAndItsAccountIsSeen() throws Exception {
        site.bean(Engine.class).recorders().start(byId);
        soon(() -> state(byId) == LaneState.RECORDING);
        Path file = site.folder.resolveSibling(site.folder.getFileName() + ".backup");
        assertThat(command("backup", file)).isZero();
        long before = tables.count("SELECT COUNT(*) FROM by_id");
        soon(() -> tables.count("SELECT COUNT(*) FROM by_id") > before + 5);
        site.stop();
        Path old = site.folder.resolveSibling(site.folder.getFileName() + ".old");
        Files.move(site.folder, old);
        tables.execute("DROP DATABASE dachshund");
        assertThat(command("restore", file)).isZero();
        site.start();
        try (Actor actor = new Actor(site).signIn("engineer", "engineer-demo")) {
            actor.see("#was-brought-back", "was brought back from a backup");
            actor.click("#was-brought-back a");
            actor.see("#brought-back", "no backup holds their tables");
            actor.see("#brought-back", "are on the old machine's disk alone");
            actor.click("#read");
            actor.see("#notice", "not shown on every page any more");
            assertThat(actor.browser.findElements(By.id("was-brought-back"))).isEmpty();
        }
        soon(() -> site.audit().stream().anyMatch(entry -> entry.contains(": read the account")));
        assertThat(site.audit()).anyMatch(entry -> entry.contains(": brought a backup back: "));
        long then = tables.count("SELECT COUNT(*) FROM by_id");
        soon(() -> tables.count("SELECT COUNT(*) FROM by_id") > then + 5);
        assertThat(tables.count("SELECT COUNT(*) - COUNT(DISTINCT row_id) FROM by_id"))
                .as("doubled")
                .isZero();
        Files.delete(file);
        PrivateProcess.remove(old);
    }

    private static int command(String word, Path file) {
        return BackupCommand.run(
                new String[] {
                    word,
                    file.toString(),
                    "--dachshund.var=" + site.folder,
                    "--dachshund.database.port=" + site.database.port(),
                    "--dachshund.database.password-file=" + site.database.ownPassword()
                },
                "a long walk in the rain");
    }
}
