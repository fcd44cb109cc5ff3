package dachshund.core.when;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.when.When.Missed;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.LongRange;
import net.jqwik.api.constraints.Size;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/**
 * Clock times across changeovers, leap days and year ends. Changeovers are those of the tz database: Europe/London 29 March
 * and 25 October 2026 at 01:00 UTC; America/New_York 8 March 2026 at 07:00 UTC and 1 November at 06:00 UTC.
 */
class ClockTimesTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final ZoneId NEW_YORK = ZoneId.of("America/New_York");
    private static final Set<DayOfWeek> ALL = EnumSet.allOf(DayOfWeek.class);

    private static ClockTimes at(ZoneId zone, String... times) {
        return ClockTimes.of(
                new When.AtTimes(
                        ALL,
                        java.util.Arrays.stream(times).map(LocalTime::parse).toList(),
                        false,
                        Missed.SKIP),
                zone);
    }

    private static List<String> between(ClockTimes times, String from, String to) {
        List<String> found = new ArrayList<>();
        Instant end = Instant.parse(to);
        for (Optional<Instant> next = times.next(Instant.parse(from));
                next.isPresent() && next.get().isBefore(end);
                next = times.next(next.get())) {
            found.add(next.get().toString());
        }
        return found;
    }

    @Test
    void aTimeInTheSpringGapComesAsMuchLaterAndOneInTheAutumnComesOnce() {
        assertThat(between(at(LONDON, "01:30"), "2026-03-28T12:00:00Z", "2026-03-31T00:00:00Z"))
                .containsExactly("2026-03-29T01:30:00Z", "2026-03-30T00:30:00Z");
        assertThat(between(at(LONDON, "01:30"), "2026-10-24T12:00:00Z", "2026-10-27T00:00:00Z"))
                .containsExactly("2026-10-25T00:30:00Z", "2026-10-26T01:30:00Z");
        assertThat(between(at(LONDON, "01:30", "02:30"), "2026-03-28T12:00:00Z", "2026-03-30T00:00:00Z"))
                .as("both are 02:30 that night")
                .containsExactly("2026-03-29T01:30:00Z");
        assertThat(between(at(NEW_YORK, "02:30"), "2026-03-08T00:00:00Z", "2026-03-09T00:00:00Z"))
                .containsExactly("2026-03-08T07:30:00Z");
    }

    @ParameterizedTest
    @CsvSource(
            textBlock =
                    """
            30 1 * * *     | 2026-03-28T12:00:00Z | 2026-03-29T01:30:00Z | in the gap, which the library passes over
            30 1 * * *     | 2026-10-24T12:00:00Z | 2026-10-25T00:30:00Z | the first of two
            30 1 * * *     | 2026-10-25T00:30:00Z | 2026-10-26T01:30:00Z | and not the second
            0 6 * * 1-5    | 2026-11-27T07:00:00Z | 2026-11-30T06:00:00Z | from Friday to Monday
            0 0 29 2 *     | 2026-01-01T00:00:00Z | 2028-02-29T00:00:00Z | a leap day
            59 23 31 12 *  | 2026-12-31T23:59:00Z | 2027-12-31T23:59:00Z | a year end
            0 * * * *      | 2026-10-25T00:00:00Z | 2026-10-25T01:00:00Z | every hour of a long night
            """,
            delimiter = '|')
    void cron(String line, Instant after, Instant next, String why) {
        assertThat(ClockTimes.of(new When.ByCron(line.strip(), false, Missed.SKIP), LONDON)
                        .next(after))
                .as(why)
                .contains(next);
    }

    @Test
    void aCronLineThatCannotBeReadOrNeverComesIsRefusedWithASentence() {
        assertThatThrownBy(() -> new When.ByCron("6 o'clock", false, Missed.SKIP))
                .hasMessageContaining("five fields");
        assertThatThrownBy(() -> new When.ByCron("0 0 30 2 *", false, Missed.SKIP))
                .hasMessageContaining("never comes");
    }

    @Test
    void everyHourOfALongNightIsServedByAStarredHour() {
        ClockTimes quarter = ClockTimes.of(new When.ByCron("*/15 * * * *", false, Missed.SKIP), LONDON);
        assertThat(between(quarter, "2026-10-24T22:59:59Z", "2026-10-26T00:00:00Z"))
                .as("25 hours of four")
                .hasSize(100);
        assertThat(between(quarter, "2026-03-28T23:59:59Z", "2026-03-29T23:00:00Z"))
                .as("23 hours of four")
                .hasSize(92);
    }

    /** Each day of three years that has the time has it once, in order, at the wall clock's time or as much later as the clock jumped. */
    @Property(tries = 200)
    void eachDayHasItsTimesOnce(
            @ForAll @Size(min = 1, max = 4) List<@IntRange(min = 0, max = 1439) Integer> minutes,
            @ForAll @LongRange(min = 0, max = 1095) long day,
            @ForAll boolean london,
            @ForAll @Size(min = 1, max = 7) Set<DayOfWeek> days) {
        ZoneId zone = london ? LONDON : NEW_YORK;
        List<LocalTime> times = minutes.stream()
                .distinct()
                .sorted()
                .map(minute -> LocalTime.ofSecondOfDay(minute * 60L))
                .toList();
        ClockTimes clock = ClockTimes.of(new When.AtTimes(days, times, false, Missed.SKIP), zone);
        LocalDate date = LocalDate.of(2026, 1, 1).plusDays(day);
        Instant start = date.atStartOfDay(zone).toInstant();
        Instant end = date.plusDays(1).atStartOfDay(zone).toInstant();
        List<Instant> found = new ArrayList<>();
        for (Optional<Instant> next = clock.next(start.minusNanos(1));
                next.isPresent() && next.get().isBefore(end);
                next = clock.next(next.get())) {
            found.add(next.get());
        }
        if (!days.contains(date.getDayOfWeek())) {
            assertThat(found).isEmpty();
            return;
        }
        assertThat(found).isSorted().doesNotHaveDuplicates();
        for (LocalTime time : times) {
            ZonedDateTime wanted = date.atTime(time).atZone(zone);
            boolean exists = wanted.toLocalTime().equals(time);
            assertThat(found)
                    .contains(
                            exists
                                    ? wanted.toInstant()
                                    : date.atTime(time)
                                            .plusHours(1)
                                            .atZone(zone)
                                            .toInstant());
        }
    }

    /** UTC times know no changeover. */
    @Property(tries = 100)
    void utcTimesComeEvery24Hours(@ForAll @LongRange(min = 1_767_225_600L, max = 1_830_297_600L) long second) {
        ClockTimes six = ClockTimes.of(new When.AtTimes(ALL, List.of(LocalTime.of(6, 0)), true, Missed.SKIP), LONDON);
        Instant first = six.next(Instant.ofEpochSecond(second)).orElseThrow();
        assertThat(first.atZone(ZoneOffset.UTC).toLocalTime()).isEqualTo(LocalTime.of(6, 0));
        assertThat(six.next(first)).contains(first.plus(Duration.ofHours(24)));
    }

    private static ClockState state(Missed missed, String served) {
        return new ClockState(at(ZoneOffset.UTC, "06:00"), missed, Optional.of(Instant.parse(served)));
    }

    /** A daily 06:00 row; the application was down from Monday evening to Thursday 09:00. */
    @Test
    void missedTimesAreWrittenLateSkippedOrMarked() {
        Instant back = Instant.parse("2026-11-26T09:00:00Z");
        for (Missed missed : Missed.values()) {
            ClockState state = state(missed, "2026-11-23T18:00:00Z");
            state.begin(tag -> null, back);
            List<Firing> due = state.time(back);
            assertThat(due)
                    .extracting(Firing::kind)
                    .containsExactlyElementsOf(
                            switch (missed) {
                                case RUN_LATE -> List.of(Firing.Kind.ROW);
                                case SKIP -> java.util.Collections.nCopies(3, Firing.Kind.SKIPPED);
                                case MARK -> java.util.Collections.nCopies(3, Firing.Kind.MARK);
                            });
            assertThat(due.get(0).at())
                    .isEqualTo(missed == Missed.RUN_LATE ? back : Instant.parse("2026-11-24T06:00:00Z"));
            assertThat(state.next()).isEqualTo(Instant.parse("2026-11-27T06:00:00Z"));
        }
    }

    @Test
    void aTimeServedWithinAMinuteIsPunctual() {
        ClockState state = state(Missed.SKIP, "2026-11-25T05:59:00Z");
        Instant now = Instant.parse("2026-11-25T06:00:20Z");
        state.begin(tag -> null, now);
        assertThat(state.time(now)).containsExactly(Firing.row(Instant.parse("2026-11-25T06:00:00Z")));
    }
}
