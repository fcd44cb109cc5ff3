package dachshund.core.ledger;

import dachshund.core.transaction.StepRun;
import java.time.Instant;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * One execution of a transaction, as the ledger keeps it.
 *
 * @param id       tells it from all others, of any installation
 * @param thing    id of what was run
 * @param name     what that was called then
 * @param fired    the instant of the trigger, UTC
 * @param begun    when it was carried out
 * @param why      what brought it about
 * @param request  identity of the plant's request; empty where there was none
 * @param millis   from the trigger to the end
 * @param tries    how often it was begun
 * @param snapshot what was read when, by name
 * @param reason   why it ended as it did; empty where it is done
 * @param code     of the answer
 * @param text     of the answer
 * @param answered what became of the answer; empty where none is given
 * @param keys     values that it is found by
 */
public record Run(
        String id,
        String thing,
        String name,
        Instant fired,
        Instant begun,
        String why,
        String request,
        Outcome outcome,
        long millis,
        int tries,
        Map<String, Read> snapshot,
        List<StepRun> steps,
        String reason,
        long code,
        String text,
        String answered,
        Map<String, String> keys) {

    public Run {
        snapshot = Collections.unmodifiableMap(new LinkedHashMap<>(snapshot));
        steps = List.copyOf(steps);
        keys = Collections.unmodifiableMap(new LinkedHashMap<>(keys));
    }

    /**
     * A value that it had.
     *
     * @param at      source time, UTC
     * @param quality in words; empty where it is good
     */
    public record Read(String value, Instant at, String quality) {}

    /** How a run ended. */
    public enum Outcome {
        DONE("Done"),
        /** Committed, and something that follows the commit was refused. */
        DONE_BUT("Done, but"),
        /** The request had been done before; the same answer was given again. */
        ALREADY("Done before"),
        /** Nothing of it is in the database. */
        FAILED("Failed"),
        /** Nobody knows whether it is committed. */
        UNCERTAIN("Uncertain"),
        /** Its trigger found no room to wait. */
        DROPPED("Dropped");

        private final String words;

        Outcome(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** Whether its business stands in the database. */
        public boolean stands() {
            return this == DONE || this == DONE_BUT || this == ALREADY;
        }
    }
}
