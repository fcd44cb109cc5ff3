package dachshund.core.notice;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.notice.Calm.Line;
import dachshund.core.notice.Calm.What;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class CalmTest {

    private static final Instant BEGIN = Instant.parse("2026-11-27T06:00:00Z");
    private static final Matter HELD = matter("held", Sort.HELD);
    private static final Matter DOWN = matter("down", Sort.WAS_DOWN);

    private Calm calm = new Calm(List.of());
    private Instant now = BEGIN;

    private static Matter matter(String key, Sort sort) {
        return new Matter(key, sort, key, "", Set.of(), "It is so.", BEGIN);
    }

    /** Looks each five seconds for so long; what was told, with the second. */
    private List<String> during(int seconds, boolean quiet, Matter... standing) {
        List<String> told = new ArrayList<>();
        for (int i = 0; i < seconds; i += 5) {
            for (Line line : calm.step(List.of(standing), now, matter -> quiet)) {
                told.add((now.getEpochSecond() - BEGIN.getEpochSecond()) + " " + line.what() + " "
                        + line.matter().key());
            }
            now = now.plusSeconds(5);
        }
        return told;
    }

    @Test
    void itIsToldOnceThenEachHourThenThatItIsSolved() {
        assertThat(during(7400, false, HELD)).containsExactly("15 BEGAN held", "3615 STILL held", "7215 STILL held");
        assertThat(during(300, false)).containsExactly("7460 SOLVED held");
        assertThat(calm.known()).isEmpty();
    }

    @Test
    void whatIsOverAtOnceNeedsNobodyAndWhatComesAndGoesIsOneMatter() {
        assertThat(during(10, false, HELD)).isEmpty();
        assertThat(during(100, false)).isEmpty();
        List<String> told = new ArrayList<>();
        for (int i = 0; i < 20; i++) {
            told.addAll(during(30, false, HELD));
            told.addAll(during(30, false));
        }
        assertThat(told).containsExactly("125 BEGAN held");
    }

    @Test
    void whatBeginsInQuietHoursIsToldAtTheirEnd() {
        assertThat(during(3600, true, HELD)).isEmpty();
        assertThat(during(10, false, HELD)).containsExactly("3600 BEGAN held");
    }

    @Test
    void whatWentByInQuietHoursIsToldAtTheirEnd() {
        assertThat(during(600, true, HELD)).isEmpty();
        assertThat(during(600, true)).isEmpty();
        assertThat(during(60, false)).containsExactly("1200 SOLVED held");
        assertThat(during(600, false)).isEmpty();
    }

    @Test
    void whatHasBeenIsToldOnceOnly() {
        assertThat(during(8000, false, DOWN)).containsExactly("15 BEGAN down");
        assertThat(during(600, false)).isEmpty();
    }

    @Test
    void aRestartTellsNothingTwice() {
        assertThat(during(60, false, HELD)).hasSize(1);
        calm = new Calm(calm.known());
        assertThat(during(600, false, HELD)).isEmpty();
        assertThat(during(100, false)).singleElement().asString().endsWith("SOLVED held");
    }

    @Test
    void aClockThatIsSetBackDelaysNothingByMoreThanItself() {
        during(60, false, HELD);
        now = now.minusSeconds(86_400);
        during(60, false, HELD);
        assertThat(during(3700, false, HELD)).singleElement().asString().contains("STILL held");
        now = now.minusSeconds(86_400);
        assertThat(during(120, false)).singleElement().asString().contains("SOLVED held");
    }

    /** Whatever comes and goes: nothing is solved that was not told, or passed in quiet; nothing begins twice. */
    @Test
    void overAnyHistoryEachBeginIsFollowedByItsEnd() {
        for (int seed = 0; seed < 300; seed++) {
            Random chance = new Random(seed);
            calm = new Calm(List.of());
            boolean open = false;
            boolean stands = false;
            boolean quiet = false;
            for (int i = 0; i < 2000; i++) {
                stands ^= chance.nextInt(12) == 0;
                quiet ^= chance.nextInt(40) == 0;
                boolean silent = quiet;
                for (Line line : calm.step(stands ? List.of(HELD) : List.of(), now, matter -> silent)) {
                    assertThat(quiet).isFalse();
                    if (line.what() == What.BEGAN) {
                        assertThat(open).as("seed " + seed).isFalse();
                        open = true;
                    } else if (line.what() == What.STILL) {
                        assertThat(open).as("seed " + seed).isTrue();
                    } else {
                        open = false;
                    }
                }
                now = now.plusSeconds(chance.nextInt(3) == 0 ? 700 : 10);
                if (chance.nextInt(50) == 0) {
                    calm = new Calm(calm.known());
                }
            }
        }
    }

    @Test
    void aRuleTakesWhatItIsAbout() {
        Matter matter = new Matter("a", Sort.SILENT, "Silo meters", "Plant/North", Set.of("energy"), "", BEGIN);
        assertThat(rule(List.of(), List.of(), List.of(), Sort.SILENT).takes(matter))
                .isTrue();
        assertThat(rule(List.of(), List.of(), List.of(), Sort.HELD).takes(matter))
                .isFalse();
        assertThat(rule(List.of("silo*"), List.of(), List.of()).takes(matter)).isTrue();
        assertThat(rule(List.of("*met.rs"), List.of(), List.of()).takes(matter))
                .as("a dot is a dot")
                .isFalse();
        assertThat(rule(List.of(), List.of("plant"), List.of()).takes(matter)).isTrue();
        assertThat(rule(List.of(), List.of("Pla"), List.of()).takes(matter)).isFalse();
        assertThat(rule(List.of(), List.of(), List.of("energy", "other")).takes(matter))
                .isTrue();
        assertThat(rule(List.of(), List.of(), List.of("other")).takes(matter)).isFalse();
    }

    private static NoticeRule rule(List<String> things, List<String> folders, List<String> labels, Sort... sorts) {
        return new NoticeRule(
                "00000001",
                "r",
                NoticeRule.Way.MAIL,
                "a@b",
                Set.of(sorts),
                false,
                things,
                folders,
                labels,
                "",
                "",
                false);
    }

    private static NoticeRule quiet(String from, String to, boolean alarmsWake) {
        return new NoticeRule(
                "00000001",
                "r",
                NoticeRule.Way.MAIL,
                "a@b",
                Set.of(),
                false,
                List.of(),
                List.of(),
                List.of(),
                from,
                to,
                alarmsWake);
    }

    @Test
    void quietHoursGoOverMidnightAndAlarmsMayBreakThem() {
        Matter alarm = matter("f", Sort.FAULTED);
        assertThat(Stream.of("21:59", "22:00", "23:30", "05:59", "06:00")
                        .map(at -> quiet("22:00", "06:00", true).quiet(HELD, LocalTime.parse(at))))
                .containsExactly(false, true, true, true, false);
        assertThat(quiet("12:00", "13:00", false).quiet(HELD, LocalTime.parse("12:30")))
                .isTrue();
        assertThat(quiet("12:00", "13:00", false).quiet(HELD, LocalTime.parse("13:00")))
                .isFalse();
        assertThat(quiet("22:00", "06:00", true).quiet(alarm, LocalTime.parse("23:00")))
                .isFalse();
        assertThat(quiet("22:00", "06:00", false).quiet(alarm, LocalTime.parse("23:00")))
                .isTrue();
        assertThat(quiet("22:00", "", true).problems()).containsKey("quiet");
        assertThat(quiet("25:00", "06:00", true).problems()).containsKey("quiet");
        assertThat(quiet("06:00", "06:00", true).problems()).containsKey("quiet");
    }

    @Test
    void addressesAreLookedAt() {
        assertThat(to(NoticeRule.Way.MAIL, "a@b.org, c@d.org").recipients()).containsExactly("a@b.org", "c@d.org");
        assertThat(to(NoticeRule.Way.MAIL, "a@b.org, c").problems().get("to")).isEqualTo("\"c\" is no mail address.");
        assertThat(to(NoticeRule.Way.MAIL, "a@b.org\r\nBcc: x@y.org").problems())
                .containsKey("to");
        assertThat(to(NoticeRule.Way.MAIL, " , ").problems()).containsKey("to");
        assertThat(to(NoticeRule.Way.WEBHOOK, "https://chat.example.org/hook").problems())
                .isEmpty();
        for (String none : List.of("file:///etc/passwd", "https://u:p@host/", "https:///x", "ftp://host/", "x")) {
            assertThat(to(NoticeRule.Way.WEBHOOK, none).problems()).as(none).containsKey("to");
        }
    }

    private static NoticeRule to(NoticeRule.Way way, String to) {
        return new NoticeRule(
                "00000001", "r", way, to, Set.of(), false, List.of(), List.of(), List.of(), "", "", false);
    }

    @Test
    void aMessageSaysAlarmsFirstAndItsSubjectIsOneLine() {
        Matter faulted = new Matter("f", Sort.FAULTED, "Line\r\nBcc: x@y", "", Set.of(), "The table is gone.", BEGIN);
        Message message = new Message(
                "1",
                BEGIN,
                "Quillmoor",
                "Europe/London",
                List.of(new Line(What.SOLVED, HELD), new Line(What.BEGAN, HELD), new Line(What.BEGAN, faulted)));
        assertThat(message.subject()).isEqualTo("Quillmoor: Line Bcc: x@y: a lane is faulted and 2 more");
        assertThat(message.text())
                .containsSubsequence(
                        "Needs somebody",
                        "The table is gone.",
                        "since 2026-11-27 06:00:00 Europe/London",
                        "held: It is so.",
                        "Solved",
                        "held: It is so.");
    }
}
