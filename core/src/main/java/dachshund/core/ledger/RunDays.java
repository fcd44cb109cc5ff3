package dachshund.core.ledger;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/** Runs of one thing by days of the plant. */
public final class RunDays {

    private RunDays() {}

    /** When one was fired, how it ended, and how long it took from its trigger to its end. */
    public record Ended(Instant fired, Run.Outcome outcome, long millis) {}

    /**
     * One day.
     *
     * @param done   runs that stand: done now or before, with or without a but
     * @param failed all others, those that were not begun among them
     * @param median milliseconds from trigger to end that half of the runs took at most, of those that stand; 0 where none does
     * @param most   what nineteen of twenty took at most
     * @param longest what the slowest took
     */
    public record Day(LocalDate date, int done, int failed, long median, long most, long longest) {}

    /** The newest day first; days without a run are left out. */
    public static List<Day> of(List<Ended> runs, ZoneId zone) {
        Map<LocalDate, List<Ended>> byDay = new TreeMap<>(Collections.reverseOrder());
        runs.forEach(run -> byDay.computeIfAbsent(run.fired().atZone(zone).toLocalDate(), day -> new ArrayList<>())
                .add(run));
        List<Day> days = new ArrayList<>();
        byDay.forEach((date, all) -> {
            List<Long> took = all.stream()
                    .filter(run -> run.outcome().stands())
                    .map(Ended::millis)
                    .sorted()
                    .toList();
            days.add(new Day(
                    date, took.size(), all.size() - took.size(), rank(took, 0.5), rank(took, 0.95), rank(took, 1)));
        });
        return days;
    }

    /** The nearest rank: of so many, the least value that this share does not exceed. */
    private static long rank(List<Long> sorted, double share) {
        return sorted.isEmpty() ? 0 : sorted.get((int) Math.ceil(share * sorted.size()) - 1);
    }
}
