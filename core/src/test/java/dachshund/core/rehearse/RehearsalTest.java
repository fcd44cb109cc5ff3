package dachshund.core.rehearse;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Made;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Condition;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class RehearsalTest {

    private static final Instant START = Instant.parse("2026-11-25T06:00:00Z");
    private static final Instant NOW = START.plusSeconds(600);
    private static final TagRef OUTLET = new TagRef("s", "outlet");
    private static final TagRef LOT = new TagRef("s", "lot");
    private static final RowId ID = new RowId("0a1b2c", "deadbeef", 1, 0, 0);

    private static TagValue at(int second, Object value) {
        return TagValue.good(value, START.plusSeconds(second));
    }

    /** A ramp of 0.1 a second, and a lot that changes after 400 s. */
    private static final Map<TagRef, List<TagValue>> HISTORY = Map.of(
            OUTLET,
            IntStream.rangeClosed(-1, 600).mapToObj(n -> at(n, 70 + n * 0.1)).toList(),
            LOT,
            List.of(at(-300, "L1"), at(400, "L2")));

    private static RecorderDefinition design(Optional<Condition> gate, When... whens) {
        Layout layout = Layout.proposed()
                .plus(Column.of("outlet", SqlType.DOUBLE, new ColumnSource.FromTag(OUTLET, ColumnSource.Aspect.VALUE)))
                .plus(Column.of("lot", SqlType.text(20), new ColumnSource.FromTag(LOT, ColumnSource.Aspect.VALUE)));
        return new RecorderDefinition(
                "deadbeef", "Dryer log", "", "", List.of(whens), gate, layout, List.of(), Optional.empty());
    }

    private static Rehearsal.Rehearsed rehearse(Optional<Condition> gate, When... whens) {
        return Rehearsal.run(
                design(gate, whens),
                new Plant("Quillmoor", ZoneOffset.UTC, List.of()),
                ID,
                HISTORY,
                START,
                NOW,
                NOW.plusSeconds(60),
                5);
    }

    @Test
    void aRateWritesTheValuesThatWereThereAtEachTick() {
        Rehearsal.Rehearsed rehearsed = rehearse(Optional.empty(), new When.Every(Duration.ofSeconds(10)));
        assertThat(rehearsed.past()).hasSize(60).endsWith(NOW);
        assertThat(rehearsed.next()).hasSize(6);
        assertThat(rehearsed.rowsAnHour()).isEqualTo(360);
        assertThat(rehearsed.rows())
                .hasSize(5)
                .last()
                .extracting(made -> ((Made.Whole) made).row().cells()[2])
                .isEqualTo(70 + 600 * 0.1);
        assertThat(((Made.Whole) rehearsed.rows().get(0)).row().cells()).contains("L2");
        assertThat(rehearsed.bytesPerRow()).as("time, row id, number, lot").isBetween(50.0, 70.0);
    }

    @Test
    void aChangeWithADeadbandIsRehearsedOverTheRealValues() {
        Rehearsal.Rehearsed rehearsed = rehearse(
                Optional.empty(),
                new When.OnChange(
                        new Deadband(Deadband.Kind.ABSOLUTE, 1), List.of(OUTLET), Duration.ZERO, Duration.ZERO));
        assertThat(rehearsed.past())
                .as("a ramp of 60 passes a band of 1 some 55 times: each step is the first beyond it")
                .hasSizeBetween(54, 60);
        assertThat(rehearsed.rowsAnHour()).isEqualTo(rehearsed.past().size() * 6.0);
        assertThat(rehearse(Optional.empty(), new When.OnIdentifier(LOT, Duration.ZERO, Duration.ZERO))
                        .past())
                .containsExactly(START.plusSeconds(400));
    }

    /** Gone through in parts of a minute and a half, as a backfill does it by the hour. */
    private static List<String> inParts(Map<TagRef, List<TagValue>> history, Optional<Condition> gate, When... whens) {
        List<String> made = new ArrayList<>();
        Map<TagRef, TagValue> before = new HashMap<>();
        history.forEach((tag, values) -> values.stream()
                .filter(value -> value.receiveTime().isBefore(START))
                .forEach(value -> before.put(tag, value)));
        Rehearsal rehearsal = Rehearsal.begin(
                design(gate, whens),
                new Plant("Quillmoor", ZoneOffset.UTC, List.of()),
                ID,
                before,
                START,
                new Rehearsal.Taker() {
                    @Override
                    public void row(Made row) {
                        made.add(Arrays.toString(((Made.Whole) row).row().cells()));
                    }

                    @Override
                    public void unknown(Instant at, TagRef tag) {
                        made.add(at + " unknown " + tag.address());
                    }
                });
        for (Instant from = START; !from.isAfter(NOW); from = from.plusSeconds(90)) {
            Instant begin = from;
            Instant end = from.plusSeconds(90).isAfter(NOW) ? NOW.plusNanos(1) : from.plusSeconds(90);
            Map<TagRef, List<TagValue>> part = new HashMap<>();
            history.forEach((tag, values) -> part.put(
                    tag,
                    values.stream()
                            .filter(value -> !value.receiveTime().isBefore(begin)
                                    && value.receiveTime().isBefore(end))
                            .toList()));
            rehearsal.go(part, end.minusNanos(1));
        }
        return made;
    }

    @Test
    void aTimeThatIsGoneThroughInPartsGivesTheSameRows() {
        Condition hot = new Condition("outlet > 100 && outlet < 120", Map.of("outlet", OUTLET));
        Deadband one = new Deadband(Deadband.Kind.ABSOLUTE, 1);
        for (When when : List.of(
                new When.Every(Duration.ofSeconds(7)),
                new When.OnChange(one, List.of(OUTLET), Duration.ZERO, Duration.ZERO),
                new When.OnIdentifier(LOT, Duration.ofSeconds(2), Duration.ZERO))) {
            for (Optional<Condition> gate : List.of(Optional.<Condition>empty(), Optional.of(hot))) {
                Rehearsal.Rehearsed whole = Rehearsal.run(
                        design(gate, when),
                        new Plant("Quillmoor", ZoneOffset.UTC, List.of()),
                        ID,
                        HISTORY,
                        START,
                        NOW,
                        NOW,
                        10_000);
                assertThat(inParts(HISTORY, gate, when))
                        .as("%s %s", when, gate)
                        .isEqualTo(whole.rows().stream()
                                .map(row ->
                                        Arrays.toString(((Made.Whole) row).row().cells()))
                                .toList());
            }
        }
    }

    @Test
    void whereNothingIsKnownOfATagNoRowIsMadeAndThatIsTold() {
        TagValue gap =
                new TagValue(Optional.empty(), Rehearsal.UNKNOWN, START.plusSeconds(200), START.plusSeconds(200));
        List<String> made = inParts(
                Map.of(OUTLET, HISTORY.get(OUTLET), LOT, List.of(at(-300, "L1"), gap, at(400, "L2"))),
                Optional.empty(),
                new When.Every(Duration.ofSeconds(50)));
        assertThat(made).hasSize(12);
        assertThat(made.subList(3, 7)).allMatch(row -> row.endsWith("unknown lot"));
        assertThat(made).filteredOn(row -> row.contains("unknown")).hasSize(4);
    }

    @Test
    void theGatesOpenSpansAreKnown() {
        Condition hot = new Condition("outlet > 100 && outlet < 120", Map.of("outlet", OUTLET));
        Rehearsal.Rehearsed rehearsed = rehearse(Optional.of(hot), new When.Every(Duration.ofSeconds(60)));
        assertThat(rehearsed.open()).singleElement().satisfies(span -> {
            assertThat(span.from()).isBetween(START.plusSeconds(300), START.plusSeconds(302));
            assertThat(span.to()).isBetween(START.plusSeconds(499), START.plusSeconds(501));
        });
        assertThat(rehearsed.past())
                .containsExactly(START.plusSeconds(360), START.plusSeconds(420), START.plusSeconds(480));
    }

    @Test
    void nothingIsKnownOfATagWithoutHistory() {
        Rehearsal.Rehearsed rehearsed = rehearse(
                Optional.of(new Condition("x > 1", Map.of("x", new TagRef("s", "new")))),
                new When.Every(Duration.ofSeconds(1)));
        assertThat(rehearsed.past()).isEmpty();
        assertThat(rehearsed.rows()).isEmpty();
    }
}
