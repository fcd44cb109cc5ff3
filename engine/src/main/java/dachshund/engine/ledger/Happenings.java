package dachshund.engine.ledger;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.StepRun.Fate;
import dachshund.engine.lane.Landed;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;

/**
 * What people and programs did beside the transactions: it stands in the same ledger, so that what happened to a lot has one
 * answer. Safe for many threads.
 */
public final class Happenings {

    /** What a release is called where a run names its thing. */
    public static final String RELEASE = "release";

    /** Why there is a line of rows of a recorder, those of a while in one. */
    public static final String LANDED = "rows that have landed";

    /** Values longer than these are nothing that anybody looks up. */
    private static final int LONGEST_KEY = 60;

    private static final int MOST_KEYS = 12;

    private final Ledger ledger;
    private final Supplier<String> ids;
    private final PlantClock clock;

    /** @param ids a new one for each */
    public Happenings(Ledger ledger, Supplier<String> ids, PlantClock clock) {
        this.ledger = ledger;
        this.ids = ids;
        this.clock = clock;
    }

    /**
     * A tag was written, or was to be.
     *
     * @param source  id of its source
     * @param tag     its full name
     * @param before  its value before, in words
     * @param asked   what was to be written, in words
     * @param after   what was read back, in words
     * @param problem why it was not written, in a sentence; empty where it was
     * @param begun   when it was asked for
     */
    public void wrote(
            String source,
            String tag,
            String before,
            String asked,
            String after,
            String by,
            String problem,
            Instant begun) {
        boolean done = problem.isEmpty();
        StepRun step = new StepRun(
                "write",
                done ? Fate.DONE : Fate.FAILED,
                "",
                Map.of("value", asked),
                -1,
                Duration.between(begun, clock.now()).toNanos() / 1000,
                done ? "Read back: " + after : problem);
        note(
                source,
                "Write of " + tag,
                begun,
                "by hand, " + by,
                done,
                Map.of("before", new Run.Read(before, begun, "")),
                List.of(step),
                problem,
                Map.of("tag", tag));
    }

    /** What is released is at work, or as much of it as could be put to work. */
    public void released(long release, int things, String by) {
        note(
                RELEASE,
                "Release " + release,
                clock.now(),
                "released by " + by,
                true,
                Map.of(),
                List.of(),
                "It changed " + things + (things == 1 ? " thing." : " things."),
                Map.of(RELEASE, Long.toString(release)));
    }

    /**
     * A row that was set aside is on its way again.
     *
     * @param recorder its id
     * @param row      id of the row
     * @param cells    its values as they were sent, by column
     */
    public void sentAgain(String recorder, String name, String row, Map<String, String> cells, String by) {
        Map<String, String> keys = new LinkedHashMap<>();
        cells.forEach((column, value) -> {
            if (value != null && !value.isBlank() && value.length() <= LONGEST_KEY && keys.size() < MOST_KEYS) {
                keys.put(column, value);
            }
        });
        Map<String, String> carried = new LinkedHashMap<>();
        cells.forEach((column, value) -> carried.put(column, value == null ? "nothing" : value));
        note(
                recorder,
                name,
                clock.now(),
                "a row that was set aside, sent again by " + by,
                true,
                Map.of(),
                List.of(new StepRun("row", Fate.DONE, "", carried, -1, 0, "Row " + row + " is on its way.")),
                "",
                keys);
    }

    /**
     * Rows of a recorder were removed from a table because they were older than it keeps them.
     *
     * @param recorder its id
     * @param from     the table, in words
     */
    public void removed(String recorder, String name, String from, long rows, Instant olderThan, Instant begun) {
        String what =
                rows + (rows == 1 ? " row" : " rows") + " from before " + olderThan + " removed from " + from + ".";
        note(
                recorder,
                name,
                begun,
                "rows that were old enough",
                true,
                Map.of(),
                List.of(new StepRun(
                        "rows",
                        Fate.DONE,
                        "",
                        Map.of(),
                        rows,
                        Duration.between(begun, clock.now()).toNanos() / 1000,
                        what)),
                what,
                Map.of());
    }

    /** Rows of a recorder have landed. */
    public void landed(Landed rows) {
        Map<String, String> keys = new LinkedHashMap<>();
        Map<String, String> carried = new LinkedHashMap<>();
        rows.keys().forEach((column, values) -> {
            for (int i = 0; i < values.size(); i++) {
                keys.put(i == 0 ? column : column + " " + (i + 1), values.get(i));
            }
            carried.put(column, String.join(", ", values));
        });
        Map<String, Run.Read> times = new LinkedHashMap<>();
        times.put("first record time", new Run.Read(rows.first().toString(), rows.first(), ""));
        times.put("last record time", new Run.Read(rows.last().toString(), rows.last(), ""));
        Duration took = Duration.between(rows.begun(), rows.ended());
        String what = rows.rows() + (rows.rows() == 1 ? " row has" : " rows have") + " landed in " + rows.into() + ".";
        ledger.note(new Run(
                rows.id(),
                rows.recorder(),
                rows.name().isEmpty() ? "Rows of a recorder" : rows.name(),
                rows.begun(),
                rows.begun(),
                LANDED,
                "",
                Outcome.DONE,
                took.toMillis(),
                1,
                times,
                List.of(new StepRun("rows", Fate.DONE, "", carried, rows.rows(), took.toNanos() / 1000, what)),
                what,
                0,
                "",
                "",
                keys));
    }

    private void note(
            String thing,
            String name,
            Instant begun,
            String why,
            boolean done,
            Map<String, Run.Read> snapshot,
            List<StepRun> steps,
            String reason,
            Map<String, String> keys) {
        ledger.note(new Run(
                ids.get(),
                thing,
                name,
                begun,
                begun,
                why,
                "",
                done ? Outcome.DONE : Outcome.FAILED,
                Duration.between(begun, clock.now()).toMillis(),
                1,
                snapshot,
                steps,
                reason,
                0,
                "",
                "",
                keys));
    }
}
