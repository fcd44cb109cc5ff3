package dachshund.core.time;

import java.math.BigDecimal;
import java.time.Duration;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Durations as people write them: {@code 350 ms}, {@code 12 s}, {@code 4 min}, {@code 8 h}. */
public final class PeriodText {

    private static final Pattern SHAPE = Pattern.compile("\\s*(\\d+(?:[.,]\\d+)?)\\s*([a-z]*)\\s*");
    private static final Map<String, Long> MILLIS = Map.of(
            "ms",
            1L,
            "s",
            1000L,
            "sec",
            1000L,
            "",
            1000L,
            "min",
            60_000L,
            "m",
            60_000L,
            "h",
            3_600_000L,
            "d",
            86_400_000L);

    private PeriodText() {}

    /**
     * Reads a duration; a bare number means seconds.
     *
     * @throws IllegalArgumentException with a sentence for the field
     */
    public static Duration read(String text) {
        Matcher parts = SHAPE.matcher(text.toLowerCase(Locale.ROOT));
        if (!parts.matches() || !MILLIS.containsKey(parts.group(2))) {
            throw new IllegalArgumentException("Write a number and a unit, for example 500 ms, 5 s, 10 min or 8 h.");
        }
        BigDecimal millis = new BigDecimal(parts.group(1).replace(',', '.'))
                .multiply(BigDecimal.valueOf(MILLIS.get(parts.group(2))));
        if (millis.stripTrailingZeros().scale() > 0 || millis.compareTo(BigDecimal.valueOf(Long.MAX_VALUE)) > 0) {
            throw new IllegalArgumentException("The finest step is 1 ms.");
        }
        return Duration.ofMillis(millis.longValue());
    }

    /** Writes a duration in the largest unit that leaves a whole number. */
    public static String write(Duration period) {
        long millis = period.toMillis();
        if (millis > 0 && millis % 3_600_000 == 0) {
            return millis / 3_600_000 + " h";
        }
        if (millis > 0 && millis % 60_000 == 0) {
            return millis / 60_000 + " min";
        }
        return millis % 1000 == 0 && millis > 0 ? millis / 1000 + " s" : millis + " ms";
    }

    /** A length of time that passed, rounded for reading: 350 ms, 12 s, 4 min, 3 h, 2 days. */
    public static String roughly(Duration passed) {
        long millis = Math.max(0, passed.toMillis());
        if (millis < 1000) {
            return millis + " ms";
        }
        long seconds = millis / 1000;
        if (seconds < 120) {
            return seconds + " s";
        }
        if (seconds < 7200) {
            return seconds / 60 + " min";
        }
        return seconds < 172_800 ? seconds / 3600 + " h" : seconds / 86_400 + " days";
    }
}
