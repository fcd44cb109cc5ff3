package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.time.format.TextStyle;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.stream.Collectors;

/** What makes a recorder write a row. What each does over time is in {@link WhenGroup}. */
public sealed interface When {

    /**
     * At a steady rate; see {@link RateSchedule}.
     *
     * @param period    10 ms to 24 h
     * @param fromStart whether ticks are counted from the start of the recorder, else they are aligned to the plant's clock
     */
    record Every(Duration period, boolean fromStart) implements When {

        public static final Duration SHORTEST = Duration.ofMillis(10);
        public static final Duration LONGEST = Duration.ofHours(24);

        public Every {
            range(period, SHORTEST, LONGEST, "A rate lies between 10 ms and 24 h.");
        }

        public Every(Duration period) {
            this(period, false);
        }

        @Override
        public String sentence() {
            return "every " + PeriodText.write(period) + (fromStart ? " from its start" : "");
        }
    }

    /**
     * When a value changes. The first value after a start is not a change; going to or from bad quality is one.
     *
     * @param deadband     how much a number must differ from the one that last counted as a change
     * @param tags         the tags to look at; none for every tag of the row
     * @param notMoreOften the shortest time between two rows; zero for none. A change within is written when it is over
     * @param atLeast      the longest time without a row; zero for none
     */
    record OnChange(Deadband deadband, List<TagRef> tags, Duration notMoreOften, Duration atLeast) implements When {

        public OnChange {
            tags = List.copyOf(tags);
            upToADay(notMoreOften, "The shortest time between two rows lies between nothing and 24 h.");
            upToADay(atLeast, "The longest time without a row lies between nothing and 24 h.");
            if (!atLeast.isZero() && atLeast.compareTo(notMoreOften) < 0) {
                throw new IllegalArgumentException(
                        "The longest time without a row is shorter than the shortest time between two.");
            }
        }

        @Override
        public String sentence() {
            return "on change" + (tags.isEmpty() ? "" : " of " + tags.size() + (tags.size() == 1 ? " tag" : " tags"))
                    + deadband.sentence()
                    + (notMoreOften.isZero() ? "" : ", not more often than every " + PeriodText.write(notMoreOften))
                    + (atLeast.isZero() ? "" : ", at least every " + PeriodText.write(atLeast));
        }
    }

    /**
     * At times of day.
     *
     * @param days   the days of the week
     * @param times  one or several times of day
     * @param utc    whether days and times are UTC, else plant time
     * @param missed what happens with a time that passed while the application was not running
     */
    record AtTimes(Set<DayOfWeek> days, List<LocalTime> times, boolean utc, Missed missed) implements When {

        public AtTimes {
            days = Set.copyOf(days);
            times = times.stream().distinct().sorted().toList();
            if (days.isEmpty()) {
                throw new IllegalArgumentException("Tick one day of the week at least.");
            }
            if (times.isEmpty()) {
                throw new IllegalArgumentException("Write one time of day at least, such as 06:00.");
            }
        }

        @Override
        public String sentence() {
            String when = days.size() == 7
                    ? ""
                    : days.stream()
                            .sorted(Comparator.naturalOrder())
                            .map(day -> day.getDisplayName(TextStyle.SHORT, Locale.UK))
                            .collect(Collectors.joining(", ", "on ", " "));
            return when + "at " + times.stream().map(LocalTime::toString).collect(Collectors.joining(", "))
                    + (utc ? " UTC" : "");
        }
    }

    /** At the end of every shift of the shift calendar. */
    record AtShiftEnds(Missed missed) implements When {
        @Override
        public String sentence() {
            return "at each shift end";
        }
    }

    /**
     * By a cron line of five fields: minute, hour, day of month, month, day of week (as in POSIX crontab).
     *
     * @param utc whether the fields are UTC, else plant time
     */
    record ByCron(String line, boolean utc, Missed missed) implements When {

        public ByCron {
            CronSchedule.check(line);
        }

        @Override
        public String sentence() {
            return "by cron " + line + (utc ? " UTC" : "");
        }
    }

    /**
     * When a condition becomes true, false, or either. One that is true already at the start does not fire.
     *
     * @param debounce how long it must stay so before it counts
     * @param holdOff  how long after a row no other is written
     */
    record OnCondition(Condition condition, Edge edge, Duration debounce, Duration holdOff) implements When {

        public OnCondition {
            upToADay(debounce, "A debounce lasts up to 24 h.");
            upToADay(holdOff, "A hold-off lasts up to 24 h.");
        }

        @Override
        public String sentence() {
            return "when " + condition.text() + " " + edge.words() + settled(debounce, holdOff);
        }
    }

    /** When an identifier (a lot, an order) becomes another one. A bad value between is passed over; no text counts as one. */
    record OnIdentifier(TagRef tag, Duration debounce, Duration holdOff) implements When {

        public OnIdentifier {
            upToADay(debounce, "A debounce lasts up to 24 h.");
            upToADay(holdOff, "A hold-off lasts up to 24 h.");
        }

        @Override
        public String sentence() {
            return "when an identifier changes" + settled(debounce, holdOff);
        }
    }

    /** At a rate while a condition is true, beginning when it becomes true. */
    record WhileTrue(Condition condition, Duration period) implements When {

        public WhileTrue {
            range(period, Every.SHORTEST, Every.LONGEST, "A rate lies between 10 ms and 24 h.");
        }

        @Override
        public String sentence() {
            return "every " + PeriodText.write(period) + " while " + condition.text();
        }
    }

    /** Which way a condition goes. */
    enum Edge {
        RISING("becomes true"),
        FALLING("becomes false"),
        BOTH("becomes true or false");

        private final String words;

        Edge(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** What happens with a clock time that passed while the application was not running. */
    enum Missed {
        RUN_LATE("write one row late"),
        SKIP("skip it"),
        MARK("write a row of that time without values");

        private final String words;

        Missed(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** The When in words, to stand in a sentence. */
    String sentence();

    private static String settled(Duration debounce, Duration holdOff) {
        return (debounce.isZero() ? "" : " and stays so for " + PeriodText.write(debounce))
                + (holdOff.isZero() ? "" : ", then not for " + PeriodText.write(holdOff));
    }

    private static void range(Duration period, Duration least, Duration most, String sentence) {
        if (period.compareTo(least) < 0 || period.compareTo(most) > 0) {
            throw new IllegalArgumentException(sentence);
        }
    }

    private static void upToADay(Duration length, String sentence) {
        range(length, Duration.ZERO, Every.LONGEST, sentence);
    }
}
