package dachshund.office.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowable;
import static org.assertj.core.api.Assertions.offset;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.Selection;
import dachshund.core.query.Per;
import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Context;
import dachshund.core.window.Span;
import dachshund.engine.transaction.PastValues;
import dachshund.office.archive.ArchiveBed;
import dachshund.office.archive.BlockTable;
import dachshund.office.archive.Histories;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Histories as rows, against what plain arithmetic makes of the same values. The clocks are set back in the middle. */
class TagRowsTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Instant FROM = Instant.parse("2026-10-24T21:00:00Z"); // 22:00 in London, the night begins
    private static final Instant TO = FROM.plus(Duration.ofHours(25));
    private static final Set<DayOfWeek> ALL = Set.of(DayOfWeek.values());
    private static final Context HERE = new Context(
            TO.plusSeconds(3600),
            LONDON,
            new ShiftCalendar(
                    List.of(
                            new Shift("Early", LocalTime.of(6, 0), LocalTime.of(14, 0), ALL),
                            new Shift("Late", LocalTime.of(14, 0), LocalTime.of(22, 0), ALL),
                            new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), ALL)),
                    List.of(),
                    true));

    private static final TagRef COUNTER = new TagRef("00000001", "count");
    private static final TagRef LEVEL = new TagRef("00000001", "level");
    private static final TagRef LOT = new TagRef("00000001", "lot");

    private static TagRows rows;
    private static Histories histories;

    /** A counter of 16 bits that rises by 7 a minute, a level of 0 to 59 by the minute, a lot an hour. */
    @BeforeAll
    static void fill() throws Exception {
        ArchiveBed.empty();
        BlockTable table = new BlockTable(ArchiveBed.POOL);
        histories = new Histories(table, () -> TO.plusSeconds(3600), tag -> List.of());
        Arrivals counts = new Arrivals();
        Arrivals levels = new Arrivals();
        Arrivals lots = new Arrivals();
        for (int minute = -60; minute < 26 * 60; minute++) {
            long at = OpcUaTime.toTicks(FROM.plusSeconds(60L * minute));
            counts.add(at, (double) Math.floorMod(65000 + 7 * minute, 65536), 0);
            if (minute != 300) {
                levels.add(at, (double) Math.floorMod(minute, 60), 0);
            } else {
                levels.add(at, null, Marks.of(Marks.Gap.AWAY));
            }
            if (minute % 60 == 0) {
                lots.add(at, Series.kept(Optional.of("L" + minute / 60)), 0);
            }
        }
        bring(table, COUNTER, counts);
        bring(table, LEVEL, levels);
        bring(table, LOT, lots);
        rows = new TagRows(
                histories,
                () -> TO.plusSeconds(3600),
                () -> HERE,
                tag -> TagValue.good(tag.equals(LOT) ? "L25" : (Object) 5.0, TO));
    }

    private static void bring(BlockTable table, TagRef tag, Arrivals values) throws Exception {
        long key = TagKey.of(tag);
        table.bringIn(
                "brought in",
                Block.of(key, values.series()),
                List.of(new Tag(key, tag, "A tag", new KeptFor(5000, KeptFor.LONGEST))));
    }

    private static TagInfo info(TagRef ref, String path, String name, DataKind kind) {
        return new TagInfo(
                ref.address(),
                path,
                name,
                kind,
                "",
                "",
                false,
                Optional.empty(),
                java.util.OptionalInt.empty(),
                Optional.empty(),
                List.of(),
                java.util.Map.of(),
                java.util.Map.of());
    }

    private static final MeantTags.Tag COUNTED =
            new MeantTags.Tag(COUNTER, info(COUNTER, "", "count", DataKind.NUMBER), "count");
    private static final MeantTags.Tag LEVELS =
            new MeantTags.Tag(LEVEL, info(LEVEL, "", "level", DataKind.NUMBER), "level");
    private static final MeantTags.Tag LOTS = new MeantTags.Tag(LOT, info(LOT, "", "lot", DataKind.TEXT), "lot");

    private record Answer(List<String> columns, List<List<Object>> rows) {
        List<Object> column(String name) {
            int at = columns.indexOf(name);
            return rows.stream().map(row -> row.get(at)).toList();
        }
    }

    private static TagHistory query(Mode mode, Optional<Per> per, boolean wide, Calculation... of) {
        return new TagHistory(Selection.ticked(List.of(COUNTER)), mode, per, Duration.ofMinutes(15), List.of(of), wide);
    }

    private static Answer ask(TagHistory query, Span span, long most, MeantTags.Tag... tags) throws Exception {
        Answer answer = new Answer(new ArrayList<>(), new ArrayList<>());
        rows.give(query, List.of(tags), Optional.of(span), Duration.ofSeconds(20), most, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                columns.forEach(each -> answer.columns().add(each.name()));
            }

            @Override
            public boolean row(List<Object> cells) {
                assertThat(cells).hasSameSizeAs(answer.columns());
                answer.rows().add(new ArrayList<>(cells));
                return true;
            }
        });
        return answer;
    }

    private static final Span DAY = new Span(FROM, TO, false);

    /** The night has nine hours, by the counter that rolls over in it. */
    @Test
    void shiftsOfADayOfTwentyFiveHours() throws Exception {
        Answer answer = ask(
                query(
                        Mode.AGGREGATED,
                        Optional.of(Per.SHIFT),
                        true,
                        new Calculation.Increase(65536),
                        new Calculation.OfPart13(Aggregate.MAXIMUM)),
                DAY,
                100,
                COUNTED);
        assertThat(answer.columns()).containsExactly("shift", "time", "count increase", "count maximum");
        assertThat(answer.column("shift")).containsExactly("Night", "Early", "Late");
        assertThat(answer.column("time"))
                .containsExactly(FROM, FROM.plus(Duration.ofHours(9)), FROM.plus(Duration.ofHours(17)));
        assertThat(answer.column("count increase")).containsExactly(7.0 * 540, 7.0 * 480, 7.0 * 480);
        assertThat((Double) answer.column("count maximum").get(0)).isGreaterThan(65528.0);
    }

    @Test
    void everyCalculationOfAnHour() throws Exception {
        Answer answer = ask(
                query(
                        Mode.AGGREGATED,
                        Optional.of(Per.HOUR),
                        false,
                        new Calculation.OfPart13(Aggregate.AVERAGE),
                        new Calculation.OfPercent(50),
                        new Calculation.TimeAbove(29.5),
                        new Calculation.OfPart13(Aggregate.COUNT)),
                DAY,
                1000,
                LEVELS);
        assertThat(answer.columns())
                .containsExactly("time", "tag", "average", "percentile_50", "seconds_above", "count", "percent_good");
        assertThat(answer.rows()).hasSize(25);
        List<Object> first = answer.rows().get(0);
        assertThat(first.get(1)).isEqualTo("level");
        assertThat((Double) first.get(2)).isCloseTo(29.5, offset(1e-9));
        assertThat((Double) first.get(3)).isCloseTo(29.5, offset(1e-9));
        // Up to 59 by 59 minutes, and back to 0 in the last: above 29.5 from 29.5 min on, and half of the last minute.
        assertThat((Double) first.get(4)).isCloseTo(29.5 * 60 + 30, offset(0.01));
        assertThat(first.get(5)).isEqualTo(60.0);
        // In the sixth hour the source was away for a minute.
        assertThat((Double) answer.rows().get(5).get(6)).isLessThan(100).isGreaterThan(96);
    }

    @Test
    void atEvenTimesTextsHoldAndNumbersLieOnTheLine() throws Exception {
        Answer answer = ask(query(Mode.EVEN, Optional.empty(), true), DAY, 1000, LEVELS, LOTS);
        assertThat(answer.columns()).containsExactly("time", "level", "lot");
        assertThat(answer.rows()).hasSize(100);
        assertThat(answer.rows().get(3)).containsExactly(FROM.plusSeconds(2700), 45.0, "L0");
        assertThat(answer.rows().get(4)).containsExactly(FROM.plusSeconds(3600), 0.0, "L1");
        assertThat(answer.rows().get(20).get(1)).as("in the gap").isNull();
    }

    @Test
    void everyValueOfSeveralTagsInTheOrderOfTheirTimes() throws Exception {
        Span hour = new Span(FROM, FROM.plusSeconds(3600), false);
        Answer wide = ask(query(Mode.EVERY, Optional.empty(), true), hour, 1000, LEVELS, LOTS);
        assertThat(wide.rows()).hasSize(60);
        assertThat(wide.rows().get(0)).containsExactly(FROM, 0.0, "L0");
        assertThat(wide.rows().get(1).get(2)).isNull();
        Answer tall = ask(query(Mode.EVERY, Optional.empty(), false), hour, 1000, LEVELS, LOTS);
        assertThat(tall.rows()).hasSize(61);
        assertThat(tall.rows().get(1)).containsExactly(FROM, "lot", "L0", "good");
        assertThat(ask(query(Mode.EVERY, Optional.empty(), false), hour, 7, LEVELS, LOTS)
                        .rows())
                .hasSize(7);
        Answer latest = ask(query(Mode.LATEST, Optional.empty(), true), hour, 7, LEVELS, LOTS);
        assertThat(latest.rows()).containsExactly(List.of(5.0, "L25"));
        assertThat(ask(query(Mode.OUTLINE, Optional.empty(), true), DAY, 10_000, LEVELS)
                        .column("level"))
                .contains(59.0, 0.0);
    }

    @Test
    void whatIsTooMuchIsSaid() {
        Span years = new Span(FROM.minus(Duration.ofDays(4000)), TO, false);
        assertThat(catchThrowable(() -> ask(query(Mode.EVEN, Optional.empty(), true), years, 10, LEVELS)))
                .hasMessageContaining("more than 100000 periods");
        assertThat(catchThrowable(() -> ask(query(Mode.EVEN, Optional.of(Per.HOUR), true), years, 10, LEVELS)))
                .hasMessageContaining("more than 8000 periods");
    }

    /** Names are as short as they can be. */
    @Test
    void tagsAreToldApartByTheirPaths() {
        List<MeantTags.Tag> named = MeantTags.named(Stream.of(
                        info(new TagRef("s", "1"), "Pelleting / PL1", "Pellets made", DataKind.NUMBER),
                        info(new TagRef("s", "2"), "Pelleting / PL2", "Pellets made", DataKind.NUMBER),
                        info(new TagRef("s", "3"), "Drying", "Outlet temperature", DataKind.NUMBER),
                        info(new TagRef("s", "4"), "Other / PL2", "Pellets made", DataKind.NUMBER),
                        info(new TagRef("s", "5"), "Drying", "Outlet temperature", DataKind.NUMBER))
                .map(tag -> new Assigned.Tag(new TagRef("s", tag.address()), null, tag))
                .toList());
        assertThat(named)
                .extracting(MeantTags.Tag::name)
                .containsExactly(
                        "PL1 Pellets made",
                        "Pelleting PL2 Pellets made",
                        "Drying Outlet temperature",
                        "Other PL2 Pellets made",
                        "Drying Outlet temperature 2");
    }

    private static PastOfTags past(boolean heard, String trouble) {
        return new PastOfTags(
                histories,
                rows,
                ref -> Stream.of(COUNTED, LEVELS, LOTS)
                        .filter(tag -> tag.ref().equals(ref))
                        .map(MeantTags.Tag::info)
                        .findFirst(),
                () -> TO,
                limit -> heard,
                () -> trouble);
    }

    private static Calculation part13(Aggregate aggregate) {
        return new Calculation.OfPart13(aggregate);
    }

    /** What a transaction computes of the lot before it, at an instant amid the next one. */
    @Test
    void whatARunIsToldOfTheTimeBeforeIt() throws Exception {
        PastOfTags past = past(true, "");
        Instant at = FROM.plus(Duration.ofMinutes(150)); // half of L2 is over
        PastValues.Held now = past.held(LOT, at, false, Duration.ofDays(1)).orElseThrow();
        PastValues.Held before = past.held(LOT, at, true, Duration.ofDays(1)).orElseThrow();
        Instant l1 = FROM.plus(Duration.ofHours(1));
        Instant l2 = FROM.plus(Duration.ofHours(2));
        assertThat(now).isEqualTo(new PastValues.Held(l2, at));
        assertThat(before).isEqualTo(new PastValues.Held(l1, l2));
        assertThat(past.computed(COUNTER, new Calculation.Increase(65536), l1, l2))
                .isEqualTo(7.0 * 60);
        assertThat(past.computed(COUNTER, new Calculation.Increase(65536), l2, at))
                .isEqualTo(7.0 * 30);
        assertThat(past.computed(LEVEL, part13(Aggregate.AVERAGE), l1, l2)).isEqualTo(29.5);
        assertThat(past.computed(LEVEL, part13(Aggregate.MAXIMUM), l2, at)).isEqualTo(29.0);
        assertThat(past.computed(LOT, part13(Aggregate.END), l1, l2)).isEqualTo("L1");
        assertThat(past.computed(LOT, part13(Aggregate.START), l1, at)).isEqualTo("L1");
        assertThat(past.computed(LOT, part13(Aggregate.START), l1.plusSeconds(1), at))
                .isEqualTo("L1");
        assertThat(past.computed(LOT, part13(Aggregate.COUNT), l1, at)).isEqualTo(2L);
        // At the instant of a change it has the new value, for no time yet.
        assertThat(past.held(LOT, l2, false, Duration.ofDays(1))).contains(new PastValues.Held(l2, l2));
        assertThat(past.held(LOT, l2, true, Duration.ofDays(1))).contains(new PastValues.Held(l1, l2));
        // Not further back than it may go.
        assertThat(past.held(LOT, at, false, Duration.ofMinutes(10)))
                .contains(new PastValues.Held(at.minusSeconds(600), at));
        assertThat(past.held(LOT, at, true, Duration.ofMinutes(10))).isEmpty();
        assertThat(past.held(LOT, at, true, Duration.ofMinutes(60)))
                .contains(new PastValues.Held(at.minusSeconds(3600), l2));
        // Long before anything was kept.
        assertThat(past.held(LOT, FROM.minus(Duration.ofDays(9)), false, Duration.ofDays(1)))
                .isEmpty();
        assertThat(past.computed(
                        LEVEL, part13(Aggregate.AVERAGE), FROM.minusSeconds(99_000), FROM.minusSeconds(90_000)))
                .isNull();
    }

    @Test
    void anArchiveThatIsBehindOrNotWholeGivesNoNumber() {
        assertThat(catchThrowable(() -> past(false, "").computed(LEVEL, part13(Aggregate.AVERAGE), FROM, TO)))
                .hasMessageContaining("The archive is behind");
        assertThat(catchThrowable(() -> past(true, "Disk.").held(LOT, TO, false, Duration.ofDays(1))))
                .hasMessageContaining("not whole now. Disk.");
        assertThat(catchThrowable(() ->
                        past(true, "").computed(new TagRef("00000001", "gone"), part13(Aggregate.AVERAGE), FROM, TO)))
                .hasMessageContaining("not there any more");
    }
}
