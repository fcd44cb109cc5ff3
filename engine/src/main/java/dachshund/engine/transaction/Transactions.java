package dachshund.engine.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.sql.Dialect;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Prepared;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.count.CounterBook;
import dachshund.engine.lane.LaneState;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.Intents;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.Stop;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All transactions of the release: which run, which are stopped, and what they reach. */
public final class Transactions implements AtWork<TransactionDefinition>, AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Transactions.class);
    private static final long LOOK_NANOS = 100_000_000L;
    private static final Duration STOP = Duration.ofSeconds(2);
    private static final Duration LOOK_UP = Duration.ofSeconds(10);

    private final Around around;
    private final Schedule schedule;
    private final Worker ticking;
    private final Worker lookout;
    private final ThreadPoolExecutor threads = Threads.onDemand("transaction");
    private final AtomicLong sequence = new AtomicLong();
    private final Map<String, TransactionRun> runs = new ConcurrentHashMap<>();
    private final Map<String, ActionPool.Strand> strands = new ConcurrentHashMap<>();
    private final Map<String, Said> said = new ConcurrentHashMap<>();
    private final Map<String, TakenRows> taken = new ConcurrentHashMap<>();
    private final Map<String, String> refused = new ConcurrentHashMap<>();
    private final Map<Definition, Transacting> databases = new HashMap<>();
    private final Map<Definition, TableReading> readers = new HashMap<>();
    private volatile Plant plant;
    private volatile PastValues archive;
    private volatile Map<String, TransactionDefinition> live = Map.of();
    private volatile Map<String, Stop> stopped;
    private volatile boolean closing;

    /** Opens what a transaction reaches; each is closed here. */
    public interface Opening {

        /** @throws RuntimeException with a sentence, where rows cannot be changed there within a transaction */
        Transacting database(DestinationDefinition destination);

        TableReading reading(Definition database);

        Dialect dialect(Definition database);
    }

    /**
     * @param epoch of this start: what tells runs of it from those of others
     * @param told  of how each run ended
     */
    public record Around(
            String site,
            String epoch,
            TagTable table,
            PlantSide side,
            Opening opening,
            PlantClock clock,
            CounterBook book,
            LocalStore local,
            ActionPool pool,
            Consumer<Run> told) {}

    public Transactions(Around around, Plant plant) {
        this.around = around;
        this.plant = plant;
        this.stopped = around.local().stopped();
        Worker[] worker = new Worker[1];
        this.schedule = new Schedule(
                around.clock(), () -> Optional.ofNullable(worker[0]).ifPresent(Worker::wake));
        this.ticking = Threads.start("transactions", schedule::runDue);
        worker[0] = ticking;
        this.lookout = Threads.start("transactions-late", () -> {
            runs.values().forEach(TransactionRun::lookAfter);
            return LOOK_NANOS;
        });
    }

    @Override
    public Class<TransactionDefinition> type() {
        return TransactionDefinition.class;
    }

    @Override
    public String refused(String id) {
        return refused.getOrDefault(id, "");
    }

    @Override
    public synchronized void changeover(List<TransactionDefinition> wanted, Plant around) {
        this.plant = around;
        Map<String, TransactionDefinition> byId = new HashMap<>();
        wanted.forEach(each -> byId.put(each.id(), each));
        live = byId;
        apply();
    }

    private void apply() {
        Map<String, TransactionRun> next = new HashMap<>();
        refused.keySet().retainAll(live.keySet());
        for (TransactionDefinition design : live.values()) {
            if (stopped.containsKey(design.id())) {
                continue;
            }
            TransactionRun run = runs.get(design.id());
            try {
                next.put(design.id(), run != null && same(run, design) ? run : newRun(design));
                refused.remove(design.id());
            } catch (RuntimeException cannot) {
                String why = "This design cannot be put to work: " + sentence(cannot)
                        + (run == null ? "" : " The design before goes on.");
                LOG.error("{}: {}", design.name(), why, cannot);
                refused.put(design.id(), why);
                saidBy(design.id()).note(around.clock().now(), why);
                if (run != null) {
                    next.put(design.id(), run);
                }
            }
        }
        schedule.changeover(next.values().stream().map(TransactionRun::when).toList());
        for (Map.Entry<String, TransactionRun> before : runs.entrySet()) {
            if (next.get(before.getKey()) != before.getValue()) {
                before.getValue().end();
            }
        }
        runs.keySet().retainAll(next.keySet());
        runs.putAll(next);
        next.values().forEach(this::beginToLook);
        ticking.wake();
    }

    /** What one cannot look for stands in no other's way. */
    private void beginToLook(TransactionRun run) {
        try {
            run.beginToLook();
        } catch (RuntimeException cannot) {
            String id = run.definition().id();
            String why = "New rows are not looked for, since it is not known how far they were looked through: "
                    + Threads.words(cannot) + ".";
            LOG.error("{}: {}", run.definition().name(), why, cannot);
            refused.put(id, why);
            saidBy(id).note(around.clock().now(), why);
        }
    }

    private static String sentence(RuntimeException cannot) {
        String own = cannot.getMessage() == null ? "" : cannot.getMessage();
        return own.endsWith(".") ? own : Threads.words(cannot) + ".";
    }

    /** Whether the run is what the design says, and reaches what it says. */
    private boolean same(TransactionRun run, TransactionDefinition design) {
        return run.definition().equals(design)
                && destination(design).filter(databases::containsKey).isPresent();
    }

    private Optional<DestinationDefinition> destination(TransactionDefinition design) {
        return plant.all(DestinationDefinition.class).stream()
                .filter(each -> each.id().equals(design.database()))
                .findFirst();
    }

    /** Puts a design together as if it were to work, and lets go of it. */
    @Override
    public void tryOut(TransactionDefinition design, Plant around) {
        DestinationDefinition destination = around.all(DestinationDefinition.class).stream()
                .filter(each -> each.id().equals(design.database()))
                .findFirst()
                .or(() -> destination(design))
                .orElse(null);
        if (destination != null) {
            this.around.opening().database(destination).close();
        }
    }

    private TransactionRun newRun(TransactionDefinition design) {
        return new TransactionRun(
                design,
                aroundOf(design),
                new TransactionRun.With(
                        around.table(),
                        plant,
                        around.book(),
                        around.local(),
                        strands.computeIfAbsent(design.id(), id -> around.pool().strand()),
                        saidBy(design.id()),
                        this::identity,
                        threads,
                        (rows, taker) -> look(design.id(), rows, taker),
                        around.told(),
                        why -> stopItself(design.id(), why)));
    }

    private NewRows look(String transaction, When.OnNewRow rows, NewRows.Taker taker) {
        String what = String.join(
                "\n",
                transaction,
                rows.database(),
                rows.table(),
                rows.order(),
                rows.key().toString());
        TakenRows known =
                taken.computeIfAbsent(what, each -> new TakenRows(around.local().foundRows(), each));
        return new NewRows(rows, known, reading(() -> plant, rows), taker);
    }

    private NewRows.Reading reading(Supplier<Plant> known, When.OnNewRow rows) {
        return new NewRows.Reading() {
            @Override
            public TableReading now() throws QueryProblem {
                return reading(known.get(), rows.database());
            }

            @Override
            public Dialect dialect() throws QueryProblem {
                return around.opening().dialect(readable(known.get(), rows.database()));
            }
        };
    }

    private OneRun.Around aroundOf(TransactionDefinition design) {
        DestinationDefinition destination = destination(design)
                .orElseThrow(() -> new IllegalArgumentException("Its database is not there any more."));
        return new OneRun.Around(
                new Prepared(design, around.opening().dialect(destination)),
                database(destination),
                (id, query, bound, most) -> elsewhere(plant, id, query, bound, most),
                around.side(),
                new Past(() -> archive, () -> plant),
                around.local().intents(),
                around.clock(),
                this::identity,
                around.site(),
                () -> closing);
    }

    /** From now on the archive is asked there. */
    public void askIn(PastValues values) {
        archive = values;
    }

    private Transacting database(DestinationDefinition destination) {
        synchronized (databases) {
            forgotten(databases, destination);
            return databases.computeIfAbsent(
                    destination, each -> around.opening().database(destination));
        }
    }

    /** What was opened under another design of the same thing is closed, away from here: somebody may be using it. */
    private static <T extends AutoCloseable> void forgotten(Map<Definition, T> opened, Definition now) {
        for (Definition each : List.copyOf(opened.keySet())) {
            if (each.id().equals(now.id()) && !each.equals(now)) {
                T old = opened.remove(each);
                Threads.once("closing", () -> close(old));
            }
        }
    }

    private static void close(AutoCloseable each) {
        try {
            each.close();
        } catch (Exception cannot) {
            LOG.warn("A database was not closed in peace: {}", cannot.getMessage());
        }
    }

    private static Definition readable(Plant known, String id) throws QueryProblem {
        return java.util.stream.Stream.concat(
                        known.all(DatabaseDefinition.class).stream(), known.all(DestinationDefinition.class).stream())
                .filter(each -> each.id().equals(id))
                .findFirst()
                .orElseThrow(() -> new QueryProblem(
                        id.isEmpty()
                                ? "No database is chosen yet."
                                : "The database that it asks is not there any more."));
    }

    private TableReading reading(Plant known, String id) throws QueryProblem {
        Definition database = readable(known, id);
        synchronized (readers) {
            forgotten(readers, database);
            return readers.computeIfAbsent(database, around.opening()::reading);
        }
    }

    /** Rows of a database that is only read. */
    private Session.Found elsewhere(Plant known, String id, QueryText query, List<Object> bound, int most)
            throws StoreProblem, QueryProblem {
        TableReading reading = reading(known, id);
        List<String> columns = new ArrayList<>();
        List<List<Object>> rows = new ArrayList<>();
        reading.ask(query, bound, LOOK_UP, most, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> found) {
                found.forEach(each -> columns.add(each.name()));
            }

            @Override
            public boolean row(List<Object> cells) {
                rows.add(cells);
                return true;
            }
        });
        return new Session.Found(columns, rows);
    }

    private String identity() {
        return around.epoch() + "-" + sequence.incrementAndGet();
    }

    private Said saidBy(String id) {
        return said.computeIfAbsent(id, each -> new Said());
    }

    /** What a transaction said lately, newest first. */
    public List<Said.Line> said(String id) {
        return saidBy(id).lines();
    }

    /** Stops one at once, until somebody starts it. Runs that are under way end. */
    public synchronized void stop(String id, String by, String why) {
        around.local().stop(id, new Stop(by, around.clock().now(), why));
        stopped = around.local().stopped();
        apply();
    }

    public synchronized void start(String id) {
        around.local().start(id);
        around.local().served(id, around.clock().now());
        stopped = around.local().stopped();
        apply();
    }

    /** Called on a thread of its runs. */
    private void stopItself(String id, String why) {
        Threads.once("stopping", () -> stop(id, "itself", why));
    }

    private TransactionRun atWork(String id) {
        return find(id).orElseThrow(() -> new IllegalArgumentException("It is not at work; start it first."));
    }

    /**
     * Does one now, with the values of now.
     *
     * @param given values that count in the place of those, by name
     * @throws IllegalArgumentException with a sentence, where it is not at work
     */
    public void byHand(String id, String who, Map<String, Object> given) {
        atWork(id).byCall("by hand, " + who, around.clock().now(), "", given, Trigger.Origin.NONE);
    }

    /**
     * Does one once more as it is released now, with what a run had.
     *
     * @throws IllegalArgumentException with a sentence, where it is not at work
     */
    public void again(Run run, String who) {
        TransactionRun now = atWork(run.thing());
        now.byCall(
                "again, " + who + ", with the values of run " + run.id(),
                around.clock().now(),
                "",
                Snapshots.given(now.definition(), run, plant),
                Trigger.Origin.NONE);
    }

    /**
     * A program asks for one.
     *
     * @param request what tells it from all else that is asked for: the same one is done once; empty for a new one
     * @return how it ended; fails with a sentence where it is not begun
     * @throws IllegalArgumentException with a sentence, where it is not at work
     */
    public CompletableFuture<Run> called(String id, String who, String request, Map<String, Object> given) {
        CompletableFuture<Run> end = new CompletableFuture<>();
        atWork(id)
                .byCall(
                        "called by " + who + (request.isEmpty() ? "" : ", request " + request),
                        around.clock().now(),
                        request.isEmpty() ? "" : "call:" + request,
                        given,
                        new Trigger.Origin() {
                            @Override
                            public void done(Run how) {
                                end.complete(how);
                            }

                            @Override
                            public void letGo() {
                                end.completeExceptionally(
                                        new IllegalStateException(
                                                "It was not begun, or it is not known how it ended. Ask again with the same request."));
                            }

                            @Override
                            public boolean isWaiting() {
                                return true;
                            }
                        });
        return end;
    }

    /** A person says how a request ended of which nobody knew. */
    public void settled(String id, String request) {
        around.local().intents().ended(id, request);
    }

    /**
     * Does a design for real, and takes everything back; what follows the commit is only shown.
     *
     * @param known what is known of the rest, drafts included
     * @param given values that count in the place of what would be read; of new rows, the newest one counts
     */
    public TriedOut tryNow(TransactionDefinition design, Plant known, Map<String, Object> given) {
        Map<String, Object> all = new LinkedHashMap<>();
        try {
            for (When.OnNewRow rows : design.newRows()) {
                all.putAll(NewRows.newest(rows, reading(() -> known, rows)));
            }
        } catch (StoreProblem | QueryProblem no) {
            return new TriedOut(Map.of(), List.of(), "The newest row cannot be read. " + no.getMessage(), "");
        }
        all.putAll(given);
        return TriedOut.of(
                design,
                known,
                around,
                all,
                new Past(() -> archive, () -> known),
                (id, query, bound, most) -> elsewhere(known, id, query, bound, most));
    }

    public Optional<TransactionRun> find(String id) {
        return Optional.ofNullable(runs.get(id));
    }

    public Collection<TransactionDefinition> all() {
        return live.values();
    }

    /** How each live one stands. */
    public Optional<TransactionStatus> status(String id) {
        TransactionDefinition design = live.get(id);
        if (design == null) {
            return Optional.empty();
        }
        List<Intents.Intent> uncertain =
                design.mark() ? List.of() : around.local().intents().of(id);
        Stop stop = stopped.get(id);
        if (stop != null) {
            String sentence = stop.by().equals("itself")
                    ? "Stopped itself because " + stop.why()
                    : "Stopped by " + stop.by() + (stop.why().isBlank() ? "." : ": " + stop.why());
            return Optional.of(new TransactionStatus(design, LaneState.STOPPED, sentence, 0, 0, stop.at(), uncertain));
        }
        Optional<TransactionRun> run = find(id);
        String trouble = Optional.ofNullable(refused.get(id))
                .or(() -> run.map(TransactionRun::trouble).filter(each -> !each.isEmpty()))
                .or(() -> run.map(TransactionRun::lastFailure)
                        .filter(each -> !each.isEmpty())
                        .map(each -> "Its last run failed: " + each))
                .orElse("");
        String holding = run.map(TransactionRun::holding).orElse("");
        if (!holding.isEmpty() && refused.get(id) == null) {
            return Optional.of(new TransactionStatus(
                    design,
                    LaneState.HOLDING,
                    holding,
                    run.map(TransactionRun::waiting).orElse(0),
                    run.map(TransactionRun::running).orElse(0),
                    run.map(TransactionRun::lastRun).orElse(Instant.EPOCH),
                    uncertain));
        }
        Instant last = run.map(TransactionRun::lastRun).orElse(Instant.EPOCH);
        boolean refusedOnce = refused.get(id) == null
                && run.map(each -> each.trouble().isEmpty() && !each.failsAgain())
                        .orElse(false);
        LaneState state = !trouble.isEmpty() && !refusedOnce
                ? LaneState.FAULTED
                : last.equals(Instant.EPOCH) ? LaneState.ARMED : LaneState.RECORDING;
        return Optional.of(new TransactionStatus(
                design,
                state,
                trouble,
                run.map(TransactionRun::waiting).orElse(0),
                run.map(TransactionRun::running).orElse(0),
                last,
                uncertain));
    }

    /** Hears of no trigger any more; what waits for an answer is left to the next start. */
    @Override
    public void close() {
        ticking.close();
        schedule.changeover(List.of());
        closing = true;
        runs.values().forEach(TransactionRun::end);
        threads.shutdown();
        try {
            if (!threads.awaitTermination(STOP.toMillis(), TimeUnit.MILLISECONDS)) {
                threads.shutdownNow();
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
        lookout.close();
        List<AutoCloseable> open = new ArrayList<>();
        synchronized (databases) {
            open.addAll(databases.values());
            databases.clear();
        }
        synchronized (readers) {
            open.addAll(readers.values());
            readers.clear();
        }
        open.forEach(each -> Threads.once("closing", () -> close(each)));
    }
}
