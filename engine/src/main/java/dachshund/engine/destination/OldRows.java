package dachshund.engine.destination;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowAge;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableKeeping;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.RowId;
import dachshund.core.time.PlantClock;
import dachshund.engine.lane.Lane;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Removes rows that are older than their recorder keeps them: each night, between half past two and five in plant time, a few
 * hundred at a time with pauses that leave the table to others. Only rows that the recorder has made in this installation, told
 * by their ids. What fails at one table is said there and delays no other. Its steps are one thread's; {@link #removed} may be
 * called from any.
 */
public final class OldRows {

    private static final Logger LOG = LoggerFactory.getLogger(OldRows.class);

    /** When clearing away begins and ends, in plant time; a night in which nothing runs is left out. */
    public static final LocalTime BEGIN = LocalTime.of(2, 30);

    public static final LocalTime END = LocalTime.of(5, 0);

    /** Rows that go in one transaction. */
    static final int AT_ONCE = 500;
    /** Rows that are read before the first of them go. */
    static final int MOST_READ = 20_000;
    /** How often in a night a table that is away or in use is tried. */
    static final int TRIES = 20;

    private static final Duration LOOK = Duration.ofMinutes(1);
    private static final Duration SOON = Duration.ofSeconds(1);
    private static final Duration PAUSE = Duration.ofMillis(50);
    /** A table rests so many times longer than a step took. */
    private static final int REST = 4;
    /** No engine has trouble with this one, as a time stamp of whatever kind. */
    private static final Instant OLDEST = Instant.parse("1970-01-02T00:00:00Z");

    /** No time stamp of a column is finer. */
    private static final Duration FINEST = Duration.ofNanos(1000);

    private static final String REMEMBERED = "old-rows ";

    private static final String NIGHT_ENDED =
            "The night ended before all of them were removed; it goes on in the next.";
    private static final String OTHER_DESIGN = "The design is another one now; it is looked at in the next night.";

    /** How what is at work is reached. */
    public interface Tables {

        Optional<RowReading> reading(String destination);

        Optional<TableKeeping> keeping(String destination, String database);

        /** Names of the tables that rows of a lane were written to. */
        List<String> places(String recorder, String destination);

        /** Rows of a lane that are not in their table though they should be: held, or set aside. */
        long missing(String recorder, String destination);

        /** Name of the destination. */
        String name(String destination);
    }

    /** Is told what was removed. */
    @FunctionalInterface
    public interface Told {
        void removed(RecorderDefinition recorder, String from, long rows, Instant olderThan, Instant begun);
    }

    /**
     * What became of the rows of one place.
     *
     * @param at      when it was looked at last
     * @param rows    how many the database said that it removed then
     * @param others  how many as old stay, since another installation of Dachshund wrote them for this recorder
     * @param trouble why not all that are old enough, in a sentence; empty where all are
     */
    public record Removed(Instant at, long rows, long others, String trouble) {

        /** Whether somebody is needed: it does not go on by itself in the next night. */
        public boolean needsSomebody() {
            return !trouble.isEmpty() && !trouble.equals(NIGHT_ENDED) && !trouble.equals(OTHER_DESIGN);
        }

        private String text() {
            return at + "|" + rows + (others > 0 ? "," + others : "") + "|" + trouble;
        }

        private static Removed read(String text) {
            String[] parts = text.split("\\|", 3);
            String[] counts = parts[1].split(",");
            return new Removed(
                    Instant.parse(parts[0]),
                    Long.parseLong(counts[0]),
                    counts.length > 1 ? Long.parseLong(counts[1]) : 0,
                    parts[2]);
        }
    }

    /** One table of one place of a recorder, tonight. */
    private static final class Task {
        private final String installation;
        private final RecorderDefinition recorder;
        private final Where where;
        private final Place place;
        private final Instant begun;
        private final Instant before;
        private final Deque<RowId> found = new ArrayDeque<>();
        /** What is older than this was looked at. */
        private Instant from = OLDEST;

        private boolean all;
        private long rows;
        private long others;
        private int tries;
        private long notBefore;

        private Task(
                String installation,
                RecorderDefinition recorder,
                Where where,
                Place place,
                Instant begun,
                Instant before) {
            this.installation = installation;
            this.recorder = recorder;
            this.where = where;
            this.place = place;
            this.begun = begun;
            this.before = before;
        }

        /** Whether the rows that were to go are gone nobody knows: what is there is looked at anew. */
        private void again() {
            found.clear();
            from = OLDEST;
            all = false;
            others = 0;
        }

        private void found(RowId row) {
            if (row.installation().equals(installation)) {
                found.add(row);
            } else {
                others++;
            }
        }

        private String lane() {
            return Lane.name(recorder.id(), where.destination());
        }
    }

