package dachshund.engine.clock;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.engine.FakeClock;
import dachshund.engine.local.LocalStore;
import java.nio.file.Path;
import java.time.Duration;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class ClockDoubtTest {

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private LocalStore local;

    @BeforeEach
    void begin() {
        local = new LocalStore(folder.resolve("local.db"));
    }

    @AfterEach
    void end() {
        local.close();
    }

    @Test
    void timeThatPassesIsBelieved() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        assertThat(looks.doubt()).isEmpty();
        clock.pass(Duration.ofDays(9));
        assertThat(looks.doubt()).as("looked at seldom").isEmpty();
        clock.set(Duration.ofHours(2));
        clock.pass(Duration.ofMinutes(1));
        assertThat(looks.doubt()).as("set a little").isEmpty();
        ClockDoubt again = new ClockDoubt(clock, local);
        clock.set(Duration.ofHours(20));
        assertThat(again.doubt()).as("a night without").isEmpty();
    }

    @Test
    void aClockThatIsSetFarAheadIsDoubtedForThreeDaysAndByAll() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        looks.doubt();
        clock.set(Duration.ofDays(3653));
        assertThat(looks.doubt().orElseThrow().words())
                .startsWith("The clock of this machine moved by ")
                .contains(" ahead", "Nothing is removed for its age until 2036-11-27T06:00:00Z");
        assertThat(new ClockDoubt(clock, local).doubt())
                .as("another, and after a restart")
                .isPresent();
        clock.pass(Duration.ofDays(2));
        assertThat(looks.doubt()).isPresent();
        clock.pass(Duration.ofDays(1));
        assertThat(looks.doubt()).isEmpty();
    }

    @Test
    void whoeverSetsItRightIsDoubtedForThreeDaysMore() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        looks.doubt();
        clock.set(Duration.ofDays(3653));
        looks.doubt();
        clock.pass(Duration.ofHours(1));
        clock.set(Duration.ofDays(-3653));
        assertThat(looks.doubt().orElseThrow().by()).isNegative();
        assertThat(looks.doubt().orElseThrow().until()).isEqualTo(clock.now().plus(ClockDoubt.LASTS));
        clock.pass(Duration.ofDays(3));
        assertThat(looks.doubt()).isEmpty();
    }

    /** Its disk fails: nothing is removed, and the sentence says why; when it is back nothing is doubted for that. */
    @Test
    void whereNobodyCanTellNothingIsRemoved() {
        ClockDoubt looks = new ClockDoubt(clock, local);
        looks.doubt();
        local.close();
        clock.pass(Duration.ofMinutes(2));
        assertThat(looks.doubt().orElseThrow().words())
                .startsWith("When the clock of this machine was seen last cannot be read");
        clock.set(Duration.ofDays(3653));
        assertThat(looks.doubt()).as("and a jump meanwhile").isPresent();
        local = new LocalStore(folder.resolve("local.db"));
        assertThat(new ClockDoubt(clock, local).doubt().orElseThrow().by()).isPositive();
    }

    @Test
    void aRestartWithAnotherClockIsDoubtedAndAFirstStartIsNot() {
        assertThat(new ClockDoubt(clock, local).doubt()).isEmpty();
        clock.set(Duration.ofDays(40));
        assertThat(new ClockDoubt(clock, local).doubt()).isPresent();
        local.remember("clock doubted", "nonsense");
        local.remember("clock seen", "nonsense");
        assertThat(new ClockDoubt(clock, local).doubt())
                .as("what cannot be read stops nothing")
                .isEmpty();
    }
}
