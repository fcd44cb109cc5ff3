package dachshund.web.ledger;

import dachshund.core.ledger.Run;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.StepRun;
import dachshund.engine.ledger.Happenings;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import java.time.Duration;
import java.util.Locale;
import org.springframework.stereotype.Component;

/** How long a run took, for the pages of the ledger. */
@Component("took")
public final class Took {

    /** Up to here somebody compares milliseconds. */
    private static final long FINE_MILLIS = 10_000;

    private final Shown shown;
    private final Times times;

    Took(Shown shown, Times times) {
        this.shown = shown;
        this.times = times;
    }

    /** 1,084 ms, 61 s; of rows that have landed "over 61 s", since those of a while stand in one line; empty where nothing was carried out. */
    public String words(Run run) {
        if (run.steps().isEmpty()) {
            return "";
        }
        String words = run.millis() < FINE_MILLIS
                ? String.format(Locale.UK, "%,d ms", run.millis())
                : PeriodText.roughly(Duration.ofMillis(run.millis()));
        return (isSpan(run) ? "over " : "") + words;
    }

    /** What the time lies between, in words. */
    public String between(Run run) {
        return isSpan(run) ? "from the first row to the last" : "from the trigger to the end";
    }

    /** What became of a step, how many rows it touched and how long it took; of rows that have landed nobody asks the last. */
    public String step(Run run, StepRun step) {
        StringBuilder words = new StringBuilder(step.fate().words());
        if (step.rows() >= 0) {
            words.append(", ").append(shown.count(step.rows(), "row"));
        }
        if (step.micros() > 0 && !isSpan(run)) {
            words.append(", ").append(times.micros(step.micros()));
        }
        return words.toString();
    }

    private static boolean isSpan(Run run) {
        return run.why().equals(Happenings.LANDED);
    }
}