    private final Supplier<Collection<RecorderDefinition>> recorders;
    private final Tables tables;
    private final LocalStore local;
    private final PlantClock clock;
    private final ZoneId zone;
    private final Told told;
    private final Map<String, Removed> removed = new ConcurrentHashMap<>();

    private final Deque<Task> tonight = new ArrayDeque<>();
    private LocalDate night = LocalDate.MIN;

    /** @param recorders those that are at work */
    public OldRows(
            Supplier<Collection<RecorderDefinition>> recorders,
            Tables tables,
            LocalStore local,
            PlantClock clock,
            ZoneId zone,
            Told told) {
        this.recorders = recorders;
        this.tables = tables;
        this.local = local;
        this.clock = clock;
        this.zone = zone;
        this.told = told;
    }

    /** What became of the old rows of one place of a recorder when they were looked at last. */
    public Optional<Removed> removed(String recorder, String destination) {
        String lane = Lane.name(recorder, destination);
        return Optional.ofNullable(removed.get(lane))
                .or(() -> local.remembered(REMEMBERED + lane).map(Removed::read));
    }

    /** Whether it is the time of night in which things are cleared away. */
    public static boolean isNight(ZonedDateTime now) {
        return now.toLocalTime().isAfter(BEGIN) && now.toLocalTime().isBefore(END);
    }

    /** One step. @return how long to wait before the next, in nanoseconds */
    public long step() {
        ZonedDateTime now = clock.now().atZone(zone);
        if (!isNight(now)) {
            List<Task> left = List.copyOf(tonight);
            tonight.clear();
            left.forEach(task -> end(task, NIGHT_ENDED));
            return LOOK.toNanos();
        }
        if (!night.equals(now.toLocalDate())) {
            if (recorders.get().isEmpty()) {
                return SOON.toNanos(); // none is at work yet
            }
            tonight.clear();
            begin(now.toInstant());
            night = now.toLocalDate();
        }
        long from = clock.nanos();
        Task task = tonight.stream()
                .filter(each -> each.notBefore == 0 || from - each.notBefore >= 0)
                .findFirst()
                .orElse(null);
        if (task == null) {
            return LOOK.toNanos();
        }
        if (!asDesigned(task)) {
            leave(task, OTHER_DESIGN);
        } else if (guarded(task) && task.all && task.found.isEmpty()) {
            leave(task, "");
        }
        return Math.max(PAUSE.toNanos(), REST * (clock.nanos() - from));
    }

    /** Whether rows are still to be kept as they were at the beginning of the night. */
    private boolean asDesigned(Task task) {
        return recorders.get().stream()
                .filter(each -> each.id().equals(task.recorder.id()))
                .anyMatch(each ->
                        each.wheres().contains(task.where) && each.layout().equals(task.recorder.layout()));
    }

    private void leave(Task task, String trouble) {
        tonight.remove(task);
        end(task, trouble);
    }

    private void begin(Instant now) {
        for (RecorderDefinition recorder : recorders.get()) {
            for (Where where : recorder.wheres()) {
                int days = where.upkeep().keepDays();
                if (days == 0
                        || RowAge.problem(where.upkeep(), recorder.layout(), where.mode(), where.named())
                                .isPresent()) {
                    continue;
                }
                // Tables that an earlier design has written to stay as they are.
                tables.places(recorder.id(), where.destination()).stream()
                        .map(Place::read)
                        .filter(where.place()::mayBe)
                        .map(place -> new Task(
                                local.installation(), recorder, where, place, now, now.minus(Duration.ofDays(days))))
                        .forEach(tonight::add);
            }
        }
    }

    /** @return whether the step was done */
    private boolean guarded(Task task) {
        try {
            String lacking = lacking(task);
            if (!lacking.isEmpty()) {
                leave(task, lacking);
                return false;
            }
            if (task.found.isEmpty()) {
                read(task);
            }
            remove(task);
            return true;
        } catch (StoreProblem problem) {
            boolean passing = problem.kind() == StoreProblem.Kind.AWAY
                    || problem.kind() == StoreProblem.Kind.BUSY
                    || problem.kind() == StoreProblem.Kind.CLASHED;
            if (passing && ++task.tries < TRIES) {
                task.notBefore = clock.nanos() + LOOK.toNanos();
                task.again();
            } else {
                leave(task, problem.getMessage());
            }
            return false;
        } catch (RuntimeException | Error defect) {
            LOG.error("Old rows of {} could not be removed.", task.recorder.name(), defect);
            leave(task, Threads.words(defect));
            return false;
        }
    }

