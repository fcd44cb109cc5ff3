package dachshund.engine.recorder;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.PlacePattern;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Made;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.time.PlantClock;
import dachshund.core.when.Firing;
import dachshund.core.when.When;
import dachshund.core.when.WhenFacts;
import dachshund.core.when.WhenGroup;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * One recorder at work under one design: hears of changes, is woken at its times, makes rows and hands them to the lanes.
 * Changes come from the threads of the sources, times from the schedule's; its lock lets one in at a time and is never held
 * while the schedule is told something.
 */
public final class RecorderRun implements TagTable.Watcher {

    static final int STOP_AFTER_REFUSALS = 1000;

    private final RecorderDefinition definition;
    private final Object around;
    private final RowId identity;
    private final RowFacts facts;
    private final RowMaker maker;
    private final TagTable table;
    private final TagTable.Entry[] entries;
    private final WhenGroup whens;
    private final boolean byClock;
    private final List<Target> targets;
    private final Map<String, DestinationWriter> writers;
    private final Set<String> withStandby;
    private final AtomicLong sequence;
    private final CounterBook book;
    private final LocalStore local;
    private final PlantClock clock;
    private volatile Consumer<RecorderRun> sooner = run -> {};
    private volatile Consumer<RecorderRun> stopItself = run -> {};
    private int refusedInARow;
    private volatile String trouble = "";
    private final Map<Target, TargetsByName> named;
    private volatile Duration lateness = Duration.ZERO;

    /**
     * A writer and the number of this recorder's design there.
     *
     * @param byName the target of the destination with a name, for a Where that chooses by it; empty where there is none
     */
    public record Target(
            RecorderDefinition.Where where,
            PlacePattern place,
            DestinationWriter writer,
            int design,
            Function<String, Optional<Target>> byName) {

        public Target(
                RecorderDefinition.Where where,
                DestinationWriter writer,
                int design,
                Function<String, Optional<Target>> byName) {
            this(where, where.place(), writer, design, byName);
        }

        /** To one destination alone. */
        public Target(RecorderDefinition.Where where, DestinationWriter writer, int design) {
            this(where, writer, design, name -> Optional.empty());
        }
    }

    /** What a run works with beside its design. */
    public record Surroundings(TagTable table, Plant plant, CounterBook book, LocalStore local, PlantClock clock) {}

    /**
     * @param identity row id of this recorder in this epoch, of which the sequence does not count
     * @param sequence goes on from the design before
     */
    public RecorderRun(
            RecorderDefinition definition,
            RowId identity,
            AtomicLong sequence,
            List<Target> targets,
            Surroundings with) {
        this.definition = definition;
        this.identity = identity;
        this.sequence = sequence;
        this.targets = List.copyOf(targets);
        this.writers = targets.stream()
                .collect(Collectors.toMap(target -> target.where().destination(), Target::writer, (a, b) -> a));
        this.named = targets.stream()
                .filter(target -> !target.where().named().isEmpty())
                .collect(Collectors.toMap(target -> target, TargetsByName::new, (a, b) -> a, IdentityHashMap::new));
        this.withStandby =
                targets.stream().map(target -> target.where().standbyFor()).collect(Collectors.toSet());
        this.book = with.book();
        this.local = with.local();
        this.clock = with.clock();
        this.table = with.table();
        this.around = with.plant().around(definition);
        this.facts = with.plant().facts(definition);
        this.maker = new RowMaker(definition.layout(), facts);
        this.entries = maker.tags().stream().map(tag -> recorded(table, tag)).toArray(TagTable.Entry[]::new);
        this.byClock = definition.whens().stream().anyMatch(RecorderRun::byClock);
        this.whens = new WhenGroup(
                definition.whens(),
                definition.gate(),
                new WhenFacts(
                        facts.zone(),
                        facts.shifts(),
                        maker.tags(),
                        with.plant()::range,
                        byClock ? local.served(definition.id()) : Optional.empty()));
    }

    private static boolean byClock(When when) {
        return when instanceof When.AtTimes || when instanceof When.AtShiftEnds || when instanceof When.ByCron;
    }

    private static TagTable.Entry recorded(TagTable table, TagRef tag) {
        TagTable.Entry entry = table.entry(tag);
        entry.recent();
        return entry;
    }

    public RecorderDefinition definition() {
        return definition;
    }

    /** Whether it would be the same run under this design and these surroundings. */
    boolean same(RecorderDefinition design, Plant plant) {
        return definition.equals(design) && around.equals(plant.around(design));
    }

    /**
     * Begins to listen.
     *
     * @param sooner     told, with no lock held, when it has something to do sooner than it said
     * @param stopItself told, with no lock held, when nothing but refused rows came for long
     */
    void begin(Instant now, Consumer<RecorderRun> sooner, Consumer<RecorderRun> stopItself) {
        synchronized (this) {
            this.sooner = sooner;
            this.stopItself = stopItself;
            whens.tags().forEach(tag -> table.entry(tag).recent());
            whens.begin(tag -> table.entry(tag).value(), now);
            if (byClock && local.served(definition.id()).isEmpty()) {
                local.served(definition.id(), now);
            }
        }
        table.watch(whens.tags(), this);
    }

