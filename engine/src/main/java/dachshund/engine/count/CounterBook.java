package dachshund.engine.count;

import dachshund.core.outcome.Outcome;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;

/**
 * Counts what became of rows: per recorder and minute for the last hour, and in total since the start. A row counts in
 * the minute it was due, whenever it landed, so that a minute fills up when held rows land. Safe for many threads.
 */
public final class CounterBook {

    private static final int MINUTES = 64;
    private static final Outcome[] OUTCOMES = Outcome.values();

    private final Map<String, Strip> strips = new ConcurrentHashMap<>();
    private final AtomicLong[] totals = counters();

    /**
     * One minute of one recorder.
     *
     * @param start   the minute's first instant
     * @param due     rows that were due, times destinations
     * @param landed  of these, committed
     * @param setAside refused for their content
     * @param skipped not made
     * @param refused could not be kept
     */
    public record Minute(Instant start, long due, long landed, long setAside, long skipped, long refused) {

        /** Whether the same became of as many rows in both. */
        public boolean sameAs(Minute other) {
            return other.equals(new Minute(other.start, due, landed, setAside, skipped, refused));
        }

        /** Rows that were made and wait on disk. */
        public long held() {
            return Math.max(0, due - landed - setAside - skipped - refused);
        }
    }

    private static final class Cell {
        private long minute = -1;
        private long due;
        private final long[] outcomes = new long[OUTCOMES.length];
        private long slowestMillis;
    }

    private static final class Strip {
        private final Cell[] cells = new Cell[MINUTES];

        private Strip() {
            for (int i = 0; i < MINUTES; i++) {
                cells[i] = new Cell();
            }
        }

        /** The cell of the minute, or null where the minute has left the strip. */
        private Cell cell(Instant at) {
            long minute = Math.floorDiv(at.getEpochSecond(), 60);
            Cell cell = cells[(int) Math.floorMod(minute, (long) MINUTES)];
            if (cell.minute > minute) {
                return null;
            }
            if (cell.minute < minute) {
                cell.minute = minute;
                cell.due = 0;
                cell.slowestMillis = 0;
                java.util.Arrays.fill(cell.outcomes, 0);
            }
            return cell;
        }
    }

    private static AtomicLong[] counters() {
        AtomicLong[] counters = new AtomicLong[OUTCOMES.length];
        for (int i = 0; i < counters.length; i++) {
            counters[i] = new AtomicLong();
        }
        return counters;
    }

    /** So many rows are due at the instant. */
    public void due(String recorder, Instant at, long rows) {
        Strip strip = strips.computeIfAbsent(recorder, id -> new Strip());
        synchronized (strip) {
            Cell cell = strip.cell(at);
            if (cell != null) {
                cell.due += rows;
            }
        }
    }

    /** So many rows that were due at the instant came to this outcome. */
    public void count(String recorder, Instant dueAt, Outcome outcome, long rows) {
        totals[outcome.ordinal()].addAndGet(rows);
        Strip strip = strips.computeIfAbsent(recorder, id -> new Strip());
        synchronized (strip) {
            Cell cell = strip.cell(dueAt);
            if (cell != null) {
                cell.outcomes[outcome.ordinal()] += rows;
            }
        }
    }

    /** Rows that were due at these instants were committed at the second. */
    public void landed(String recorder, Instant[] dueAt, Instant committed) {
        totals[Outcome.LANDED.ordinal()].addAndGet(dueAt.length);
        Strip strip = strips.computeIfAbsent(recorder, id -> new Strip());
        int from = 0;
        while (from < dueAt.length) {
            // Whoever makes rows counts them in the same strip: it is held for a minute's rows at once, not for each.
            long minute = Math.floorDiv(dueAt[from].getEpochSecond(), 60);
            Instant first = dueAt[from];
            int to = from + 1;
            while (to < dueAt.length && Math.floorDiv(dueAt[to].getEpochSecond(), 60) == minute) {
                first = dueAt[to].isBefore(first) ? dueAt[to] : first;
                to++;
            }
            synchronized (strip) {
                Cell cell = strip.cell(first);
                if (cell != null) {
                    cell.outcomes[Outcome.LANDED.ordinal()] += to - from;
                    cell.slowestMillis = Math.max(cell.slowestMillis, committed.toEpochMilli() - first.toEpochMilli());
                }
            }
            from = to;
        }
    }

