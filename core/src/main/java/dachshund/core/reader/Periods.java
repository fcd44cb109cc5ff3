package dachshund.core.reader;

import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;

/**
 * Periods that a query joins as a table: with the columns {@code name}, {@code start} (a time), {@code begins} and {@code ends}
 * (written as the column that is compared with them).
 */
public record Periods(Written how, List<Period> all) {

    /** How beginnings and ends are written. */
    public enum Written {
        TIMES,
        /** What a wall clock showed, even where the engine knows instants. */
        LOCAL,
        SECONDS,
        MILLIS
    }

    public Periods {
        all = List.copyOf(all);
    }

    /** A period by what a wall clock showed. */
    public record Local(String name, LocalDateTime from, LocalDateTime to) {}

    /**
     * By what the wall clock of a zone showed. What it showed twice, since it was set back, belongs to the first period that
     * shows it: so nothing counts twice.
     */
    public List<Local> local(ZoneId zone) {
        List<Local> clocks = new ArrayList<>();
        LocalDateTime before = LocalDateTime.MIN;
        for (Period each : all) {
            LocalDateTime from = later(before, of(each.from(), zone));
            LocalDateTime to = later(from, of(each.to(), zone));
            clocks.add(new Local(each.name(), from, to));
            before = to;
        }
        return clocks;
    }

    private static LocalDateTime of(Instant at, ZoneId zone) {
        return LocalDateTime.ofInstant(at, zone);
    }

    private static LocalDateTime later(LocalDateTime a, LocalDateTime b) {
        return a.isAfter(b) ? a : b;
    }
}
