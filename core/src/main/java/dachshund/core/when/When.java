package dachshund.core.when;

import dachshund.core.time.PeriodText;
import java.time.Duration;

/** What makes a recorder write a row. */
public sealed interface When {

    /**
     * At a steady rate, aligned to the plant's clock; see {@link RateSchedule}.
     *
     * @param period 100 ms to 24 h
     */
    record Every(Duration period) implements When {

        public static final Duration SHORTEST = Duration.ofMillis(100);
        public static final Duration LONGEST = Duration.ofHours(24);

        public Every {
            if (period.compareTo(SHORTEST) < 0 || period.compareTo(LONGEST) > 0) {
                throw new IllegalArgumentException("A rate lies between 100 ms and 24 h.");
            }
        }

        @Override
        public String sentence() {
            return "every " + PeriodText.write(period);
        }
    }

    /** The When in words, to stand in a sentence. */
    String sentence();
}
