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

    private static Rehearsal.Rehearsed rehearse(Optional<Condition> gate, When... whens) {
        Layout layout = Layout.proposed()
                .plus(Column.of("outlet", SqlType.DOUBLE, new ColumnSource.FromTag(OUTLET, ColumnSource.Aspect.VALUE)))
                .plus(Column.of("lot", SqlType.text(20), new ColumnSource.FromTag(LOT, ColumnSource.Aspect.VALUE)));
        RecorderDefinition design = new RecorderDefinition(
                "deadbeef", "Dryer log", "", "", List.of(whens), gate, layout, List.of(), Optional.empty());
        return Rehearsal.run(
                design,
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
