package dachshund.core.transaction;

import dachshund.core.time.PeriodText;
import java.time.Duration;

/**
 * What bounds a run, and what happens where it fails.
 *
 * @param limit     a run that is not committed by then is broken off and answered; 100 ms to 10 min
 * @param retries   how often a failure that the database calls passing is tried again within the limit; 0 to 20
 * @param pause     between two tries; up to 1 min
 * @param settle    how long after its trigger tags are read, where the plant writes its trigger before its data; up to 1 min
 * @param parallel  how many runs at once, 1 to 32
 * @param waiting   how many triggers may wait; further ones are dropped and counted; 0 to 10,000
 * @param stopAfter after so many failed runs in a row it stops itself; 0 for never
 * @param hold      whether what fails for a passing reason is held and done later, in its order, where no plant waits for it
 * @param apart     whether it waits its turn with all others of its equipment that do: one run at a time is under way there
 * @param keepMarks for how many days the mark of a request that is done stays; 0 for ever, else 8 to 3,650: longer than rows of a
 *                  table are looked back for
 */
public record Policy(
        Duration limit,
        int retries,
        Duration pause,
        Duration settle,
        int parallel,
        int waiting,
        int stopAfter,
        boolean hold,
        boolean apart,
        int keepMarks) {

    /** As long as runs stand in the ledger. */
    public static final int MARKS_USUALLY_KEPT = 400;

    private static final int LEAST_KEPT = 8;
    private static final int MOST_KEPT = 3650;

    public static final Policy USUAL = new Policy(
            Duration.ofSeconds(10),
            2,
            Duration.ofMillis(500),
            Duration.ZERO,
            1,
            100,
            10,
            false,
            false,
            MARKS_USUALLY_KEPT);

    public Policy {
        between(limit, Duration.ofMillis(100), Duration.ofMinutes(10), "The time limit of a run");
        between(pause, Duration.ZERO, Duration.ofMinutes(1), "The pause between two tries");
        between(settle, Duration.ZERO, Duration.ofMinutes(1), "The settle time");
        between(retries, 0, 20, "The number of further tries");
        between(parallel, 1, 32, "The number of runs at once");
        between(waiting, 0, 10_000, "The number of triggers that may wait");
        between(stopAfter, 0, 1000, "The number of failed runs in a row");
        if (keepMarks != 0) {
            between(
                    keepMarks,
                    LEAST_KEPT,
                    MOST_KEPT,
                    "The number of days that marks are kept, where it is not 0 for ever,");
        }
    }

    /** The same, broken off later or sooner. */
    public Policy within(Duration most) {
        return new Policy(most, retries, pause, settle, parallel, waiting, stopAfter, hold, apart, keepMarks);
    }

    /** The same, trying again so often what fails for a passing reason. */
    public Policy trying(int more, Duration pauses) {
        return new Policy(limit, more, pauses, settle, parallel, waiting, stopAfter, hold, apart, keepMarks);
    }

    /** The same, reading tags so long after the trigger. */
    public Policy settling(Duration time) {
        return new Policy(limit, retries, pause, time, parallel, waiting, stopAfter, hold, apart, keepMarks);
    }

    /** The same, with so many runs under way at most. */
    public Policy atOnce(int runs) {
        return new Policy(limit, retries, pause, settle, runs, waiting, stopAfter, hold, apart, keepMarks);
    }

    /** The same, with so many triggers waiting at most. */
    public Policy queuing(int triggers) {
        return new Policy(limit, retries, pause, settle, parallel, triggers, stopAfter, hold, apart, keepMarks);
    }

    /** The same, stopping itself after so many failures in a row; 0 for never. */
    public Policy stoppingAfter(int failures) {
        return new Policy(limit, retries, pause, settle, parallel, waiting, failures, hold, apart, keepMarks);
    }

    /** The same, with what fails for a passing reason held or not. */
    public Policy holding(boolean held) {
        return new Policy(limit, retries, pause, settle, parallel, waiting, stopAfter, held, apart, keepMarks);
    }

    /** The same, one run at a time with all others of its equipment, or whenever it likes. */
    public Policy inTurn(boolean one) {
        return new Policy(limit, retries, pause, settle, parallel, waiting, stopAfter, hold, one, keepMarks);
    }

    /** The same, with marks kept for so many days; 0 for ever. */
    public Policy keepingMarks(int days) {
        return new Policy(limit, retries, pause, settle, parallel, waiting, stopAfter, hold, apart, days);
    }

    private static void between(Duration is, Duration least, Duration most, String what) {
        if (is.compareTo(least) < 0 || is.compareTo(most) > 0) {
            throw new IllegalArgumentException(what + " lies between "
                    + (least.isZero() ? "nothing" : PeriodText.write(least)) + " and " + PeriodText.write(most) + ".");
        }
    }

    private static void between(int is, int least, int most, String what) {
        if (is < least || is > most) {
            throw new IllegalArgumentException(what + " lies between " + least + " and " + most + ".");
        }
    }
}