    /** One minute of one recorder as it is kept over a restart. */
    public record Kept(
            String recorder,
            long minute,
            long due,
            long landed,
            long setAside,
            long skipped,
            long refused,
            long slowestMillis) {}

    /** Every minute from the instant on in which something was due. */
    public List<Kept> kept(Instant from) {
        long first = Math.floorDiv(from.getEpochSecond(), 60);
        List<Kept> all = new ArrayList<>();
        strips.forEach((recorder, strip) -> {
            synchronized (strip) {
                for (Cell cell : strip.cells) {
                    if (cell.minute >= first && cell.due > 0) {
                        all.add(new Kept(
                                recorder,
                                cell.minute,
                                cell.due,
                                cell.outcomes[Outcome.LANDED.ordinal()],
                                cell.outcomes[Outcome.SET_ASIDE.ordinal()],
                                cell.outcomes[Outcome.SKIPPED.ordinal()],
                                cell.outcomes[Outcome.REFUSED.ordinal()],
                                cell.slowestMillis));
                    }
                }
            }
        });
        return all;
    }

    /** Goes on from what was kept before a restart. */
    public void restore(List<Kept> before) {
        for (Kept each : before) {
            Strip strip = strips.computeIfAbsent(each.recorder(), id -> new Strip());
            synchronized (strip) {
                Cell cell = strip.cell(Instant.ofEpochSecond(each.minute() * 60));
                if (cell != null) {
                    cell.due += each.due();
                    cell.outcomes[Outcome.LANDED.ordinal()] += each.landed();
                    cell.outcomes[Outcome.SET_ASIDE.ordinal()] += each.setAside();
                    cell.outcomes[Outcome.SKIPPED.ordinal()] += each.skipped();
                    cell.outcomes[Outcome.REFUSED.ordinal()] += each.refused();
                    cell.slowestMillis = Math.max(cell.slowestMillis, each.slowestMillis());
                }
            }
        }
    }

    /** The last sixty minutes of a recorder, oldest first, the present one last. */
    public List<Minute> hour(String recorder, Instant now) {
        long present = Math.floorDiv(now.getEpochSecond(), 60);
        Strip strip = strips.get(recorder);
        List<Minute> minutes = new ArrayList<>(60);
        for (long minute = present - 59; minute <= present; minute++) {
            Instant start = Instant.ofEpochSecond(minute * 60);
            if (strip == null) {
                minutes.add(new Minute(start, 0, 0, 0, 0, 0));
                continue;
            }
            synchronized (strip) {
                Cell cell = strip.cells[(int) Math.floorMod(minute, (long) MINUTES)];
                minutes.add(
                        cell.minute != minute
                                ? new Minute(start, 0, 0, 0, 0, 0)
                                : new Minute(
                                        start,
                                        cell.due,
                                        cell.outcomes[Outcome.LANDED.ordinal()],
                                        cell.outcomes[Outcome.SET_ASIDE.ordinal()],
                                        cell.outcomes[Outcome.SKIPPED.ordinal()],
                                        cell.outcomes[Outcome.REFUSED.ordinal()]));
            }
        }
        return minutes;
    }

    /** The longest time from due to committed in the last hour. */
    public Duration slowest(String recorder, Instant now) {
        Strip strip = strips.get(recorder);
        if (strip == null) {
            return Duration.ZERO;
        }
        long oldest = Math.floorDiv(now.getEpochSecond(), 60) - 59;
        synchronized (strip) {
            long slowest = 0;
            for (Cell cell : strip.cells) {
                slowest = cell.minute >= oldest ? Math.max(slowest, cell.slowestMillis) : slowest;
            }
            return Duration.ofMillis(slowest);
        }
    }

    /** Rows with this outcome since the start, all recorders together. */
    public long total(Outcome outcome) {
        return totals[outcome.ordinal()].get();
    }
}
