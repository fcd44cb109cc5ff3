package dachshund.core.shift;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.api.Test;

/** The pellet works' shifts: Early 06 to 14, Late 14 to 22, Night 22 to 06, Europe/London. */
class ShiftCalendarTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Set<DayOfWeek> ALL = EnumSet.allOf(DayOfWeek.class);
    private static final List<Shift> THREE = List.of(
            new Shift("Early", LocalTime.of(6, 0), LocalTime.of(14, 0), ALL),
            new Shift("Late", LocalTime.of(14, 0), LocalTime.of(22, 0), ALL),
            new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), ALL));
    private static final ShiftCalendar CALENDAR = new ShiftCalendar(THREE, List.of(), true);

    private static Worked at(ShiftCalendar calendar, String instant) {
        return calendar.at(Instant.parse(instant), LONDON).orElseThrow();
    }

    @Test
    void aNightShiftBelongsToTheDayItBeganOrEndedBySetting() {
        assertThat(at(CALENDAR, "2026-11-25T02:00:00Z"))
                .extracting(Worked::shift, Worked::date)
                .containsExactly("Night", LocalDate.of(2026, 11, 24));
        assertThat(at(new ShiftCalendar(THREE, List.of(), false), "2026-11-25T02:00:00Z")
                        .date())
                .isEqualTo(LocalDate.of(2026, 11, 25));
        assertThat(at(CALENDAR, "2026-11-25T06:00:00Z").shift())
                .as("the first instant belongs to the next")
                .isEqualTo("Early");
    }

    @Test
    void aRowAtTheEndOfAShiftBelongsToTheOneThatEnds() {
        Instant end = Instant.parse("2026-11-25T14:00:00Z");
        assertThat(ShiftOfRow.RUNNING.of(CALENDAR, end, LONDON).orElseThrow().shift())
                .isEqualTo("Late");
        assertThat(ShiftOfRow.ENDING.of(CALENDAR, end, LONDON).orElseThrow().shift())
                .isEqualTo("Early");
        assertThat(ShiftOfRow.ENDING
                        .of(CALENDAR, end.plusSeconds(1), LONDON)
                        .orElseThrow()
                        .shift())
                .isEqualTo("Late");
        assertThat(ShiftOfRow.ENDED.of(CALENDAR, end, LONDON).orElseThrow().shift())
                .isEqualTo("Early");
        assertThat(ShiftOfRow.ENDED
                        .of(CALENDAR, end.plusSeconds(7000), LONDON)
                        .orElseThrow()
                        .shift())
                .as("written late, after a restart")
                .isEqualTo("Early");
        Worked night = ShiftOfRow.ENDED
                .of(CALENDAR, Instant.parse("2026-11-25T06:00:00Z"), LONDON)
                .orElseThrow();
        assertThat(night.shift()).isEqualTo("Night");
        assertThat(night.date()).isEqualTo(LocalDate.of(2026, 11, 24));
    }

    /** Changeovers of Europe/London as in the tz database: 29 March 2026 01:00 UTC, 25 October 2026 01:00 UTC. */
    @Test
    void aNightAcrossAChangeoverIsAnHourShorterOrLonger() {
        Worked spring = at(CALENDAR, "2026-03-29T00:30:00Z");
        assertThat(Duration.between(spring.from(), spring.to())).isEqualTo(Duration.ofHours(7));
        Worked autumn = at(CALENDAR, "2026-10-25T01:30:00Z");
        assertThat(Duration.between(autumn.from(), autumn.to())).isEqualTo(Duration.ofHours(9));
    }

    @Test
    void onAHolidayNoShiftBegins() {
        ShiftCalendar calendar =
                new ShiftCalendar(THREE, List.of(new Holiday(LocalDate.of(2026, 12, 25), "Christmas Day")), true);
        assertThat(calendar.at(Instant.parse("2026-12-25T12:00:00Z"), LONDON)).isEmpty();
        assertThat(at(calendar, "2026-12-25T05:00:00Z").date())
                .as("the night before goes on to its end")
                .isEqualTo(LocalDate.of(2026, 12, 24));
        assertThat(calendar.nextEnd(Instant.parse("2026-12-25T06:00:00Z"), LONDON))
                .contains(Instant.parse("2026-12-26T14:00:00Z"));
    }

    @Test
    void overlapsAndEmptyShiftsAreSaid() {
        Shift late = new Shift("Late", LocalTime.of(13, 30), LocalTime.of(22, 0), ALL);
        assertThat(new ShiftCalendar(List.of(THREE.get(0), late), List.of(), true).problems())
                .containsExactly("Early and Late run at the same time. Each instant has one shift.");
        Shift sundayNight =
                new Shift("Sunday night", LocalTime.of(22, 0), LocalTime.of(7, 0), Set.of(DayOfWeek.SUNDAY));
        assertThat(new ShiftCalendar(List.of(sundayNight, THREE.get(0)), List.of(), true).problems())
                .as("over the end of the week")
                .hasSize(1);
        assertThat(CALENDAR.problems()).isEmpty();
        assertThat(new ShiftCalendar(
                                List.of(new Shift("Day", LocalTime.of(7, 0), LocalTime.of(7, 0), ALL)), List.of(), true)
                        .problems())
                .as("round the clock")
                .isEmpty();
        assertThat(new ShiftCalendar(
                                List.of(new Shift("Never", LocalTime.of(7, 0), LocalTime.of(8, 0), Set.of())),
                                List.of(),
                                true)
                        .problems())
                .singleElement()
                .asString()
                .contains("no day");
        assertThat(ShiftCalendar.NONE.nextEnd(Instant.EPOCH, LONDON)).isEqualTo(Optional.empty());
    }

    /** With shifts round the clock each instant of two years has exactly one, its end is the next end, and one follows the other. */
    @Property(tries = 300)
    void eachInstantHasOneShift(@ForAll @LongRange(min = 1_767_225_600L, max = 1_830_297_600L) long second) {
        Instant instant = Instant.ofEpochSecond(second);
        Worked worked = CALENDAR.at(instant, LONDON).orElseThrow();
        assertThat(instant).isAfterOrEqualTo(worked.from()).isBefore(worked.to());
        assertThat(CALENDAR.nextEnd(instant, LONDON)).contains(worked.to());
        assertThat(CALENDAR.at(worked.to(), LONDON).orElseThrow().from()).isEqualTo(worked.to());
    }
}
