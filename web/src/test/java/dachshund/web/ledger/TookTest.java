package dachshund.web.ledger;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.CALLS_REAL_METHODS;
import static org.mockito.Mockito.mock;

import dachshund.core.ledger.Run;
import dachshund.core.transaction.StepRun;
import dachshund.engine.ledger.Happenings;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The words for how long a run took. */
class TookTest {

    private static final List<StepRun> ONE_STEP =
            List.of(new StepRun("put", StepRun.Fate.DONE, "", Map.of(), 1, 10, ""));

    private static final Took TOOK =
            new Took(mock(Shown.class, CALLS_REAL_METHODS), mock(Times.class, CALLS_REAL_METHODS));

    private static Run run(String why, long millis, List<StepRun> steps) {
        Instant at = Instant.parse("2026-11-30T12:00:00Z");
        return new Run(
                "r",
                "t",
                "Thing",
                at,
                at,
                why,
                "",
                Run.Outcome.DONE,
                millis,
                1,
                Map.of(),
                steps,
                "",
                0,
                "",
                "",
                Map.of());
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {"0 | 0 ms", "1084 | 1,084 ms", "9999 | 9,999 ms", "10000 | 10 s", "60774 | 60 s", "900000 | 15 min"
            })
    void millisecondsAreSaidAsLongAsSomebodyComparesThem(long millis, String words) {
        assertThat(TOOK.words(run("request 7", millis, ONE_STEP))).isEqualTo(words);
    }

    @Test
    void theTimeOverWhichRowsHaveLandedIsNotHowLongAnythingTook() {
        Run landed = run(Happenings.LANDED, 60_774, ONE_STEP);
        assertThat(TOOK.words(landed)).isEqualTo("over 60 s");
        assertThat(TOOK.between(landed)).isEqualTo("from the first row to the last");
    }

    @Test
    void whatCarriedNothingOutTookNoTime() {
        assertThat(TOOK.words(run("released by engineer", 0, List.of()))).isEmpty();
    }

    @Test
    void aStepSaysItsRowsAndItsTimeAndOfRowsThatHaveLandedNoTime() {
        StepRun long60 = new StepRun("rows", StepRun.Fate.DONE, "", Map.of(), 12, 60_636_000, "");
        StepRun none = new StepRun("next", StepRun.Fate.NOT_REACHED, "", Map.of(), -1, 0, "");
        assertThat(TOOK.step(run("request 7", 60_774, List.of(long60)), long60)).isEqualTo("done, 12 rows, 60,636 ms");
        assertThat(TOOK.step(run(Happenings.LANDED, 60_774, List.of(long60)), long60))
                .isEqualTo("done, 12 rows");
        assertThat(TOOK.step(run("request 7", 5, List.of(none)), none)).isEqualTo("not reached");
    }
}
