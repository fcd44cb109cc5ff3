package dachshund.core.ledger;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.ledger.RunDays.Day;
import dachshund.core.ledger.RunDays.Ended;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Days are those of the plant, and a failed run says nothing of how long one takes. */
class RunDaysTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    @Test
    void daysOfThePlantTheNewestFirst() {
        List<Ended> runs = new ArrayList<>();
        // 23:30 UTC in summer is the next day in London.
        runs.add(new Ended(Instant.parse("2026-07-01T23:30:00Z"), Run.Outcome.DONE, 7));
        for (int i = 1; i <= 20; i++) {
            runs.add(new Ended(Instant.parse("2026-07-01T10:00:00Z"), Run.Outcome.DONE, i * 10L));
        }
        runs.add(new Ended(Instant.parse("2026-07-01T11:00:00Z"), Run.Outcome.ALREADY, 1000));
        runs.add(new Ended(Instant.parse("2026-07-01T12:00:00Z"), Run.Outcome.FAILED, 99_999));
        runs.add(new Ended(Instant.parse("2026-07-01T12:00:00Z"), Run.Outcome.DROPPED, 0));
        assertThat(RunDays.of(runs, LONDON))
                .containsExactly(
                        new Day(LocalDate.of(2026, 7, 2), 1, 0, 7, 7, 7),
                        new Day(LocalDate.of(2026, 7, 1), 21, 2, 110, 200, 1000));
    }

    @Test
    void aDayOfFailuresAlone() {
        assertThat(RunDays.of(
                        List.of(new Ended(Instant.parse("2026-01-01T00:00:00Z"), Run.Outcome.UNCERTAIN, 5)), LONDON))
                .containsExactly(new Day(LocalDate.of(2026, 1, 1), 0, 1, 0, 0, 0));
        assertThat(RunDays.of(List.of(), LONDON)).isEmpty();
    }
}
