package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.TagKey;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Span;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.archive.BlockTable;
import dachshund.office.archive.Filling;
import dachshund.office.archive.Histories;
import dachshund.office.archive.Upkeep;
import dachshund.office.backfill.Backfill;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Releases;
import dachshund.office.tag.TagFinder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.openqa.selenium.By;
import org.springframework.jdbc.core.simple.JdbcClient;

/** A keeping rule from ticked tags to the history on a tag's card; the database goes away and comes back meanwhile. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class KeepingTest {

    private static Site site;
    private static Actor actor;

    @BeforeAll
    static void begin() {
        site = new Site(true);
        soon(() -> !site.bean(Definitions.class).live().isEmpty());
        actor = new Actor(site).signIn("engineer", "engineer-demo");
    }

    @AfterAll
    static void end() {
        actor.close();
        site.close();
    }

    private static KeepingRuleDefinition rule(String name) {
        return site.bean(Definitions.class).all(KeepingRuleDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    private static long stored() {
        site.bean(Engine.class).archive().storeNow();
        return site.bean(JdbcClient.class)
                .sql("SELECT COALESCE(SUM(taken), 0) FROM archive_block")
                .query(Long.class)
                .single();
    }

    @Test
    @Order(1)
    void theDemoKeepsItsPlantFromTheFirstMoment() {
        soon(() -> stored() > 100);
        assertThat(site.bean(Upkeep.class).said()).isEmpty();
        actor.go("/plant/keeping");
        actor.see("main", "Whole plant");
        soon(() -> {
            site.bean(Upkeep.class).look();
            return true;
        });
        actor.go("/plant/keeping/" + rule("Whole plant").id());
        actor.see("#rule-state", "kept");
        actor.see("#rule-state", "values a second");
    }

    @Test
    @Order(2)
    void tickedTagsAreKeptOnceTheRuleIsReleasedAndTheirPastStandsOnTheirCards() {
        actor.go("/plant?q=silo");
        actor.see("tr[data-key]");
        actor.click("tr[data-key] input[type=checkbox]");
        actor.see("#ticked", "1");
        actor.click("button[formaction*='keeping']");
        actor.see("main", "1 ticked tag");
        actor.see("#meant", "1 tag");
        actor.fill("#f-name", "Silos");
        actor.fill("#f-days", "often");
        actor.click("#rule-form .btn-primary");
        actor.see("main", "how many whole days");
        actor.fill("#f-days", "90");
        actor.fill("#f-summaries", "30");
        actor.click("#rule-form .btn-primary");
        actor.see("main", "kept longer than these");
        actor.fill("#f-summaries", "ever");
        actor.fill("#f-days", "30");
        actor.click("#rule-form .btn-primary");
        actor.see("#notice", "keeps values once it is released");
        actor.see("#rule-state", "It is not released");
        actor.go("/release");
        actor.see("main", "1 tag is kept by it");
        site.bean(Releases.class).releaseAll(site.bean(Releases.class).fingerprint(), "engineer");
        String id = rule("Silos").id();
        actor.go("/plant/keeping/" + id);
        actor.see("#rule-state", "Since the start");
        soon(() -> site.bean(Engine.class)
                        .archive()
                        .status(id)
                        .orElseThrow()
                        .counts()
                        .kept()
                > 2);
        actor.click("#rule-state td a");
        actor.see("main", "Kept by Silos");
        actor.see("#tag-history", "last 1 h");
        actor.see("#tag-history [data-history-plot] canvas");
        actor.see("#tag-history tbody tr");
        actor.click("[data-history-step=wider]");
        actor.see("#window-span", "UTC");
        soon(() -> actor.see("#window").getDomProperty("value").contains("Z to "));
    }

    @Test
    @Order(3)
    void aRuleThatMeansNothingAndOneWhoseTagsOthersKeepAreTold() {
        actor.go("/plant/keeping/new");
        actor.see("#meant", "No tags are named yet");
        actor.fill("#f-name", "Zero more");
        actor.click("#rule-form .btn-primary");
        actor.see("main", "Say which tags are kept");
        actor.fill("#f-words", "dryer");
        actor.see("#meant", "by the rule that ticks it");
        actor.fill("#f-name", "Silos");
        actor.click("#rule-form .btn-primary");
        actor.see("main .field-problem", "Silos");
    }

    @Test
    @Order(3)
    void historyIsBroughtInFromAFileAfterItWasSeenBesideWhatIsThere() {
        String tag = "Pellet works / Drying / Drum dryer / Outlet temperature";
        actor.go("/plant/history");
        actor.click("main form .btn-primary");
        actor.see("main", "Choose a file, or paste its text");
        actor.fill("#history-text", "tag,when,value\n" + tag + ",2026-11-01 06:00:00,1\n");
        actor.click("main form .btn-primary");
        actor.see("#notice", "No column is called time");
        actor.fill(
                "#history-text",
                "tag,time,value\n" + tag + ",2026-11-01 06:00:00,101.5\n" + tag + ",2026-11-01T06:00:10Z,102\n" + tag
                        + ",2026-11-01 06:00:20,103.5\nNo such tag,2026-11-01 06:00:00,1\n");
        actor.click("main form .btn-primary");
        actor.see("main", "2 values of 1 tag");
        actor.see("main", "No such tag");
        actor.see("main", "Line 3");
        actor.click("#bring-in");
        actor.see("#notice", "2 values are in the archive now");
        String key = site.bean(TagFinder.class).find("", "drum dryer outlet").stream()
                .filter(found -> found.info().name().equals("Outlet temperature"))
                .findFirst()
                .orElseThrow()
                .key();
        actor.go("/plant/tag?key=" + URLEncoder.encode(key, StandardCharsets.UTF_8));
        actor.fill("#window", "2026-11-01 06:00 to 07:00");
        actor.click("#history-form button");
        actor.see("#tag-history", "103.500");
        actor.see("#tag-history", "2 values");
        assertThat(site.audit()).anyMatch(line -> line.contains("brought history in"));
        // One of them was wrong, and one comes late: what was there before stays noted.
        actor.click(".by-hand summary");
        actor.fill("#by-hand-at", "2026-11-01 06:00:20");
        actor.fill("#by-hand-value", "104.25");
        actor.click("#by-hand button");
        actor.see("#by-hand", "Say why");
        actor.fill("#by-hand-why", "The sensor was swapped");
        actor.fill("#by-hand-value", "warm");
        actor.click("#by-hand button");
        actor.see("#by-hand .field-problem", "number");
        actor.fill("#by-hand-value", "104.25");
        actor.click("#by-hand button");
        actor.see("#by-hand", "It was 103.5");
        actor.see("#tag-history", "104.250");
        actor.see("#tag-history", "was 103.5; engineer");
        actor.see("#tag-history", "entered by hand");
        actor.fill("#by-hand-at", "2026-11-01 06:10");
        actor.fill("#by-hand-value", "99");
        actor.fill("#by-hand-why", "From the shift book");
        actor.click("#by-hand button");
        actor.see("#by-hand", "there was none at that instant");
        actor.see("#tag-history", "1 value:");
        actor.see("#tag-history", "there was none; engineer");
        assertThat(site.audit()).anyMatch(line -> line.contains("entered a value of the past"));
    }

    /** A day of a recorder that was not there then: compared, written, ended twice on the way, and each row is there once. */
    @Test
    @Order(4)
    void aRecorderHasTheRowsOfADayThatHasBeen() throws Exception {
        RecorderDefinition recorder = site.bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals("Bag counts"))
                .findFirst()
                .orElseThrow();
        ZoneId zone = site.bean(Engine.class).zone();
        ZonedDateTime midnight = LocalDate.now(zone).minusDays(2).atStartOfDay(zone);
        int minutes = (int) Duration.between(midnight, midnight.plusDays(1)).toMinutes();
        pastOf(recorder, midnight.toInstant(), minutes);
        String window =
                midnight.toLocalDate() + " 00:00 to " + midnight.toLocalDate().plusDays(1) + " 00:00";
        actor.go("/records/" + recorder.id());
        actor.click("#backfill");
        actor.fill("#window", "2099-01-01 06:00 to 14:00");
        actor.click("#compare");
        actor.see("main", "future");
        // Its rows keep the last of each lot: an old one must never take the place of a newer one.
        actor.go("/records/" + site.recorder("Lots of line 1") + "/backfill");
        actor.fill("#window", window);
        actor.click("#compare");
        actor.see("#notice", "an old one would take the place of a newer one");
        int known = minutes - 60;
        // Rehearsed, the same day has the same rows.
        actor.go("/records/" + recorder.id() + "/rehearse");
        actor.fill("#window", window);
        actor.click("#rehearse");
        actor.see("#rows", String.format(Locale.UK, "%,d", known));
        actor.see("main", "60 rows: the archive knows nothing of");
        assertThat(actor.browser.findElements(By.cssSelector(".fires-strip rect")))
                .hasSize(60);
        actor.go("/records/" + recorder.id() + "/backfill");
        actor.fill("#window", window);
        actor.click("#compare");
        actor.see("#missing", String.format(Locale.UK, "%,d rows", known));
        actor.see("#unknown", "60 rows: the archive knows nothing of");
        actor.see("#equal", "0 rows");
        Tables tables = new Tables(site.database.url("quillmoor_records"));
        String theirs = " FROM bag_counts WHERE record_time >= '" + utc(midnight) + "' AND record_time < '"
                + utc(midnight.plusDays(1)) + "'";
        String destination = recorder.wheres().get(0).destination();
        Span span = new Span(midnight.toInstant(), midnight.plusDays(1).toInstant(), false);
        for (int parts : new int[] {3, 11}) {
            assertThatThrownBy(
                            () -> site.bean(Backfill.class).write(recorder.id(), destination, span, endsAfter(parts)))
                    .isInstanceOf(Progress.Ended.class);
        }
        actor.click("#write");
        soon(() -> tables.count("SELECT COUNT(*)" + theirs) == known);
        assertThat(tables.query("SELECT COUNT(DISTINCT record_time), COUNT(DISTINCT row_id), SUM(bag_count)" + theirs))
                .containsExactly(List.of(
                        Integer.toString(known),
                        Integer.toString(known),
                        Long.toString(IntStream.range(0, minutes)
                                .filter(minute -> minute / 60 != 2)
                                .asLongStream()
                                .sum())));
        // The rows are there before the work has ended.
        soon(() -> site.audit().stream().anyMatch(line -> line.contains("backfilled")));
        // What somebody changed is left alone, what somebody took away comes back.
        tables.execute("UPDATE bag_counts SET bag_count = -1 WHERE record_time = '" + utc(midnight.plusHours(5)) + "'");
        tables.execute("DELETE FROM bag_counts WHERE record_time = '" + utc(midnight.plusHours(6)) + "'");
        actor.go("/records/" + recorder.id() + "/backfill");
        actor.fill("#window", window);
        actor.click("#compare");
        actor.see("#missing", "1 row");
        actor.see("#different", "1 row; they are left");
        actor.see("#equal", String.format(Locale.UK, "%,d rows", known - 2));
        actor.click("#write");
        soon(() -> tables.count("SELECT COUNT(*)" + theirs) == known);
        assertThat(tables.count("SELECT COUNT(*)" + theirs + " AND bag_count = -1"))
                .isEqualTo(1);
    }

    private static Progress endsAfter(int parts) {
        return new Progress() {
            @Override
            public void step(String words, long of, boolean mayEnd) {}

            @Override
            public void done(long n) {
                if (n == parts) {
                    throw new Progress.Ended();
                }
            }
        };
    }

    private static String utc(ZonedDateTime at) {
        return at.withZoneSameInstant(ZoneOffset.UTC).format(DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss"));
    }

    /** A value at each minute of each tag of the recorder; of one of them nothing is known in the third hour. */
    private static void pastOf(RecorderDefinition recorder, Instant begin, int minutes) throws Exception {
        Plant plant = site.bean(Definitions.class).livePlant();
        for (TagRef tag : Rehearsal.tags(recorder, plant)) {
            boolean text = plant.tag(tag).orElseThrow().kind() == DataKind.TEXT;
            Arrivals values = new Arrivals();
            for (int minute = 0; minute < minutes; minute++) {
                long at = OpcUaTime.toTicks(begin.plusSeconds(60L * minute));
                if (text && minute == 120) {
                    values.add(at, null, Marks.of(Gap.AWAY));
                } else if (!text || minute / 60 != 2) {
                    values.add(at, text ? "L" + minute / 100 : (Object) (long) minute, 0);
                }
            }
            site.bean(BlockTable.class).bringIn("brought in", Block.of(TagKey.of(tag), values.series()), List.of());
        }
    }

    /** Values wait on disk, the page says so, and each is there once afterwards. */
    @Test
    @Order(5)
    void theDatabaseGoesAwayAndNoValueIsLostOrTwice() {
        long before = stored();
        site.database.kill();
        Map<String, Long> kept = Map.of("before", keptSoFar());
        soon(() -> {
            site.bean(Engine.class).archive().storeNow();
            return !site.bean(Engine.class).archive().trouble().isEmpty();
        });
        soon(() -> keptSoFar() > kept.get("before") + 50);
        actor.go("/plant/keeping");
        actor.see("#archive-trouble", "Values wait on disk");
        site.database.start();
        soon(() -> stored() > before + 50);
        soon(() -> site.bean(Engine.class).archive().trouble().isEmpty());
        List<Long> twice = site.bean(JdbcClient.class)
                .sql("SELECT COUNT(*) FROM archive_block a JOIN archive_block b ON a.tag = b.tag AND a.id < b.id"
                        + " AND a.sort = b.sort AND b.first_time <= a.last_time AND b.last_time >= a.first_time"
                        + " AND a.data = b.data")
                .query(Long.class)
                .list();
        assertThat(twice).containsExactly(0L);
        Map<String, Object> account = site.bean(JdbcClient.class)
                .sql(
                        "SELECT SUM(offered) - SUM(kept) - SUM(replaced) - SUM(within) - SUM(refused) AS open,"
                                + " SUM(kept) - (SELECT SUM(taken) FROM archive_block)"
                                + " - COALESCE((SELECT SUM(IF(what IN ('brought in', 'filled', 'by hand'), -taken, taken)) FROM archive_later), 0) AS missing FROM archive_lane")
                .query()
                .singleRow();
        assertThat(account.get("open").toString()).isEqualTo("0");
        assertThat(account.get("missing").toString()).isEqualTo("0");
    }

    /** The plant went on while nobody recorded it; its OPC UA server remembers, its meters do not. */
    @Test
    @Order(6)
    void afterTheApplicationWasAwayItsGapIsFilledWhereTheSourceCan() throws Exception {
        actor.close();
        site.stop();
        Thread.sleep(3000); // so long nobody records
        site.start();
        soon(() -> {
            site.bean(Engine.class).archive().storeNow();
            return site.bean(JdbcClient.class)
                            .sql("SELECT taken FROM archive_later WHERE what = 'filled'")
                            .query(Long.class)
                            .single()
                    > 20;
        });
        soon(() -> site.bean(Filling.class).said().stream()
                .anyMatch(line -> line.words().startsWith("Pellet works: nothing came of")
                        && line.words().contains("they are filled in")));
        soon(() -> site.bean(Filling.class).said().stream()
                .anyMatch(line -> line.words().startsWith("Energy meters: nothing came of")
                        && line.words().contains("the gap stays: This source keeps no history.")));
        List<TagValue> values = histories("Outlet temperature");
        int gap = IntStream.range(0, values.size())
                .filter(i -> values.get(i).quality().words().contains("Dachshund was not running"))
                .findFirst()
                .orElseThrow();
        assertThat(values.subList(gap + 1, values.size()))
                .filteredOn(value -> value.quality().words().contains("filled in from its source's own history"))
                .hasSizeGreaterThan(2);
        actor = new Actor(site).signIn("engineer", "engineer-demo");
        actor.go("/plant/keeping/" + rule("Whole plant").id());
        actor.click("#archive-said summary");
        actor.see("#archive-said", "they are filled in");
    }

    private static List<TagValue> histories(String name) throws Exception {
        TagRef tag = site.bean(TagFinder.class).find("", "drum dryer outlet").stream()
                .filter(found -> found.info().name().equals(name))
                .findFirst()
                .orElseThrow()
                .ref();
        Instant now = Instant.now();
        return site.bean(Histories.class)
                .read(tag, now.minusSeconds(600), now)
                .newest(now.minusSeconds(600), now, 0, 100_000);
    }

    private static long keptSoFar() {
        return site.bean(Engine.class).archive().kept();
    }
}
