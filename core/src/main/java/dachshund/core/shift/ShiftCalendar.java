package dachshund.core.shift;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * Which shift runs when. Each instant has one shift at most, and one shift date. Start and end keep to the plant's clock on
 * the wall, so a night shift across a changeover is an hour longer or shorter; a clock time that does not exist comes as much
 * later as the clock jumps, and of one that comes twice the first is taken.
 *
 * @param byBeginning whether a shift over midnight belongs to the day it began, else to the day it ends
 */
public record ShiftCalendar(List<Shift> shifts, List<Holiday> holidays, boolean byBeginning) {

    /** No shifts. */
    public static final ShiftCalendar NONE = new ShiftCalendar(List.of(), List.of(), true);

    private static final int DAY = 24 * 60;
    private static final int WEEK = 7 * DAY;
    /** Longer than any row of holidays that a calendar is asked to look past. */
    private static final int LOOK_AHEAD_DAYS = 400;

    public ShiftCalendar {
        shifts = List.copyOf(shifts);
        holidays = List.copyOf(holidays);
    }

    /** The shift that runs at the instant. */
    public Optional<Worked> at(Instant instant, ZoneId zone) {
        LocalDate day = instant.atZone(zone).toLocalDate();
        return starting(day.minusDays(1), day, zone).stream()
                .filter(worked -> !instant.isBefore(worked.from()) && instant.isBefore(worked.to()))
                .findFirst();
    }

    /** The shift that ended last, at the instant or before; empty where none did within a year. */
    public Optional<Worked> lastEnded(Instant at, ZoneId zone) {
        LocalDate day = at.atZone(zone).toLocalDate();
        for (int back = 0; back <= LOOK_AHEAD_DAYS && !shifts.isEmpty(); back++) {
            LocalDate begins = day.minusDays(back + 1L);
            Optional<Worked> ended = starting(begins, begins.plusDays(1), zone).stream()
                    .filter(worked -> !worked.to().isAfter(at))
                    .max(Comparator.comparing(Worked::to));
            if (ended.isPresent()) {
                return ended;
            }
        }
        return Optional.empty();
    }

    /** The first end of a shift after the instant; empty where none comes within a year. */
    public Optional<Instant> nextEnd(Instant after, ZoneId zone) {
        LocalDate day = after.atZone(zone).toLocalDate();
        for (int ahead = 0; ahead <= LOOK_AHEAD_DAYS && !shifts.isEmpty(); ahead++) {
            LocalDate begins = day.plusDays(ahead - 1L);
            Optional<Instant> end = starting(begins, begins.plusDays(1), zone).stream()
                    .map(Worked::to)
                    .filter(to -> to.isAfter(after))
                    .min(Comparator.naturalOrder());
            if (end.isPresent()) {
                return end;
            }
        }
        return Optional.empty();
    }

    /** The shifts that begin on any day from the first to the last, in order. */
    public List<Worked> starting(LocalDate first, LocalDate last, ZoneId zone) {
        List<Worked> found = new ArrayList<>();
        for (LocalDate day = first; !day.isAfter(last); day = day.plusDays(1)) {
            LocalDate begins = day;
            if (holidays.stream().anyMatch(holiday -> holiday.date().equals(begins))) {
                continue;
            }
            shifts.stream()
                    .filter(shift -> shift.days().contains(begins.getDayOfWeek()))
                    .map(shift -> worked(shift, begins, zone))
                    .filter(worked -> worked.from().isBefore(worked.to()))
                    .forEach(found::add);
        }
        found.sort(Comparator.comparing(Worked::from));
        return found;
    }

    private Worked worked(Shift shift, LocalDate begins, ZoneId zone) {
        LocalDate ends = shift.overMidnight() ? begins.plusDays(1) : begins;
        ZonedDateTime from = begins.atTime(shift.start()).atZone(zone);
        ZonedDateTime to = ends.atTime(shift.end()).atZone(zone);
        return new Worked(shift.name(), byBeginning ? begins : ends, from.toInstant(), to.toInstant());
    }

    /** Sentences on what is wrong; empty where nothing is. */
    public List<String> problems() {
        List<String> problems = new ArrayList<>();
        for (int i = 0; i < shifts.size(); i++) {
            Shift shift = shifts.get(i);
            if (shift.name().isBlank()) {
                problems.add("Shift " + (i + 1) + " needs a name.");
            }
            if (shift.days().isEmpty()) {
                problems.add(shift.name() + " runs on no day. Tick the days on which it begins.");
            }
            for (Shift other : shifts.subList(0, i)) {
                if (overlap(shift, other)) {
                    problems.add(other.name() + " and " + shift.name()
                            + " run at the same time. Each instant has one shift.");
                }
            }
        }
        return problems;
    }

    private static boolean overlap(Shift a, Shift b) {
        for (DayOfWeek x : a.days()) {
            for (DayOfWeek y : b.days()) {
                int distance = Math.floorMod(begin(y, b) - begin(x, a), WEEK);
                if (distance < length(a) || WEEK - distance < length(b)) {
                    return true;
                }
            }
        }
        return false;
    }

    private static int begin(DayOfWeek day, Shift shift) {
        return (day.getValue() - 1) * DAY + shift.start().toSecondOfDay() / 60;
    }

    private static int length(Shift shift) {
        int minutes = (shift.end().toSecondOfDay() - shift.start().toSecondOfDay()) / 60;
        return minutes > 0 ? minutes : minutes + DAY;
    }
}
