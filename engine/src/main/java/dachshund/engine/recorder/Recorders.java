package dachshund.engine.recorder;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.row.RowId;
import dachshund.core.time.PlantClock;
import dachshund.core.work.Progress;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.count.CounterBook;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.Stop;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Waker;
import dachshund.engine.thread.Worker;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All recorders of the release: which run, which are stopped, and the one thread that serves their ticks. */
public final class Recorders implements AtWork<RecorderDefinition>, AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Recorders.class);

    private final RowId epoch;
    private final TagTable tags;
    private final PlantClock clock;
    private final CounterBook book;
    private final LocalStore local;
    private final ActionPool pool;
    private final Schedule schedule;
    private final Worker worker;
    private final Map<String, AtomicLong> sequences = new ConcurrentHashMap<>();
    private final Map<String, RecorderRun> runs = new ConcurrentHashMap<>();
    private final Map<String, ActionPool.Strand> strands = new ConcurrentHashMap<>();
    private final Map<String, Said> said = new ConcurrentHashMap<>();
    /** Why a design could not be put to work, by recorder. */
    private final Map<String, String> refused = new ConcurrentHashMap<>();

    private volatile Plant plant;
    private volatile Map<String, RecorderDefinition> live = Map.of();
    private volatile Map<String, Stop> stopped;
    private final Function<String, Optional<DestinationWriter>> writers;
    private final PlantSide plantSide;
    /** The last run of each recorder, which tells the plant of its rows, also once it was stopped. */
    private final Map<String, RecorderRun> confirming = new ConcurrentHashMap<>();
    /** By recorder: held by whoever tells the plant of its rows. */
    private final Map<String, ReentrantLock> telling = new ConcurrentHashMap<>();

    private volatile boolean closing;

    /**
     * @param epoch     installation and epoch of every row made from now on
     * @param writers   of destinations to which rows can be sent
     * @param hands     one that serves the ticks
     * @param plantSide the plant, to be told of rows that it asked for
     */
    public Recorders(
            RowId epoch,
            TagTable tags,
            Plant plant,
            Function<String, Optional<DestinationWriter>> writers,
            PlantClock clock,
            CounterBook book,
            LocalStore local,
            ActionPool pool,
            Hands hands,
            PlantSide plantSide) {
        this.plantSide = plantSide;
        this.epoch = epoch;
        this.tags = tags;
        this.plant = plant;
        this.writers = writers;
        this.clock = clock;
        this.book = book;
        this.local = local;
        this.stopped = local.stopped();
        // The schedule wakes its worker, which exists only after it.
        Waker waker = new Waker();
        this.pool = pool;
        this.schedule = new Schedule(clock, waker);
        this.worker = waker.wakes(hands.start("schedule", schedule::runDue));
    }

    @Override
    public Class<RecorderDefinition> type() {
        return RecorderDefinition.class;
    }

    @Override
    public String refused(String id) {
        return refused.getOrDefault(id, "");
    }

    /** The identity of a recorder's rows in this epoch, with sequence 0. */
    public RowId identity(String recorder) {
        return new RowId(epoch.installation(), recorder, epoch.epoch(), 0, 0);
    }

    /** Makes these designs live. A run whose design and surroundings stay the same is not touched. */
    @Override
    public void changeover(List<RecorderDefinition> wanted, Plant plant) {
        changeover(wanted, plant, Progress.UNHEARD);
    }

    @Override
    public synchronized void changeover(List<RecorderDefinition> wanted, Plant plant, Progress progress) {
        this.plant = plant;
        Map<String, RecorderDefinition> byId = new HashMap<>();
        wanted.forEach(design -> byId.put(design.id(), design));
        live = byId;
        progress.step("Putting recorders to work", live.size(), false);
        apply(progress);
    }

    private void apply() {
        apply(Progress.UNHEARD);
    }

    private void apply(Progress progress) {
        int done = 0;
        Map<String, RecorderRun> next = new HashMap<>();
        refused.keySet().retainAll(live.keySet());
        for (RecorderDefinition design : live.values()) {
            progress.done(done++);
            if (stopped.containsKey(design.id())) {
                continue;
            }
            RecorderRun run = runs.get(design.id());
            try {
                next.put(design.id(), run != null && run.same(design, plant) ? run : newRun(design));
                refused.remove(design.id());
            } catch (RuntimeException cannot) {
                // One design that cannot be put to work does not keep the others from it.
                String why = "This design cannot be put to work: " + Threads.words(cannot)
                        + (run == null ? "." : ". The design before goes on.");
                LOG.error("{}: {}", design.name(), why, cannot);
                refused.put(design.id(), why);
                saidBy(design.id()).note(clock.now(), why);
                if (run != null) {
                    next.put(design.id(), run);
                }
            }
        }
        // On disk before the first row is made of them.
        next.values().stream().flatMap(run -> run.writers().stream()).distinct().forEach(this::keepDesigns);
        schedule.changeover(next.values().stream().map(RecorderRun::when).toList());
        runs.keySet().retainAll(next.keySet());
        runs.putAll(next);
        worker.wake();
    }

    private void keepDesigns(DestinationWriter writer) {
        try {
            writer.keepDesigns();
        } catch (RuntimeException cannot) {
            LOG.error("Designs are kept in the journal alone for now.", cannot);
        }
    }

    /** Puts a design together as if it were to run, and lets go of it. */
    @Override
    public void tryOut(RecorderDefinition design, Plant around) {
        RecorderRun made = new RecorderRun(
                design,
                identity(design.id()),
                new AtomicLong(),
                List.of(),
                new RecorderRun.Surroundings(
                        new TagTable(clock),
                        around,
                        book,
                        local,
                        clock,
                        pool.strand(),
                        new Said(),
                        run -> {},
                        this::confirming));
        LOG.debug("{} could be put to work.", made.definition().name());
    }

    private RecorderRun newRun(RecorderDefinition design) {
        List<RecorderRun.Target> targets = new ArrayList<>();
        Plant around = plant;
        for (RecorderDefinition.Where where : design.wheres()) {
            RecorderRun.Target target = target(design, where.into(where.destination()))
                    .orElseThrow(() -> new IllegalArgumentException("It names a destination that is not there"));
            targets.add(
                    where.named().isEmpty()
                            ? target
                            : new RecorderRun.Target(
                                    where, target.writer(), target.design(), name -> around.destination(name)
                                            .flatMap(destination -> target(design, where.into(destination.id())))));
        }
        AtomicLong sequence = sequences.computeIfAbsent(design.id(), id -> new AtomicLong());
        RecorderRun run = new RecorderRun(
                design,
                identity(design.id()),
                sequence,
                targets,
                new RecorderRun.Surroundings(
                        tags,
                        plant,
                        book,
                        local,
                        clock,
                        strands.computeIfAbsent(design.id(), id -> pool.strand()),
                        saidBy(design.id()),
                        this::stopsItself,
                        this::confirming));
        confirming.put(design.id(), run);
        return run;
    }

    /** One that was stopped still tells what became of its rows; one that another design took the place of leaves it to that. */
    private ConfirmedRows.With confirming(RecorderRun run) {
        String id = run.definition().id();
        return new ConfirmedRows.With(
                plantSide,
                telling.computeIfAbsent(id, each -> new ReentrantLock()),
                () -> closing || confirming.get(id) != run);
    }

    private Said saidBy(String recorder) {
        return said.computeIfAbsent(recorder, id -> new Said());
    }

    /** Steps of all recorders that are not done yet. */
    public long pending() {
        long pending = 0;
        for (ActionPool.Strand strand : strands.values()) {
            pending += strand.waiting();
        }
        return pending;
    }

    /** At the end: what was heard and will not be looked at any more is counted as skipped. How much there is of it. */
    public long passOver() {
        long passed = 0;
        for (RecorderRun run : runs.values()) {
            int left = run.when().strand().waiting();
            if (left > 0) {
                run.passedOver(clock.now(), left);
                passed += left;
            }
        }
        return passed;
    }

    /** What a recorder said lately, newest first. */
    public List<Said.Line> said(String recorder) {
        return saidBy(recorder).lines();
    }

    private Optional<RecorderRun.Target> target(RecorderDefinition design, RecorderDefinition.Where where) {
        return writers.apply(where.destination())
                .map(writer -> new RecorderRun.Target(where, writer, writer.design(design.withWheres(List.of(where)))));
    }

    /** Stops a recorder at once, until somebody starts it. */
    public synchronized void stop(String recorder, String by, String why) {
        local.stop(recorder, new Stop(by, clock.now(), why));
        stopped = local.stopped();
        apply();
    }

    /** Starts a stopped recorder at once. */
    public synchronized void start(String recorder) {
        local.start(recorder);
        // What passed while somebody had stopped it was not missed.
        local.served(recorder, clock.now());
        stopped = local.stopped();
        apply();
    }

    /** Called by the run itself, on its strand. */
    private void stopsItself(RecorderRun run) {
        String id = run.definition().id();
        schedule.remove(run.when());
        local.stop(
                id,
                new Stop(
                        "itself",
                        clock.now(),
                        RecorderRun.STOP_AFTER_REFUSALS + " rows in a row did not fit the table and were set aside"));
        stopped = local.stopped();
        runs.remove(id, run);
    }

    public Collection<RecorderDefinition> all() {
        return live.values();
    }

    public Optional<RecorderRun> find(String recorder) {
        return Optional.ofNullable(runs.get(recorder));
    }

    /** How a live recorder stands, given how its lanes stand. */
    public RecorderStatus status(RecorderDefinition design, List<LaneStatus> lanes) {
        long held = lanes.stream().mapToLong(LaneStatus::held).sum();
        long aside = local.aside().counts().getOrDefault(design.id(), 0L);
        Instant lastRow = lanes.stream()
                .map(LaneStatus::lastRow)
                .max(Comparator.naturalOrder())
                .orElse(Instant.EPOCH);
        Stop stop = stopped.get(design.id());
        if (stop != null) {
            String sentence = stop.by().equals("itself")
                    ? "Stopped itself because " + stop.why() + "."
                    : "Stopped by " + stop.by() + (stop.why().isBlank() ? "." : ": " + stop.why());
            return new RecorderStatus(
                    design, LaneState.STOPPED, sentence, stop.at(), held, aside, lastRow, Duration.ZERO, lanes);
        }
        Optional<RecorderRun> run = find(design.id());
        Duration lateness = run.map(RecorderRun::lateness).orElse(Duration.ZERO);
        String trouble = Optional.ofNullable(refused.get(design.id()))
                .orElseGet(() -> run.map(RecorderRun::trouble).orElse(""));
        LaneStatus worst =
                lanes.stream().max(Comparator.comparing(LaneStatus::state)).orElse(null);
        if (!trouble.isEmpty()) {
            return new RecorderStatus(
                    design, LaneState.FAULTED, trouble, clock.now(), held, aside, lastRow, lateness, lanes);
        }
        LaneState state = worst == null ? LaneState.ARMED : worst.state();
        Instant since = worst == null ? clock.now() : worst.since();
        String astray =
                state == LaneState.RECORDING ? run.map(RecorderRun::astray).orElse("") : "";
        String sentence = worst == null || !astray.isEmpty() ? astray : worst.sentence();
        String untold = run.map(RecorderRun::untold).orElse("");
        return new RecorderStatus(
                design, state, (sentence + " " + untold).strip(), since, held, aside, lastRow, lateness, lanes);
    }

    @Override
    public void close() {
        closing = true;
        worker.close();
        schedule.changeover(List.of()); // nobody hears of a change any more; what was heard is carried out
    }
}
