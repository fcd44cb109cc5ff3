package dachshund.engine.destination;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowAge;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableKeeping;
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

    /** How often in a night a table that is away or in use is tried. */
    static final int TRIES = 20;

    private static final Duration LOOK = Duration.ofMinutes(1);
    private static final Duration SOON = Duration.ofSeconds(1);
    private static final Duration PAUSE = Duration.ofMillis(50);
    /** A table rests so many times longer than a step took. */
    private static final int REST = 4;

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

    private final Supplier<Collection<RecorderDefinition>> recorders;
    private final Tables tables;
    private final LocalStore local;
    private final PlantClock clock;
    private final ZoneId zone;
    private final Told told;
    private final Map<String, Removed> removed = new ConcurrentHashMap<>();

    private final Deque<OldRowsOfTable> tonight = new ArrayDeque<>();
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
            List<OldRowsOfTable> left = List.copyOf(tonight);
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
        OldRowsOfTable task =
                tonight.stream().filter(each -> each.isDue(from)).findFirst().orElse(null);
        if (task == null) {
            return LOOK.toNanos();
        }
        if (!asDesigned(task)) {
            leave(task, OTHER_DESIGN);
        } else if (guarded(task) && task.isDone()) {
            leave(task, "");
        }
        return Math.max(PAUSE.toNanos(), REST * (clock.nanos() - from));
    }

    /** Whether rows are still to be kept as they were at the beginning of the night. */
    private boolean asDesigned(OldRowsOfTable task) {
        return recorders.get().stream()
                .filter(each -> each.id().equals(task.recorder().id()))
                .anyMatch(each -> each.wheres().contains(task.where())
                        && each.layout().equals(task.recorder().layout()));
    }

    private void leave(OldRowsOfTable task, String trouble) {
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
                        .map(place -> new OldRowsOfTable(
                                local.installation(), recorder, where, place, now, now.minus(Duration.ofDays(days))))
                        .forEach(tonight::add);
            }
        }
    }

    /** @return whether the step was done */
    private boolean guarded(OldRowsOfTable task) {
        try {
            String lacking = lacking(task);
            if (!lacking.isEmpty()) {
                leave(task, lacking);
                return false;
            }
            task.step(tables);
            return true;
        } catch (StoreProblem problem) {
            boolean passing = problem.kind() == StoreProblem.Kind.AWAY
                    || problem.kind() == StoreProblem.Kind.BUSY
                    || problem.kind() == StoreProblem.Kind.CLASHED;
            if (passing && task.triedAgain() < TRIES) {
                task.again(clock.nanos() + LOOK.toNanos());
            } else {
                leave(task, problem.getMessage());
            }
            return false;
        } catch (RuntimeException | Error defect) {
            LOG.error("Old rows of {} could not be removed.", task.recorder().name(), defect);
            leave(task, Threads.words(defect));
            return false;
        }
    }

    /** Where it is asked for: which other place of the recorder does not have all of its rows. */
    private String lacking(OldRowsOfTable task) {
        if (!task.where().upkeep().afterOthers()) {
            return "";
        }
        for (Where other : task.recorder().wheres()) {
            long missing = other.destination().equals(task.where().destination())
                    ? 0
                    : tables.missing(task.recorder().id(), other.destination());
            if (missing > 0) {
                return "Rows stay as long as " + tables.name(other.destination()) + " does not have all of them: "
                        + missing + (missing == 1 ? " is" : " are") + " held or set aside.";
            }
        }
        return "";
    }

    /** What cannot be told is reported, and keeps nothing back. */
    private void end(OldRowsOfTable task, String trouble) {
        try {
            tell(task, trouble);
        } catch (RuntimeException | Error defect) {
            LOG.error(
                    "What became of old rows of {} could not be told.",
                    task.recorder().name(),
                    defect);
        }
    }

    private void tell(OldRowsOfTable task, String trouble) {
        Removed before = removed.get(task.lane());
        boolean same = before != null && before.at().equals(task.begun());
        said(
                task.lane(),
                new Removed(
                        task.begun(),
                        task.rows() + (same ? before.rows() : 0),
                        task.others() + (same ? before.others() : 0),
                        same && !before.trouble().isEmpty() ? before.trouble() : trouble));
        if (task.rows() > 0) {
            String from =
                    task.place().words() + " in " + tables.name(task.where().destination());
            LOG.info(
                    "{} rows of {} before {} are removed from {}.",
                    task.rows(),
                    task.recorder().name(),
                    task.before(),
                    from);
            told.removed(task.recorder(), from, task.rows(), task.before(), task.begun());
        }
    }

    private void said(String lane, Removed what) {
        removed.put(lane, what);
        local.remember(REMEMBERED + lane, what.text());
    }
}