    /** Listens no more. */
    void end() {
        table.unwatch(whens.tags(), this);
    }

    /** Why rows are not being taken, in words; empty where they are. */
    public String trouble() {
        return trouble;
    }

    /** Names that its rows gave and no destination has, in a sentence; empty where there were none. */
    public String astray() {
        return named.values().stream()
                .map(TargetsByName::astray)
                .filter(each -> !each.isEmpty())
                .collect(Collectors.joining(" "));
    }

    /** How late the last tick was served. */
    public Duration lateness() {
        return lateness;
    }

    synchronized Instant next() {
        return whens.next();
    }

    synchronized void clockSetBack(Instant now) {
        whens.clockSetBack(now);
    }

    /** Whether its gate lets rows through now. */
    public synchronized boolean open(Instant now) {
        return whens.open(now);
    }

    /** Serves what is due. False where it has refused so many rows in a row that it should stop itself. */
    synchronized boolean time(Instant now) {
        List<Firing> due = whens.time(now);
        due.forEach(firing -> fire(firing, now));
        if (byClock && !due.isEmpty()) {
            local.served(definition.id(), now);
        }
        return refusedInARow < STOP_AFTER_REFUSALS;
    }

    @Override
    public void changed(List<TaggedValue> changes) {
        Instant before;
        Instant after;
        boolean goesOn;
        synchronized (this) {
            Instant now = clock.now();
            before = whens.next();
            whens.changed(changes, now).ifPresent(firing -> fire(firing, now));
            after = whens.next();
            goesOn = refusedInARow < STOP_AFTER_REFUSALS;
        }
        if (!goesOn) {
            stopItself.accept(this);
        } else if (after.isBefore(before)) {
            sooner.accept(this);
        }
    }

    private void fire(Firing firing, Instant now) {
        if (firing.kind() == Firing.Kind.SKIPPED) {
            book.due(definition.id(), firing.at(), targets.size());
            book.count(definition.id(), firing.at(), Outcome.SKIPPED, targets.size());
            return;
        }
        lateness = Duration.between(firing.at(), now);
        Snapshot values = firing.kind() == Firing.Kind.MARK ? nothing() : snapshot(firing);
        for (Made made : maker.make(identity.withSequence(sequence.incrementAndGet()), firing.at(), values)) {
            take(made, firing.at(), now);
        }
    }

    private Snapshot snapshot(Firing firing) {
        TagValue[] values = new TagValue[entries.length];
        TagValue[] good = new TagValue[entries.length];
        for (int i = 0; i < values.length; i++) {
            values[i] = entries[i].value();
            good[i] = entries[i].lastGood();
        }
        return new Snapshot(values, good, firing.changed());
    }

    private Snapshot nothing() {
        TagValue[] none = new TagValue[entries.length];
        Arrays.fill(none, TagValue.NONE);
        return new Snapshot(none, none, Optional.empty());
    }

    private void take(Made made, Instant at, Instant now) {
        if (made instanceof Made.Whole whole) {
            refusedInARow = 0;
            for (Target target : targets) {
                if (takes(target)) {
                    book.due(definition.id(), at, 1);
                    hand(target, whole.row());
                }
            }
            return;
        }
        book.due(definition.id(), at, targets.size());
        if (made instanceof Made.Refused refused) {
            for (Target target : targets) {
                local.setAside(
                        definition.id(),
                        target.where().destination(),
                        refused.id().toString(),
                        at,
                        refused.values(),
                        refused.reason(),
                        now);
            }
            book.count(definition.id(), at, Outcome.SET_ASIDE, targets.size());
            refusedInARow++;
        } else {
            book.count(definition.id(), at, Outcome.SKIPPED, targets.size());
        }
    }

    /** A standby takes rows while the one it stands in for is away, and then that one takes none. */
    private boolean takes(Target target) {
        String first = target.where().standbyFor();
        if (!first.isEmpty()) {
            return writers.containsKey(first) && writers.get(first).away();
        }
        return !withStandby.contains(target.where().destination())
                || !target.writer().away();
    }

    private void hand(Target usual, Row row) {
        TargetsByName chosen = named.get(usual);
        Target target = chosen == null ? usual : chosen.of(row, definition.layout(), facts);
        try {
            target.writer()
                    .take(
                            target.design(),
                            target.place().dynamic()
                                    ? withPlace(
                                            row,
                                            target.place()
                                                    .of(row, definition.layout(), facts)
                                                    .text())
                                    : row);
            trouble = "";
        } catch (Journal.Full full) {
            trouble = full.getMessage();
            book.count(definition.id(), row.recordTime(), Outcome.REFUSED, 1);
        }
    }

    /** The name is made now, when everything it is made of is known, and travels behind the cells. */
    private static Row withPlace(Row row, String place) {
        Object[] cells = Arrays.copyOf(row.cells(), row.cells().length + 1);
        cells[cells.length - 1] = place;
        return new Row(row.id(), row.recordTime(), cells);
    }
}
