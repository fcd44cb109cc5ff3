package dachshund.core.when;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.api.Test;

/**
 * Changeovers as published in the tz database: Europe/London 2026-03-29 01:00 UTC and 2026-10-25 01:00 UTC,
 * America/New_York 2026-11-01 06:00 UTC, Australia/Lord_Howe shifts by half an hour on 2026-04-04 15:00 UTC.
 */
class RateScheduleTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final ZoneId NEW_YORK = ZoneId.of("America/New_York");

    private static List<Instant> ticksOfDay(Duration period, ZoneId zone, LocalDate day) {
        RateSchedule schedule = new RateSchedule(period, zone);
        Instant end = day.plusDays(1).atStartOfDay(zone).toInstant();
        List<Instant> ticks = new ArrayList<>();
        for (Instant tick = schedule.next(day.atStartOfDay(zone).toInstant().minusNanos(1));
                tick.isBefore(end);
                tick = schedule.next(tick)) {
            ticks.add(tick);
        }
        return ticks;
    }

    @Test
    void aDayOf23HoursAndOneOf25HaveEveryTick() {
        Duration second = Duration.ofSeconds(1);
        assertThat(ticksOfDay(second, LONDON, LocalDate.of(2026, 3, 29))).hasSize(23 * 3600);
        assertThat(ticksOfDay(second, LONDON, LocalDate.of(2026, 10, 25))).hasSize(25 * 3600);
        assertThat(ticksOfDay(second, NEW_YORK, LocalDate.of(2026, 11, 1))).hasSize(25 * 3600);
        assertThat(ticksOfDay(second, LONDON, LocalDate.of(2026, 6, 1)))
                .hasSize(86_400); // a 1 s log: common practice, no source
        assertThat(ticksOfDay(Duration.ofSeconds(5), LONDON, LocalDate.of(2026, 6, 1)))
                .hasSize(86_400 / 5);
        assertThat(ticksOfDay(Duration.ofHours(1), LONDON, LocalDate.of(2026, 10, 25)))
                .hasSize(25)
                .doesNotHaveDuplicates();
        assertThat(ticksOfDay(Duration.ofMinutes(15), ZoneId.of("Australia/Lord_Howe"), LocalDate.of(2026, 4, 5)))
                .hasSize(98);
    }

    @Test
    void longPeriodsKeepToTheClockOnTheWall() {
        assertThat(ticksOfDay(Duration.ofHours(8), LONDON, LocalDate.of(2026, 3, 29)))
                .containsExactly(
                        Instant.parse("2026-03-29T00:00:00Z"),
                        Instant.parse("2026-03-29T07:00:00Z"),
                        Instant.parse("2026-03-29T15:00:00Z"));
        assertThat(ticksOfDay(Duration.ofHours(8), LONDON, LocalDate.of(2026, 10, 25)))
                .containsExactly(
                        Instant.parse("2026-10-24T23:00:00Z"),
                        Instant.parse("2026-10-25T08:00:00Z"),
                        Instant.parse("2026-10-25T16:00:00Z"));
        assertThat(ticksOfDay(Duration.ofHours(24), LONDON, LocalDate.of(2026, 3, 30)))
                .containsExactly(Instant.parse("2026-03-29T23:00:00Z"));
        // 01:30 does not exist on 29 March: it comes an hour later on the wall, 02:30 BST.
        assertThat(ticksOfDay(Duration.ofMinutes(90), LONDON, LocalDate.of(2026, 3, 29))
                        .get(1))
                .isEqualTo(Instant.parse("2026-03-29T01:30:00Z"));
    }

    @Test
    void aPeriodThatDoesNotDivideTheDayBeginsAnewAtMidnight() {
        RateSchedule sevenHours = new RateSchedule(Duration.ofHours(7), LONDON);
        assertThat(sevenHours.next(Instant.parse("2026-01-10T21:00:00Z")))
                .isEqualTo(Instant.parse("2026-01-11T00:00:00Z"));
        assertThat(new RateSchedule(Duration.ofSeconds(7), LONDON).next(Instant.parse("2026-01-10T23:59:57Z")))
                .isEqualTo(Instant.parse("2026-01-11T00:00:00Z"));
    }

    @Property(tries = 2000)
    void theNextTickIsLaterAndWithinAPeriodAndTheChangeover(
            @ForAll("periods") Duration period,
            @ForAll("zones") ZoneId zone,
            @ForAll @LongRange(min = 1_700_000_000_000L, max = 1_900_000_000_000L) long millis) {
        Instant after = Instant.ofEpochMilli(millis);
        Instant tick = new RateSchedule(period, zone).next(after);
        assertThat(tick).isAfter(after);
        assertThat(Duration.between(after, tick)).isLessThanOrEqualTo(period.plusHours(1));
        // Whoever asks between two ticks gets the same next one: Rehearse and the running recorder agree.
        Instant between = after.plusNanos(Duration.between(after, tick).toNanos() / 2);
        assertThat(new RateSchedule(period, zone).next(between)).isEqualTo(tick);
    }

    @Property(tries = 300)
    void shortPeriodsAreEvenlySpacedInElapsedTime(
            @ForAll("shortPeriods") Duration period,
            @ForAll("zones") ZoneId zone,
            @ForAll @LongRange(min = 1_700_000_000L, max = 1_900_000_000L) long second) {
        RateSchedule schedule = new RateSchedule(period, zone);
        Instant first = schedule.next(Instant.ofEpochSecond(second));
        Instant next = schedule.next(first);
        boolean midnight =
                next.atZone(zone).toLocalDate().isAfter(first.atZone(zone).toLocalDate());
        if (midnight) {
            assertThat(Duration.between(first, next)).isLessThanOrEqualTo(period);
        } else {
            assertThat(Duration.between(first, next)).isEqualTo(period);
        }
    }

    @Provide
    Arbitrary<Duration> periods() {
        return Arbitraries.longs().between(100, 86_400_000).map(Duration::ofMillis);
    }

    @Provide
    Arbitrary<Duration> shortPeriods() {
        return Arbitraries.longs().between(100, 3_600_000).map(Duration::ofMillis);
    }

    @Provide
    Arbitrary<ZoneId> zones() {
        return Arbitraries.of(
                        "Europe/London",
                        "America/New_York",
                        "Australia/Lord_Howe",
                        "Asia/Kathmandu",
                        "America/Sao_Paulo",
                        "UTC")
                .map(ZoneId::of);
    }
}
