package dachshund.engine.count;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.outcome.Outcome;
import dachshund.engine.count.CounterBook.Minute;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;

class CounterBookTest {

    private static final Instant NOW = Instant.parse("2026-11-24T06:30:30Z");
    private final CounterBook book = new CounterBook();

    @Test
    void aRowCountsInTheMinuteItWasDueWheneverItLands() {
        book.due("r", NOW.minusSeconds(120), 3);
        book.landed("r", new Instant[] {NOW.minusSeconds(120)}, NOW);
        book.count("r", NOW.minusSeconds(120), Outcome.SET_ASIDE, 1);
        Minute minute = book.hour("r", NOW).get(57);
        assertThat(minute.due()).isEqualTo(3);
        assertThat(minute.landed()).isEqualTo(1);
        assertThat(minute.setAside()).isEqualTo(1);
        assertThat(minute.held()).isEqualTo(1);
        assertThat(book.slowest("r", NOW)).isEqualTo(Duration.ofMinutes(2));
        assertThat(book.total(Outcome.LANDED)).isEqualTo(1);
    }

    @Test
    void theLastHourGoesOnAfterARestart() {
        book.due("r", NOW.minusSeconds(120), 5);
        book.landed("r", new Instant[] {NOW.minusSeconds(120), NOW.minusSeconds(120)}, NOW);
        CounterBook after = new CounterBook();
        after.restore(book.kept(NOW.minus(Duration.ofMinutes(61))));
        assertThat(after.hour("r", NOW)).isEqualTo(book.hour("r", NOW));
        after.landed("r", new Instant[] {NOW.minusSeconds(120)}, NOW); // one that was held
        assertThat(after.hour("r", NOW).get(57).landed()).isEqualTo(3);
        assertThat(book.kept(NOW.minusSeconds(30))).as("older than asked for").isEmpty();
    }

    @Test
    void theHourHasSixtyMinutesWithoutGapsAndForgetsOlderOnes() {
        for (int minute = 0; minute < 200; minute++) {
            book.due("r", NOW.minus(Duration.ofMinutes(199L - minute)), minute);
        }
        List<Minute> hour = book.hour("r", NOW);
        assertThat(hour).hasSize(60).extracting(Minute::due).startsWith(140L).endsWith(199L);
        assertThat(hour.get(0).start()).isEqualTo(Instant.parse("2026-11-24T05:31:00Z"));
        book.due("r", NOW.minus(Duration.ofHours(5)), 99);
        assertThat(book.hour("r", NOW))
                .as("a late row does not bring back a minute that has left the strip")
                .isEqualTo(hour);
        assertThat(book.hour("somebody else", NOW)).allMatch(minute -> minute.due() == 0);
    }
}