    /** Where it is asked for: which other place of the recorder does not have all of its rows. */
    private String lacking(Task task) {
        if (!task.where.upkeep().afterOthers()) {
            return "";
        }
        for (Where other : task.recorder.wheres()) {
            long missing = other.destination().equals(task.where.destination())
                    ? 0
                    : tables.missing(task.recorder.id(), other.destination());
            if (missing > 0) {
                return "Rows stay as long as " + tables.name(other.destination()) + " does not have all of them: "
                        + missing + (missing == 1 ? " is" : " are") + " held or set aside.";
            }
        }
        return "";
    }

    private void read(Task task) throws StoreProblem {
        Layout layout = task.recorder.layout();
        Column id = layout.rowIdColumn().orElseThrow();
        Column time = layout.recordTimeColumn().orElseThrow();
        RowReading reading = tables.reading(task.where.destination()).orElse(null);
        if (reading == null || !reading.readsBetween()) {
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE, -1, "This destination cannot be asked for rows by their time.", null);
        }
        TableKeeping keeping = keeping(task);
        Optional<TableDescription> there = keeping.describe(task.place.table());
        for (Column needed : List.of(id, time)) {
            if (there.isPresent() && there.get().column(needed.name()).isEmpty()) {
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE,
                        -1,
                        "The table has no column " + needed.name()
                                + ", by which its rows are told apart from those of others and from younger ones.",
                        null);
            }
        }
        int[] rows = {0};
        Instant[] last = {task.from};
        // Of others at the last instant: they are read once more where it goes on with that one.
        long[] before = {task.others};
        reading.in(task.place.database())
                .between(
                        task.place.table(),
                        new Layout(List.of(id, time)),
                        time,
                        task.from,
                        task.before,
                        MOST_READ,
                        (names, cells) -> {
                            rows[0]++;
                            Instant at = (Instant) cells.get(names.indexOf(time.name()));
                            if (!at.equals(last[0])) {
                                last[0] = at;
                                before[0] = task.others;
                            }
                            if (cells.get(names.indexOf(id.name())) instanceof String text) {
                                rowId(text.strip())
                                        .filter(each -> each.recorder().equals(task.recorder.id()))
                                        .ifPresent(task::found);
                            }
                        });
        task.all = rows[0] < MOST_READ;
        // Of one instant there may be more: they are found when those of ours are gone. Where none is ours it goes on
        // behind.
        if (last[0].isAfter(task.from) || !task.found.isEmpty()) {
            task.from = last[0];
            task.others = task.all ? task.others : before[0];
        } else {
            task.from = last[0].plus(FINEST);
        }
    }

    /** What somebody else may have written there is none. */
    private static Optional<RowId> rowId(String text) {
        try {
            return Optional.of(RowId.read(text));
        } catch (IllegalArgumentException none) {
            return Optional.empty();
        }
    }

    private TableKeeping keeping(Task task) throws StoreProblem {
        return tables.keeping(task.where.destination(), task.place.database())
                .orElseThrow(() -> new StoreProblem(
                        StoreProblem.Kind.TABLE, -1, "Rows cannot be removed from this destination.", null));
    }

    private void remove(Task task) throws StoreProblem {
        List<RowId> some = new ArrayList<>(AT_ONCE);
        for (RowId each : task.found) {
            if (some.size() == AT_ONCE) {
                break;
            }
            some.add(each);
        }
        if (some.isEmpty()) {
            return;
        }
        int gone = keeping(task)
                .remove(
                        task.place.table(),
                        task.recorder.layout().rowIdColumn().orElseThrow().name(),
                        some);
        if (gone == 0) {
            // They were there a moment ago, and would be found again and again.
            throw new StoreProblem(
                    StoreProblem.Kind.TABLE,
                    -1,
                    "None of " + some.size() + " rows that were found could be removed.",
                    null);
        }
        task.rows += gone;
        some.forEach(each -> task.found.poll());
    }

    /** What cannot be told is reported, and keeps nothing back. */
    private void end(Task task, String trouble) {
        try {
            tell(task, trouble);
        } catch (RuntimeException | Error defect) {
            LOG.error("What became of old rows of {} could not be told.", task.recorder.name(), defect);
        }
    }

    private void tell(Task task, String trouble) {
        Removed before = removed.get(task.lane());
        boolean same = before != null && before.at().equals(task.begun);
        said(
                task.lane(),
                new Removed(
                        task.begun,
                        task.rows + (same ? before.rows() : 0),
                        task.others + (same ? before.others() : 0),
                        same && !before.trouble().isEmpty() ? before.trouble() : trouble));
        if (task.rows > 0) {
            String from = task.place.words() + " in " + tables.name(task.where.destination());
            LOG.info(
                    "{} rows of {} before {} are removed from {}.", task.rows, task.recorder.name(), task.before, from);
            told.removed(task.recorder, from, task.rows, task.before, task.begun);
        }
    }

    private void said(String lane, Removed what) {
        removed.put(lane, what);
        local.remember(REMEMBERED + lane, what.text());
    }
}
