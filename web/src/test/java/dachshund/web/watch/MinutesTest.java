package dachshund.web.watch;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.engine.count.CounterBook.Minute;
import dachshund.web.watch.WatchController.Minutes;
import java.time.Instant;
import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class MinutesTest {

    private static final Instant NOON = Instant.parse("2026-05-01T12:00:00Z");

    private static Minute minute(int at, long landed) {
        return new Minute(NOON.minusSeconds(60L * at), 60, landed, 0, 0, 0);
    }

    @Test
    void anHourInWhichOneMinuteDiffersIsThreeLines() {
        List<Minute> hour = IntStream.range(0, 60)
                .mapToObj(at -> minute(at, at == 20 ? 59 : 60))
                .toList();
        assertThat(Minutes.of(hour))
                .containsExactly(
                        new Minutes(minute(0, 60), minute(19, 60), 20),
                        new Minutes(minute(20, 59), minute(20, 59), 1),
                        new Minutes(minute(21, 60), minute(59, 60), 39));
        assertThat(Minutes.of(List.of())).isEmpty();
    }
}
