package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.when.When;
import dachshund.core.window.Span;
import dachshund.core.work.Progress;
import dachshund.office.backfill.Backfill;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Somebody says how long a recorder's rows are kept; in the night those that are older go, and nobody else's. */
class OldRowsWalkTest {

    private static Site site;
    private static Tables tables;
    private static Actor actor;

    /** Where it is half past three in the night now. */
    private static ZoneOffset night() {
        int seconds = LocalTime.of(3, 30).toSecondOfDay()
                - Instant.now().atOffset(ZoneOffset.UTC).toLocalTime().toSecondOfDay();
        int half = 12 * 3600;
        return ZoneOffset.ofTotalSeconds(Math.floorMod(seconds + half, 2 * half) - half);
    }

    @BeforeAll
    static void start() {
        site = new Site(true, "--dachshund.zone=" + night());
        tables = new Tables(site.database.url("quillmoor_records"));
        actor = new Actor(site).signIn("engineer", "engineer-demo");
    }

    @AfterAll
    static void stop() {
        actor.close();
        site.close();
    }

    private static long count(String where) throws SQLException {
        return tables.count("SELECT COUNT(*) FROM aged " + where);
    }

    @Test
    void rowsThatAreOldEnoughGoInTheNight() throws Exception {
        String destination = site.bean(Definitions.class).all(DestinationDefinition.class).stream()
                .filter(each -> each.name().equals("Production"))
                .findFirst()
                .orElseThrow()
                .id();
        Column tag = site.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Dryer log"))
                .findFirst()
                .orElseThrow()
                .layout()
                .columns()
                .get(3);
        String id = Definitions.newId();
        RecorderDefinition recorder = new RecorderDefinition(
                id,
                "Aged",
                "",
                List.of(new When.Every(Duration.ofSeconds(1))),
                Layout.proposed()
                        .plus(tag)
                        .plus(Column.of("n", SqlType.BIGINT, new ColumnSource.FromRun(ColumnSource.Variable.SEQUENCE))),
                List.of(new Where(destination, "aged", new Upkeep(true, true), false)));
        Drafts drafts = site.bean(Drafts.class);
        drafts.edit(recorder, drafts.revision(id), "engineer");
        actor.go("/records/" + id);
        actor.type("#keep0", "a year");
        actor.see(".field-problem", "Type a whole number of days");
        actor.type("#keep0", "40000");
        actor.see(".field-problem", "Rows are kept for 1 to 36500 days");
        actor.type("#keep0", "1");
        actor.go("/release");
        actor.see("main", "From the next night on it removes its rows after 1 day from aged in Production");
        actor.click("#release");
        actor.see("main", "is live");
        soon(() -> tables.count("SELECT COUNT(*) FROM information_schema.tables WHERE table_name = 'aged'") == 1
                && count("") > 12);
        Instant now = Instant.now();
        assertThatThrownBy(() -> site.bean(Backfill.class)
                        .compare(
                                id,
                                destination,
                                new Span(now.minus(Duration.ofHours(30)), now.minus(Duration.ofHours(29)), false),
                                Progress.UNHEARD))
                .hasMessageStartingWith("Rows of this recorder are removed from there after 1 day: begin");
        // Seven become old, and so is one that nobody of ours has made.
        site.sql("UPDATE aged SET record_time = record_time - INTERVAL 2 DAY, n = -n ORDER BY row_id LIMIT 7");
        site.sql(
                "INSERT INTO aged (record_time, row_id, n) VALUES (UTC_TIMESTAMP() - INTERVAL 900 DAY, 'somebody else''s', 7000000)");
        assertThat(count("WHERE n < 0")).isEqualTo(7);
        site.stop();
        site.start();
        soon(() -> count("WHERE n < 0") == 0);
        assertThat(count("WHERE n = 7000000")).isEqualTo(1);
        long young = count("WHERE n > 0 AND n < 7000000");
        assertThat(young).isGreaterThan(5);
        soon(() -> count("WHERE n > 0 AND n < 7000000") > young);
        actor.signIn("engineer", "engineer-demo");
        actor.go("/records/" + id);
        actor.see(".removed", "7 old rows were removed.");
        assertThat(actor.see("#keep0").getDomProperty("value")).isEqualTo("1");
        actor.go("/watch/ledger");
        actor.see("main", "rows that were old enough");
    }
}
