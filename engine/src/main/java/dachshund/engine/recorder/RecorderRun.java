package dachshund.engine.recorder;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.PlacePattern;
import dachshund.core.layout.Column;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Made;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.core.when.Confirmation;
import dachshund.core.when.Firing;
import dachshund.core.when.When;
import dachshund.core.when.WhenFacts;
import dachshund.core.when.WhenGroup;
import dachshund.engine.answer.Asked;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Threads;
import dachshund.engine.when.Action;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.WhenRun;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * One recorder at work under one design: what its Whens drive. Makes rows and hands them to the lanes; what goes wrong with
 * one row or one target is said, counted, and does not touch the next.
 */
public final class RecorderRun implements Action {

    static final int STOP_AFTER_REFUSALS = 1000;
    /** A step that takes longer, or a row that is due for longer, is said. */
    private static final Duration LONG = Duration.ofSeconds(10);

    private final RecorderDefinition definition;
    private final Object around;
    private final RowId identity;
    private final RowFacts facts;
    private final RowMaker maker;
    private final List<String> columns;
    private final WhenRun when;
    private final boolean byClock;
    private final List<Target> targets;
    private final Map<String, DestinationWriter> writers;
    private final Set<String> withStandby;
    private final AtomicLong sequence;
    private final CounterBook book;
    private final LocalStore local;
    private final PlantClock clock;
    private final Said said;
    private final Consumer<RecorderRun> stopItself;
    private int refusedInARow;
    private final Map<Target, String> troubles = new ConcurrentHashMap<>();
    private volatile String failing = "";
    private final Map<Target, TargetsByName> named;
    private final Optional<ConfirmedRows> confirmed;
    private volatile Duration lateness = Duration.ZERO;

    /**
     * A writer and this recorder's design there.
     *
     * @param byName the target of the destination with a name, for a Where that chooses by it; empty where there is none
     */
    public record Target(
            RecorderDefinition.Where where,
            PlacePattern place,
            DestinationWriter writer,
            LaneDesign design,
            Function<String, Optional<Target>> byName) {

        public Target(
                RecorderDefinition.Where where,
                DestinationWriter writer,
                LaneDesign design,
                Function<String, Optional<Target>> byName) {
            this(where, where.place(), writer, design, byName);
        }

        /** To one destination alone. */
        public Target(RecorderDefinition.Where where, DestinationWriter writer, LaneDesign design) {
            this(where, writer, design, name -> Optional.empty());
        }

        /** It is itself, whatever it holds. */
        @Override
        @SuppressWarnings("ReferenceEquality")
        public boolean equals(Object other) {
            return this == other;
        }

        @Override
        public int hashCode() {
            return System.identityHashCode(this);
        }
    }

