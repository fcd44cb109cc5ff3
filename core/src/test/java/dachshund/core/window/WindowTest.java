package dachshund.core.window;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WindowTest {

    private static final Set<DayOfWeek> ALWAYS = EnumSet.allOf(DayOfWeek.class);
    private static final ShiftCalendar SHIFTS = new ShiftCalendar(
            List.of(
                    new Shift("Early", LocalTime.of(6, 0), LocalTime.of(14, 0), ALWAYS),
                    new Shift("Late", LocalTime.of(14, 0), LocalTime.of(22, 0), ALWAYS),
                    new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), ALWAYS)),
            List.of(),
            true);
    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    private static Context at(String now) {
        return at(now, LONDON);
    }

    private static Context at(String now, ZoneId zone) {
        return new Context(Instant.parse(now), zone, SHIFTS);
    }

    private static String span(String words, Context in) throws WindowProblem {
        Span span = Window.read(words).span(in);
        return span.from() + " " + span.to() + (span.endsNow() ? " now" : "");
    }

    /** It is Friday 2026-11-27, 15:30 in London, in the late shift. */
    @ParameterizedTest
    @CsvSource({
        "last 15 min, 2026-11-27T15:15:00Z 2026-11-27T15:30:00Z now",
        "LAST 90s, 2026-11-27T15:28:30Z 2026-11-27T15:30:00Z now",
        "past 2 weeks, 2026-11-13T15:30:00Z 2026-11-27T15:30:00Z now",
        "today, 2026-11-27T00:00:00Z 2026-11-28T00:00:00Z",
        "yesterday, 2026-11-26T00:00:00Z 2026-11-27T00:00:00Z",
        "this hour, 2026-11-27T15:00:00Z 2026-11-27T16:00:00Z",
        "previous hour, 2026-11-27T14:00:00Z 2026-11-27T15:00:00Z",
        "this week, 2026-11-23T00:00:00Z 2026-11-30T00:00:00Z",
        "previous month, 2026-10-01T00:00:00+01:00 2026-11-01T00:00:00Z",
        "this quarter, 2026-10-01T00:00:00+01:00 2027-01-01T00:00:00Z",
        "previous year, 2025-01-01T00:00:00Z 2026-01-01T00:00:00Z",
        "3 days ago, 2026-11-24T00:00:00Z 2026-11-25T00:00:00Z",
        "week 47, 2026-11-16T00:00:00Z 2026-11-23T00:00:00Z",
        "week 49, 2025-12-01T00:00:00Z 2025-12-08T00:00:00Z",
        "2026-W47, 2026-11-16T00:00:00Z 2026-11-23T00:00:00Z",
        "2026-02, 2026-02-01T00:00:00Z 2026-03-01T00:00:00Z",
        "february, 2026-02-01T00:00:00Z 2026-03-01T00:00:00Z",
        "December, 2025-12-01T00:00:00Z 2026-01-01T00:00:00Z",
        "Feb 2024, 2024-02-01T00:00:00Z 2024-03-01T00:00:00Z",
        "2025, 2025-01-01T00:00:00Z 2026-01-01T00:00:00Z",
        "2026-11-01, 2026-11-01T00:00:00Z 2026-11-02T00:00:00Z",
        "monday, 2026-11-23T00:00:00Z 2026-11-24T00:00:00Z",
        "2026-11-01 06:00 to 14:00, 2026-11-01T06:00:00Z 2026-11-01T14:00:00Z",
        "2026-11-01 22:00 to 06:00, 2026-11-01T22:00:00Z 2026-11-02T06:00:00Z",
        "2026-11-01 06:00 to 2026-11-03 14:00, 2026-11-01T06:00:00Z 2026-11-03T14:00:00Z",
        "2026-11-01 to 2026-11-03, 2026-11-01T00:00:00Z 2026-11-04T00:00:00Z",
        "from yesterday 22:00 until 6:00, 2026-11-26T22:00:00Z 2026-11-27T06:00:00Z",
        "2026-11-01 06:00 for 8 h, 2026-11-01T06:00:00Z 2026-11-01T14:00:00Z",
        "2026-07-01 06:00 UTC to 2026-07-01 07:00, 2026-07-01T06:00:00Z 2026-07-01T06:00:00Z?",
        "2026-07-01 23:30 utc to 23:45 utc, 2026-07-01T23:30:00Z 2026-07-01T23:45:00Z",
        "2026-07-01T06:00Z to 2026-07-01T09:00:00.5+01:00, 2026-07-01T06:00:00Z 2026-07-01T08:00:00.5Z",
        "since 06:00, 2026-11-27T06:00:00Z 2026-11-27T15:30:00Z now",
        "since yesterday, 2026-11-26T00:00:00Z 2026-11-27T15:30:00Z now",
        "13:00 to now, 2026-11-27T13:00:00Z 2026-11-27T15:30:00Z now",
        "this shift, 2026-11-27T14:00:00Z 2026-11-27T22:00:00Z",
        "previous shift, 2026-11-27T06:00:00Z 2026-11-27T14:00:00Z",
        "2 shifts ago, 2026-11-26T22:00:00Z 2026-11-27T06:00:00Z",
        "previous night shift, 2026-11-26T22:00:00Z 2026-11-27T06:00:00Z",
        "previous late shift, 2026-11-26T14:00:00Z 2026-11-26T22:00:00Z",
        "Night shift yesterday, 2026-11-26T22:00:00Z 2026-11-27T06:00:00Z",
        "early shift of 2026-11-01, 2026-11-01T06:00:00Z 2026-11-01T14:00:00Z",
        "'today, a week earlier', 2026-11-20T00:00:00Z 2026-11-21T00:00:00Z",
        "'last 15 min, yesterday, the same time', 2026-11-26T15:15:00Z 2026-11-26T15:30:00Z",
        "'since 06:00, the same time yesterday', 2026-11-26T06:00:00Z 2026-11-26T15:30:00Z",
        "'previous shift, 3 days earlier', 2026-11-24T06:00:00Z 2026-11-24T14:00:00Z",
        "'this month, a month earlier', 2026-10-01T00:00:00+01:00 2026-11-01T00:00:00Z",
    })
    void wordsComeToInstants(String words, String expected) throws WindowProblem {
        if (expected.endsWith("?")) {
            assertThatThrownBy(() -> span(words, at("2026-11-27T15:30:00Z")))
                    .hasMessageContaining("ends before it begins");
            return;
        }
        String[] part = expected.split(" ");
        String now = part.length > 2 ? " now" : "";
        assertThat(span(words, at("2026-11-27T15:30:00Z"))).isEqualTo(instant(part[0]) + " " + instant(part[1]) + now);
    }

    private static Instant instant(String text) {
        return java.time.OffsetDateTime.parse(text).toInstant();
    }

    /**
     * Changeovers as the tz database has them: London 2026-03-29 and 2026-10-25 at 01:00 UTC, New York 2026-03-08 at 07:00 UTC
     * and 2026-11-01 at 06:00 UTC.
     */
    @ParameterizedTest
    @CsvSource({
        "Europe/London, 2026-03-29, 23",
        "Europe/London, 2026-10-25, 25",
        "America/New_York, 2026-03-08, 23",
        "America/New_York, 2026-11-01, 25",
        "Europe/London, 2026-06-10, 24"
    })
    void aDayHasTheHoursThatItHas(String zone, String day, int hours) throws WindowProblem {
        Context in = at("2026-11-27T15:30:00Z", ZoneId.of(zone));
        assertThat(Window.read(day).span(in).length()).isEqualTo(Duration.ofHours(hours));
        assertThat(Window.read("night shift of " + LocalDate.parse(day).minusDays(1))
                        .span(in)
                        .length())
                .isEqualTo(Duration.ofHours(hours - 16));
    }

    @Test
    void earlierByDaysKeepsToTheClockOnTheWallAndByHoursToTheHours() throws WindowProblem {
        Context in = at("2026-10-26T12:00:00Z");
        assertThat(span("10:00 to 11:00, a day earlier", in)).isEqualTo("2026-10-25T10:00:00Z 2026-10-25T11:00:00Z");
        assertThat(span("10:00 to 11:00, 2 days earlier", in)).isEqualTo("2026-10-24T09:00:00Z 2026-10-24T10:00:00Z");
        assertThat(span("10:00 to 11:00, 48 h earlier", in)).isEqualTo("2026-10-24T10:00:00Z 2026-10-24T11:00:00Z");
        assertThat(span("today, a week earlier", in))
                .as("a Monday of 24 hours")
                .isEqualTo("2026-10-18T23:00:00Z 2026-10-19T23:00:00Z");
    }

    /** Weeks as ISO 8601 counts them: the examples that the standard is commonly explained with, from memory. */
    @ParameterizedTest
    @CsvSource({
        "2004-W53, 2004-12-27",
        "2008-W52, 2008-12-22",
        "2009-W01, 2008-12-29",
        "2009-W53, 2009-12-28",
        "2010-W01, 2010-01-04",
        "week 53 of 2015, 2015-12-28",
        "week 53, 2020-12-28"
    })
    void weeksAreThoseOfIso8601(String words, String monday) throws WindowProblem {
        assertThat(Window.read(words)
                        .span(at("2026-06-01T12:00:00Z", ZoneId.of("UTC")))
                        .from())
                .isEqualTo(monday + "T00:00:00Z");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "''|A window is needed|0",
                "yesteday|not understood here|0",
                "last week|can mean two things|0",
                "last month|Write previous month|0",
                "last 0 min|whole number from 1|5",
                "last 15|unit of time|7",
                "last 15 fortnights|unit of time|8",
                "2026-11-31|There is no day 2026-11-31|0",
                "2026-11-01 25:00 to now|no clock time|11",
                "2026-11-01 24:00 to now|where the next one begins|11",
                "06:00|not where it ends|0",
                "06:00 to|a time is missing|8",
                "today tomorrow|one word too many|6",
                "today, a week|Here comes earlier|13",
                "week 54|number from 1 to 53|5",
                "2025-W53|2025 has no week 53|0",
                "2026-13|12 months|0",
                "2026-11-01T25:00Z to now|This is no time|0",
                "previous lunch shift|no shift named lunch. The calendar has Early, Late, Night|0",
                "2026-11-02 to 2026-11-01 06:00|ends before it begins|0",
                "2027-01-01|lies in the future|0",
                "16:00 to 17:00|lies in the future|0",
                "last 9000 years|from the year 1601 on|0",
                "last 999999 years|from the year 1601 on|0",
                "1599-01-01 to now|from the year 1601 on|0",
            })
    void whatCannotBeReadIsSaidAtItsPlace(String words, String sentence, int place) {
        WindowProblem problem = catchThrowableOfType(
                WindowProblem.class, () -> Window.read(words).span(at("2026-11-27T15:30:00Z")));
        assertThat(problem).as(words).isNotNull();
        assertThat(problem).hasMessageContaining(sentence);
        assertThat(problem.from()).isEqualTo(place);
        assertThat(problem.to()).isBetween(problem.from(), words.length());
    }

    @Test
    void withoutACalendarAShiftSaysWhereItIsMade() {
        assertThatThrownBy(() -> Window.read("previous shift")
                        .span(new Context(Instant.parse("2026-11-27T15:30:00Z"), LONDON, ShiftCalendar.NONE)))
                .hasMessageContaining("no shift calendar yet");
    }

    @Provide
    Arbitrary<Instant> instants() {
        return Arbitraries.longs()
                .between(
                        Instant.parse("1971-01-01T00:00:00Z").getEpochSecond(),
                        Instant.parse("2100-01-01T00:00:00Z").getEpochSecond())
                .map(Instant::ofEpochSecond);
    }

    @Provide
    Arbitrary<ZoneId> zones() {
        return Arbitraries.of(
                        "Europe/London",
                        "America/New_York",
                        "Asia/Kolkata",
                        "Australia/Lord_Howe",
                        "Pacific/Apia",
                        "America/Sao_Paulo",
                        "UTC")
                .map(ZoneId::of);
    }

    /** Whatever the instant and the place: the one before ends where this one begins, and now lies in this one. */
    @Property(tries = 2000)
    void windowsFollowEachOtherWithoutAGap(@ForAll("instants") Instant now, @ForAll("zones") ZoneId zone)
            throws WindowProblem {
        Context in = new Context(now, zone, SHIFTS);
        for (String unit : List.of("hour", "day", "week", "month", "quarter", "year", "shift")) {
            Span present = Window.read("this " + unit).span(in);
            Span before = Window.read("previous " + unit).span(in);
            assertThat(present.contains(now)).as("%s %s %s", unit, now, zone).isTrue();
            assertThat(before.to()).as("%s %s %s", unit, now, zone).isEqualTo(present.from());
        }
    }

    @Provide
    Arbitrary<String> nearly() {
        return Arbitraries.of(
                        "last",
                        "15",
                        "min",
                        "today",
                        "yesterday",
                        "previous",
                        "this",
                        "shift",
                        "week",
                        "47",
                        ",",
                        "to",
                        "since",
                        "06:00",
                        "2026-11-01",
                        "2026-W47",
                        "for",
                        "8",
                        "h",
                        "earlier",
                        "the",
                        "same",
                        "time",
                        "early",
                        "ago",
                        "a",
                        "now",
                        "of",
                        "2026",
                        "monday",
                        "99:99",
                        "9999-12-31",
                        "1000000",
                        "years",
                        "utc",
                        "Ω")
                .list()
                .ofMaxSize(7)
                .map(words -> String.join(" ", words));
    }

    @Property(tries = 5000)
    void anyWordsAreAWindowOrAProblemAtAPlace(@ForAll("nearly") String words) {
        try {
            Span span = Window.read(words).span(at("2026-11-27T15:30:00Z"));
            assertThat(span.from()).isBefore(span.to());
        } catch (WindowProblem problem) {
            assertThat(problem.getMessage()).endsWith(".");
            assertThat(problem.from()).isBetween(0, problem.to());
            assertThat(problem.to()).isLessThanOrEqualTo(words.length());
        }
    }
}
