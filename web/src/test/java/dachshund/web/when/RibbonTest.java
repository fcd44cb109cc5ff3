package dachshund.web.when;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Layout;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.RowId;
import dachshund.core.time.PeriodText;
import dachshund.core.when.When;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RibbonTest {

    private static final Instant NOW = Instant.parse("2026-11-24T06:00:00.250Z");

    private static Ribbon ribbon(String period) {
        RecorderDefinition recorder = new RecorderDefinition(
                "00000001", "r", "", List.of(new When.Every(PeriodText.read(period))), Layout.proposed(), List.of());
        Plant plant = new Plant("", ZoneId.of("Europe/London"), List.of());
        Duration half = Ribbon.span(recorder).dividedBy(2);
        return Ribbon.of(
                recorder,
                Rehearsal.run(
                        recorder,
                        plant,
                        new RowId("000001", "00000001", 1, 0, 0),
                        Map.of(),
                        NOW.minus(half),
                        NOW,
                        NOW.plus(half),
                        1),
                NOW,
                plant.zone());
    }

    @ParameterizedTest
    @CsvSource({"10 ms", "100 ms", "1 s", "7 s", "1 min", "15 min", "1 h", "8 h", "24 h"})
    void ticksLieInsideAndArePastUpToNow(String period) {
        Ribbon ribbon = ribbon(period);
        assertThat(ribbon.ticks()).hasSizeBetween(2, 600).allMatch(tick -> tick.x() >= 0 && tick.x() <= Ribbon.WIDTH);
        assertThat(ribbon.ticks()).allMatch(tick -> tick.past() == tick.x() <= ribbon.now());
        assertThat(ribbon.labels()).isNotEmpty();
    }

    @Test
    void aSecondIsDrawnToScale() {
        List<Ribbon.Tick> ticks = ribbon("1 s").ticks();
        assertThat(ticks.get(1).x() - ticks.get(0).x()).isEqualTo(Ribbon.WIDTH / 20.0);
    }
}
