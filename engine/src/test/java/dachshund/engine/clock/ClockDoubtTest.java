package dachshund.engine.clock;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class ClockDoubtTest {

    @TempDir
    Path folder;

    private Instant now = Instant.parse("2026-11-30T02:45:00Z");
    private long nanos;
    private LocalStore local;

    private final PlantClock clock = new PlantClock() {
        @Override
        public Instant now() {
            return now;
        }

        @Override
        public long nanos() {
            return nanos;
        }
    };

    @BeforeEach
    void begin() {
        local = new LocalStore(folder.resolve("local.db"));
    }

    @AfterEach
    void end() {
        local.close();
    }

    private void passes(Duration time) {
        now = now.plus(time);
        nanos += time.toNanos();
    }

    private void isSet(Duration by) {
        now = now.plus(by);
    }

    @Test
    void timeThatPassesIsBelieved() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        assertThat(looks.doubt()).isEmpty();
        passes(Duration.ofDays(9));
        assertThat(looks.doubt()).as("looked at seldom").isEmpty();
        isSet(Duration.ofHours(2));
        passes(Duration.ofMinutes(1));
        assertThat(looks.doubt()).as("set a little").isEmpty();
        ClockDoubt again = new ClockDoubt(clock, local);
        isSet(Duration.ofHours(20));
        assertThat(again.doubt()).as("a night without").isEmpty();
    }

    @Test
    void aClockThatIsSetFarAheadIsDoubtedForThreeDaysAndByAll() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        looks.doubt();
        isSet(Duration.ofDays(3653));
        assertThat(looks.doubt().orElseThrow().words())
                .startsWith("The clock of this machine moved by ")
                .contains(" ahead", "Nothing is removed for its age until 2036-12-03T02:45:00Z");
        assertThat(new ClockDoubt(clock, local).doubt())
                .as("another, and after a restart")
                .isPresent();
        passes(Duration.ofDays(2));
        assertThat(looks.doubt()).isPresent();
        passes(Duration.ofDays(1));
        assertThat(looks.doubt()).isEmpty();
    }

    @Test
    void whoeverSetsItRightIsDoubtedForThreeDaysMore() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        looks.doubt();
        isSet(Duration.ofDays(3653));
        looks.doubt();
        passes(Duration.ofHours(1));
        isSet(Duration.ofDays(-3653));
        assertThat(looks.doubt().orElseThrow().by()).isNegative();
        assertThat(looks.doubt().orElseThrow().until()).isEqualTo(now.plus(ClockDoubt.LASTS));
        passes(Duration.ofDays(3));
        assertThat(looks.doubt()).isEmpty();
    }

    @Test
    void aRestartWithAnotherClockIsDoubtedAndAFirstStartIsNot() {
        assertThat(new ClockDoubt(clock, local).doubt()).isEmpty();
        isSet(Duration.ofDays(40));
        nanos = -5;
        assertThat(new ClockDoubt(clock, local).doubt()).isPresent();
        local.remember("clock doubted", "nonsense");
        local.remember("clock seen", "nonsense");
        assertThat(new ClockDoubt(clock, local).doubt())
                .as("what cannot be read stops nothing")
                .isEmpty();
    }
}