    /**
     * What a run works with beside its design.
     *
     * @param strand     on which everything of this recorder happens, also under other designs
     * @param stopItself told when nothing but refused rows came for long
     * @param confirming what the plant is told with
     */
    public record Surroundings(
            TagTable table,
            Plant plant,
            CounterBook book,
            LocalStore local,
            PlantClock clock,
            ActionPool.Strand strand,
            Said said,
            Consumer<RecorderRun> stopItself,
            Function<RecorderRun, ConfirmedRows.With> confirming) {

        /** Without a plant that could be told anything. */
        public Surroundings(
                TagTable table,
                Plant plant,
                CounterBook book,
                LocalStore local,
                PlantClock clock,
                ActionPool.Strand strand,
                Said said,
                Consumer<RecorderRun> stopItself) {
            this(
                    table,
                    plant,
                    book,
                    local,
                    clock,
                    strand,
                    said,
                    stopItself,
                    run -> new ConfirmedRows.With(PlantSide.NONE, new ReentrantLock(), () -> true));
        }
    }

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
        this.said = with.said();
        this.stopItself = with.stopItself();
        this.around = with.plant().around(definition);
        this.facts = with.plant().facts(definition);
        this.maker = new RowMaker(definition.layout(), facts);
        this.columns = definition.layout().written().stream().map(Column::name).toList();
        this.byClock = definition.whens().stream().anyMatch(RecorderRun::byClock);
        Optional<Instant> served = byClock ? local.served(definition.id()) : Optional.empty();
        if (byClock && served.isEmpty()) {
            local.served(definition.id(), clock.now());
        }
        WhenGroup whens = new WhenGroup(
                definition.whens(),
                definition.gate(),
                new WhenFacts(
                        facts.zone(),
                        facts.shifts(),
                        maker.tags(),
                        with.plant()::range,
                        served,
                        definition.confirms().map(Confirmation::settle).orElse(Duration.ZERO)));
        List<TagRef> reads = ConfirmedRows.reads(definition, maker.tags());
        this.confirmed = ConfirmedRows.has(definition)
                ? Optional.of(new ConfirmedRows(
                        definition,
                        reads,
                        this::writer,
                        local,
                        with.confirming().apply(this),
                        said,
                        clock))
                : Optional.empty();
        this.when = new WhenRun(definition.id(), whens, reads, with.table(), this, with.strand(), clock, said);
        confirmed.ifPresent(each -> with.strand().submit(0, each::look));
    }

    private Optional<DestinationWriter> writer(String destination) {
        return Optional.ofNullable(writers.get(destination));
    }

    private static boolean byClock(When when) {
        return when.pace() == When.Pace.CLOCK;
    }

    /** The writers of its destinations. */
    Collection<DestinationWriter> writers() {
        return writers.values();
    }

    public RecorderDefinition definition() {
        return definition;
    }

    /** Its Whens at work. */
    public WhenRun when() {
        return when;
    }

    /** Whether it would be the same run under this design and these surroundings. */
    boolean same(RecorderDefinition design, Plant plant) {
        return definition.equals(design) && around.equals(plant.around(design));
    }

    /** Why rows are not made or not taken, in words; empty where they are. */
    public String trouble() {
        Duration stuck = when.strand().stuckFor();
        if (stuck.compareTo(LONG) > 0) {
            return "Making a row has been going on for " + PeriodText.roughly(stuck)
                    + "; rows that are due since then wait.";
        }
        if (!when.trouble().isEmpty()) {
            return when.trouble();
        }
        if (!failing.isEmpty()) {
            return failing;
        }
        String refused = String.join(" ", Set.copyOf(troubles.values()));
        if (!refused.isEmpty()) {
            return refused;
        }
        Instant due = when.dueAt();
        return due.isBefore(clock.now().minus(LONG))
                ? "A row was due " + PeriodText.roughly(Duration.between(due, clock.now())) + " ago and has not come."
                : "";
    }

    /** Names that its rows gave and no destination has, in a sentence; empty where there were none. */
    public String astray() {
        return named.values().stream()
                .map(TargetsByName::astray)
                .filter(each -> !each.isEmpty())
                .collect(Collectors.joining(" "));
    }

    /** Why the plant is not told yet of a row that it has asked for, in words; empty where it is, or nothing was asked. */
    public String untold() {
        return confirmed.map(ConfirmedRows::waits).orElse("");
    }

    /** How late the last tick was served. */
    public Duration lateness() {
        return lateness;
    }

    @Override
    public void skipped(Firing firing) {
        passedOver(firing.at(), firing.times());
        served(firing.at());
    }

    @Override
    public void overrun(Instant at) {
        passedOver(at, 1);
    }

    /** So many rows that might have been made will not be. */
    void passedOver(Instant at, long rows) {
        book.due(definition.id(), at, rows * targets.size());
        book.count(definition.id(), at, Outcome.SKIPPED, rows * targets.size());
    }

    private void served(Instant upTo) {
        if (byClock) {
            local.served(definition.id(), upTo);
        }
    }

    @Override
    public void run(Firing firing, Snapshot values, Instant now) {
        lateness = Duration.between(firing.at(), now);
        Optional<Asked> asked = confirmed.flatMap(each -> each.asked(values));
        if (confirmed.isPresent() && asked.isEmpty()) {
            passedOver(firing.at(), 1); // the number is gone again
            return;
        }
        RowId id = identity.withSequence(sequence.incrementAndGet());
        try {
            if (asked.isEmpty()) {
                for (Made made : maker.make(id, firing.at(), values)) {
                    take(made, firing.at(), now);
                }
            } else if (!confirmed.get().recorded(asked.get())) {
                takeAsked(asked.get(), maker.make(id, firing.at(), values), firing.at(), now);
            }
            if (!failing.isEmpty()) {
                said.note(now, "Rows are made again.");
            }
            failing = "";
        } catch (RuntimeException | Error thrown) {
            failing = "A row could not be made: " + Threads.words(thrown);
            said.note(now, failing);
            refused(new Made.Refused(id, firing.at(), List.of(), failing + "."), firing.at(), now);
            asked.ifPresent(each -> confirmed.get().tell(each, List.of(failing + ".")));
        }
        served(now);
        if (refusedInARow == STOP_AFTER_REFUSALS) {
            refusedInARow++;
            stopItself.accept(this);
        }
    }

    private void take(Made made, Instant at, Instant now) {
        if (made instanceof Made.Whole whole) {
            refusedInARow = 0;
            Map<String, Boolean> away = standbys();
            for (Target target : targets) {
                if (takes(target, away)) {
                    book.due(definition.id(), at, 1);
                    hand(target, whole.row(), now);
                }
            }
        } else if (made instanceof Made.Refused refused) {
            refused(refused, at, now);
        } else {
            passedOver(at, 1);
        }
    }

    /** A row that the plant asks for: that it is made for this request is on disk before it is anywhere else. */
    private void takeAsked(Asked asked, List<Made> made, Instant at, Instant now) {
        ConfirmedRows confirming = confirmed.orElseThrow();
        Map<String, Boolean> away = standbys();
        List<Target> taking =
                targets.stream().filter(target -> takes(target, away)).toList();
        Map<String, List<RowId>> aside = new HashMap<>();
        Map<String, List<RowId>> whole = new HashMap<>();
        List<String> refused = new ArrayList<>();
        for (Made each : made) {
            if (each instanceof Made.Whole row) {
                taking.forEach(target -> plan(whole, target, row.row().id()));
            } else if (each instanceof Made.Refused no) {
                refused(no, at, now);
                refused.add(no.reason());
                targets.forEach(target -> plan(aside, target, no.id()));
            } else if (each instanceof Made.Skipped skipped) {
                passedOver(at, 1);
                refused.add("No row is made of it: " + skipped.reason());
            }
        }
        ConfirmedRows.Lacking lacking = confirming.begin(asked, aside, whole);
        for (Made each : made) {
            if (each instanceof Made.Whole row) {
                refusedInARow = 0;
                for (Target target : taking) {
                    RowId id = row.row().id();
                    if (lacking.of(target.where().destination(), id)) {
                        book.due(definition.id(), at, 1);
                        String why = hand(target, row.row(), now);
                        if (!why.isEmpty()) {
                            confirming.refused(target.where().destination(), id);
                            refused.add(why);
                        }
                    }
                }
            }
        }
        confirming.tell(asked, refused);
    }

    private static void plan(Map<String, List<RowId>> rows, Target target, RowId id) {
        rows.computeIfAbsent(target.where().destination(), each -> new ArrayList<>())
                .add(id);
    }

    private void refused(Made.Refused refused, Instant at, Instant now) {
        book.due(definition.id(), at, targets.size());
        refusedInARow++;
        for (Target target : targets) {
            String destination = target.where().destination();
            String why = aside(refused, destination, at, now);
            target.writer().didNotFit(definition.id(), why.isEmpty());
            book.count(definition.id(), at, why.isEmpty() ? Outcome.SET_ASIDE : Outcome.REFUSED, 1);
            said.note(
                    now,
                    why.isEmpty()
                            ? "Set aside: " + refused.reason()
                            : "A row could not be set aside: " + why + " It did not fit: " + refused.reason());
        }
    }

    /** Why the row could not be set aside; empty where it is. */
    private String aside(Made.Refused refused, String destination, Instant at, Instant now) {
        try {
            String full = local.aside().full(definition.id());
            if (full.isEmpty()) {
                local.aside()
                        .keep(
                                definition.id(),
                                destination,
                                refused.id().toString(),
                                at,
                                columns,
                                refused.values(),
                                refused.reason(),
                                now);
            }
            return full;
        } catch (RuntimeException cannot) {
            return Threads.words(cannot);
        }
    }

    /** Which destinations that have a standby are away: decided once for all targets of a row. */
    private Map<String, Boolean> standbys() {
        if (withStandby.size() == 1 && withStandby.contains("")) {
            return Map.of();
        }
        Map<String, Boolean> away = new HashMap<>();
        withStandby.forEach(first -> away.put(
                first,
                Optional.ofNullable(writers.get(first))
                        .map(DestinationWriter::away)
                        .orElse(false)));
        return away;
    }

    /** A standby takes rows while the one it stands in for is away, and then that one takes none. */
    private static boolean takes(Target target, Map<String, Boolean> away) {
        String first = target.where().standbyFor();
        return first.isEmpty()
                ? !away.getOrDefault(target.where().destination(), false)
                : away.getOrDefault(first, false);
    }

    /** Why it was not taken; empty where it was. */
    private String hand(Target usual, Row row, Instant now) {
        try {
            TargetsByName chosen = named.get(usual);
            Target target = chosen == null ? usual : chosen.of(row, definition.layout(), facts);
            if (target.place().dynamic()) {
                // The name is made now, when everything it is made of is known, and travels with the row.
                target.writer()
                        .take(
                                target.design(),
                                row,
                                target.place()
                                        .of(row, definition.layout(), facts)
                                        .text());
            } else {
                target.writer().take(target.design(), row);
            }
            if (!troubles.isEmpty() && troubles.remove(usual) != null) {
                said.note(now, "Rows are taken again.");
            }
            return "";
        } catch (Journal.Full full) {
            return refusedBy(usual, row, now, full.getMessage());
        } catch (RuntimeException | Error thrown) {
            return refusedBy(usual, row, now, "A row could not be taken: " + Threads.words(thrown));
        }
    }

    /** The identity that its next row has. */
    RowId nextId() {
        return identity.withSequence(sequence.incrementAndGet());
    }

    /** The target for a destination: its own, else one whose rows name theirs. */
    private Target usual(String destination) {
        return targets.stream()
                .filter(target -> target.where().destination().equals(destination))
                .findFirst()
                .or(() -> named.keySet().stream().findFirst())
                .orElseThrow(() -> new IllegalArgumentException("The released design does not write there any more."));
    }

    /** Waits until every row that is on its way to the destination now has its fate, so long at most; whether that is so. */
    boolean settled(String destination, Duration limit, Hands hands) {
        DestinationWriter writer = usual(destination).writer();
        long last = writer.last(definition.id());
        return hands.await(() -> writer.settled(definition.id()) >= last, limit);
    }

    /**
     * Puts rows that a person mended on disk for one destination, as any other, until one is not taken. On the strand, as
     * everything that makes rows.
     *
     * @throws IllegalArgumentException with a sentence, where the strand does not come to it within the limit: nothing is sent
     *     then, now or later
     */
    Sent sendAgain(String destination, List<Row> rows, Duration limit) {
        Target usual = usual(destination);
        AtomicBoolean decided = new AtomicBoolean();
        CompletableFuture<Sent> sent = new CompletableFuture<>();
        when.strand().submit(0, () -> {
            if (decided.compareAndSet(false, true)) {
                sent.complete(handAll(usual, rows));
            }
        });
        try {
            return sent.get(limit.toNanos(), TimeUnit.NANOSECONDS);
        } catch (TimeoutException late) {
            if (decided.compareAndSet(false, true)) {
                throw new IllegalArgumentException("The recorder is busy with a row; nothing was sent.", late);
            }
            throw new IllegalArgumentException(
                    "The rows are being taken and it lasts; they stay here until it is sure what became of them.",
                    late);
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
            throw new IllegalArgumentException("The application stops.", stopped);
        } catch (ExecutionException failed) {
            throw new IllegalArgumentException("They could not be taken: " + Threads.words(failed.getCause()), failed);
        }
    }

    private Sent handAll(Target usual, List<Row> rows) {
        int taken = 0;
        for (Row row : rows) {
            book.due(definition.id(), row.recordTime(), 1);
            hand(usual, row, clock.now());
            if (troubles.containsKey(usual)) {
                break;
            }
            taken++;
        }
        return new Sent(usual.writer(), taken, usual.writer().end(), troubles.getOrDefault(usual, ""));
    }

    /**
     * Where rows went.
     *
     * @param rows    how many of them, from the first on
     * @param end     up to which position that has to be forced
     * @param trouble why the others were not taken; empty where they were
     */
    record Sent(DestinationWriter writer, int rows, long end, String trouble) {}

    private String refusedBy(Target target, Row row, Instant now, String why) {
        if (!why.equals(troubles.put(target, why))) {
            said.note(now, why);
        }
        book.count(definition.id(), row.recordTime(), Outcome.REFUSED, 1);
        return why;
    }
}
