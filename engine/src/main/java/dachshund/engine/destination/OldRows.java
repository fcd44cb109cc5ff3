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
import dachshund.engine.night.NightWork;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Removes rows that are older than their recorder keeps them: each night, a few hundred at a time. Only rows that the recorder has
 * made in this installation, told by their ids. Its steps are one thread's; {@link #removed} may be called from any.
 */
public final class OldRows {

    private static final Logger LOG = LoggerFactory.getLogger(OldRows.class);

    private static final String REMEMBERED = "old-rows ";

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
            return !NightWork.goesOn(trouble);
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
    private final Told told;
    private final Map<String, Removed> removed = new ConcurrentHashMap<>();
    private final NightWork night;

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
        this.told = told;
        this.night = new NightWork(this::tonight, clock, zone, local);
    }

    /** What became of the old rows of one place of a recorder when they were looked at last. */
    public Optional<Removed> removed(String recorder, String destination) {
        String lane = Lane.name(recorder, destination);
        return Optional.ofNullable(removed.get(lane))
                .or(() -> local.remembered(REMEMBERED + lane).map(Removed::read));
    }

    /** One step. @return how long to wait before the next, in nanoseconds */
    public long step() {
        return night.step();
    }

    /** What is to be done tonight; empty while no recorder is at work yet. */
    private Optional<List<NightWork.Piece>> tonight() {
        return recorders.get().isEmpty() ? Optional.empty() : Optional.of(tonight(clock.now()));
    }

    /** The old rows of one table. */
    private final class OfTable implements NightWork.Piece {

        private final OldRowsOfTable task;

        private OfTable(OldRowsOfTable task) {
            this.task = task;
        }

        @Override
        public String words() {
            return "Old rows of " + task.recorder().name();
        }

        @Override
        public boolean stands() {
            return recorders.get().stream()
                    .filter(each -> each.id().equals(task.recorder().id()))
                    .anyMatch(each -> each.wheres().contains(task.where())
                            && each.layout().equals(task.recorder().layout()));
        }

        @Override
        public void step() throws StoreProblem {
            String lacking = lacking(task);
            if (!lacking.isEmpty()) {
                throw new StoreProblem(StoreProblem.Kind.TABLE, -1, lacking, null);
            }
            task.step(tables);
        }

        @Override
        public boolean isDone() {
            return task.isDone();
        }

        @Override
        public void again() {
            task.again();
        }

        @Override
        public void end(String trouble) {
            tell(task, trouble);
        }
    }

    private List<NightWork.Piece> tonight(Instant now) {
        List<NightWork.Piece> pieces = new ArrayList<>();
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
                        .map(OfTable::new)
                        .forEach(pieces::add);
            }
        }
        return pieces;
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
