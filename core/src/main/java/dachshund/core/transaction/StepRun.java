package dachshund.core.transaction;

import java.util.Map;

/**
 * What became of one step of a run.
 *
 * @param statement as it was sent; empty where there is none
 * @param values    of its parameters, or what it computed or wrote, as people read them
 * @param rows      that it found or touched; -1 where that means nothing
 * @param micros    how long it took
 * @param said      the reason, or what was written; empty where there is nothing to say
 */
public record StepRun(
        String name, Fate fate, String statement, Map<String, String> values, long rows, long micros, String said) {

    /** How it ended. */
    public enum Fate {
        DONE("done"),
        PASSED_OVER("passed over"),
        FAILED("failed"),
        /** What would be done after the commit, in a try. */
        SHOWN("not done in a try"),
        NOT_REACHED("not reached");

        private final String words;

        Fate(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    public StepRun {
        values = java.util.Collections.unmodifiableMap(new java.util.LinkedHashMap<>(values));
    }
}
