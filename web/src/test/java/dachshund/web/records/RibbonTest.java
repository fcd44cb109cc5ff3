package dachshund.web.records;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Layout;
import dachshund.core.time.PeriodText;
import dachshund.core.when.When;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RibbonTest {

    private static Ribbon ribbon(String period) {
        RecorderDefinition recorder = new RecorderDefinition("00000001", "r", "", List.of(new When.Every(PeriodText.read(period))), Layout.proposed(), List.of());
        return Ribbon.of(recorder, Instant.parse("2026-11-24T06:00:00.250Z"), ZoneId.of("Europe/London"));
    }

    @ParameterizedTest
    @CsvSource({"100 ms,36000", "1 s,3600", "5 s,720", "15 min,4", "1 h,1"})
    void saysHowManyRowsAnHour(String period, long rows) {
        assertThat(ribbon(period).sentence()).startsWith(String.format(java.util.Locale.UK, "%,d rows an hour", rows));
    }

    @ParameterizedTest
    @CsvSource({"100 ms", "1 s", "7 s", "1 min", "15 min", "1 h", "8 h", "24 h"})
    void ticksLieInsideAndArePastUpToNow(String period) {
        Ribbon ribbon = ribbon(period);
        assertThat(ribbon.ticks()).hasSizeBetween(2, 400).allMatch(tick -> tick.x() >= 0 && tick.x() <= Ribbon.WIDTH);
        assertThat(ribbon.ticks()).allMatch(tick -> tick.past() == tick.x() <= ribbon.now());
        assertThat(ribbon.labels()).isNotEmpty();
    }

    @Test
    void aSecondIsDrawnToScale() {
        List<Ribbon.Tick> ticks = ribbon("1 s").ticks();
        assertThat(ticks.get(1).x() - ticks.get(0).x()).isEqualTo(Ribbon.WIDTH / 20.0);
    }
}
