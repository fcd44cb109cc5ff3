package dachshund.engine.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Prepared;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.count.CounterBook;
import dachshund.engine.lane.LaneState;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.Intents;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.Stop;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Bounded;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Waker;
import dachshund.engine.thread.Worker;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All transactions of the release: which run, which are stopped, and what they reach. */
public final class Transactions implements AtWork<TransactionDefinition>, AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Transactions.class);
    private static final long LOOK_NANOS = 100_000_000L;
    private static final Duration LINE = Duration.ofSeconds(10);
    /** Lines of one folder that may hang at once. */
    private static final int MOST_LINES = 4;

    private static final Duration STOP = Duration.ofSeconds(2);

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
    /** By the id of a piece of equipment. */
    private final Map<String, OneAtATime> places = new ConcurrentHashMap<>();

    private final Map<String, String> refused = new ConcurrentHashMap<>();
    private final Reached reached;
    private final Map<String, Bounded> lines = new ConcurrentHashMap<>();
    private volatile Map<String, List<String>> followers = Map.of();
    private volatile Plant plant;
    private volatile PastValues archive;
    private volatile SavedQueries saved;
    private volatile Map<String, TransactionDefinition> live = Map.of();
    private volatile Map<String, Stop> stopped;
    private volatile boolean closing;

    /** Opens what a transaction reaches; each is closed here. */
    public interface Opening {

        /** @throws RuntimeException with a sentence, where rows cannot be changed there within a transaction */
        Transacting database(DestinationDefinition destination);

        TableReading reading(Definition database);

        Dialect dialect(Definition database);

        /**
         * Writes a line at the end of a file of a folder.
         *
         * @throws IllegalArgumentException with a sentence, where it was not written
         */
        void append(DestinationDefinition folder, Todo.Append line);
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
        this.reached = new Reached(around.opening());
        Waker waker = new Waker();
        this.schedule = new Schedule(around.clock(), waker);
        this.ticking = waker.wakes(Threads.start("transactions", schedule::runDue));
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
        followers = followers(byId.values());
        apply();
    }

    /** Which are done after which, by id. */
    private static Map<String, List<String>> followers(Collection<TransactionDefinition> designs) {
        Map<String, List<String>> all = new HashMap<>();
        designs.forEach(design -> design.after().forEach(first -> all.computeIfAbsent(first, id -> new ArrayList<>())
                .add(design.id())));
        return all;
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
        OnEquipment on = OnEquipment.of(design, plant);
        return run.definition().equals(on.placed(design))
                && run.equipment().equals(on)
                && isOpen(design.database())
                && design.other().map(this::isOpen).orElse(true);
    }

    private boolean isOpen(String database) {
        return Reached.destination(plant, database).filter(reached::isOpen).isPresent();
    }

    /** Puts a design together as if it were to work, and lets go of it. */
    @Override
    public void tryOut(TransactionDefinition design, Plant around) {
        Stream.concat(Stream.of(design.database()), design.other().stream()).forEach(database -> {
            Reached.destination(around, database)
                    .or(() -> Reached.destination(plant, database))
                    .ifPresent(each -> this.around.opening().database(each).close());
        });
    }

    private TransactionRun newRun(TransactionDefinition drafted) {
        OnEquipment on = OnEquipment.of(drafted, plant);
        TransactionDefinition design = on.placed(drafted);
        return new TransactionRun(
                design,
                aroundOf(design, on),
                new TransactionRun.With(
                        around.table(),
                        plant,
                        around.book(),
                        around.local(),
                        strands.computeIfAbsent(design.id(), id -> around.pool().strand()),
                        saidBy(design.id()),
                        this::identity,
                        threads,
                        Optional.of(on.id())
                                .filter(id -> design.policy().apart() && !id.isEmpty())
                                .map(id -> places.computeIfAbsent(id, each -> new OneAtATime())),
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
                taken.computeIfAbsent(what, each -> new TakenRows(around.local().foundRows(), each, around.clock()));
        return new NewRows(rows, known, reading(() -> plant, rows), taker, around.clock());
    }

    private NewRows.Reading reading(Supplier<Plant> known, When.OnNewRow rows) {
        return new NewRows.Reading() {
            @Override
            public TableReading now() throws QueryProblem {
                return reached.reading(known.get(), rows.database());
            }

            @Override
            public Dialect dialect() throws QueryProblem {
                return reached.dialect(known.get(), rows.database());
            }
        };
    }

    private OneRun.Around aroundOf(TransactionDefinition design, OnEquipment on) {
        Plant known = plant;
        DestinationDefinition own = destination(known, design.database());
        Optional<DestinationDefinition> other = design.other().map(id -> destination(known, id));
        return new OneRun.Around(
                new Prepared(design, id -> around.opening().dialect(destination(known, id))),
                on,
                reached.database(own),
                other.map(reached::database),
                reading(() -> plant, false),
                around.side(),
                new Following(design, around.side(), beyond, around.clock(), () -> closing),
                () -> followers.getOrDefault(design.id(), List.of()),
                new Past(() -> archive, () -> plant),
                around.local().intents(),
                around.clock(),
                this::identity,
                around.site(),
                () -> closing);
    }

    private static DestinationDefinition destination(Plant known, String id) {
        return Reached.destination(known, id)
                .orElseThrow(() -> new IllegalArgumentException("Its database is not there any more."));
    }

    private final Following.Beyond beyond = new Following.Beyond() {
        @Override
        public Transacting database(String id) {
            return reached.database(destination(plant, id));
        }

        @Override
        public void append(Todo.Append line) {
            DestinationDefinition folder = Reached.destination(plant, line.destination())
                    .orElseThrow(() -> new IllegalArgumentException("Its folder is not there any more."));
            appended(folder, line);
        }

        @Override
        public void begin(Todo.Begin next, TransactionDefinition after, String identity) {
            follow(next, after, identity);
        }
    };

    /** A line at the end of a file, which is not waited for without end. */
    private void appended(DestinationDefinition folder, Todo.Append line) {
        try {
            lines.computeIfAbsent(folder.id(), id -> new Bounded("the folder " + folder.name(), MOST_LINES))
                    .within(LINE, () -> {
                        around.opening().append(folder, line);
                        return true;
                    });
        } catch (Bounded.Unanswered hangs) {
            throw new IllegalArgumentException(
                    "It is not known whether the line was written. " + hangs.getMessage(), hangs);
        } catch (ExecutionException failed) {
            throw failed.getCause() instanceof RuntimeException known
                    ? known
                    : new IllegalStateException(Threads.words(failed.getCause()), failed.getCause());
        }
    }

    /** Lets one be done after a run of another; one that is stopped now is done when it is started. */
    private void follow(Todo.Begin next, TransactionDefinition after, String identity) {
        String id = next.transaction();
        if (!live.containsKey(id)) {
            throw new IllegalArgumentException("What was to be done after it is not released any more.");
        }
        Map<String, Object> given = new LinkedHashMap<>();
        next.values().forEach((name, value) -> given.put(When.AfterTransaction.PREFIX + name, value));
        Trigger trigger = new Trigger(
                around.clock().now(),
                "after " + after.name() + ", " + identity,
                RunIdentity.of("after:" + after.id() + ":" + identity),
                null,
                true,
                new TagValue[0],
                new TagValue[0],
                given,
                Optional.empty(),
                Trigger.Origin.NONE);
        Optional<TransactionRun> run = find(id);
        if (run.isEmpty()) {
            if (around.local().keptTriggers().count(id) >= Turns.MOST_KEPT) {
                throw new IllegalStateException("So much waits for what is stopped that no more is taken now.");
            }
            around.local().keptTriggers().keep(id, Map.of(trigger.identity(), KeptTrigger.document(trigger)));
        }
        boolean taken = run.map(each -> each.follow(trigger)).orElse(false);
        if (!taken) {
            // It may have been put to work meanwhile.
            find(id).ifPresent(TransactionRun::restore);
        }
    }

    /** How many triggers wait on disk for what is not at work: it was stopped, or is not released any more. */
    public Map<String, Integer> waitingForNone() {
        Map<String, Integer> all = new TreeMap<>(around.local().keptTriggers().waiting());
        all.keySet().removeIf(id -> find(id).isPresent());
        return all;
    }

    /**
     * Triggers that wait for what is not released any more are not done.
     *
     * @throws IllegalArgumentException with a sentence, where it is at work, and does them
     */
    public void discardWaiting(String id) {
        if (find(id).isPresent()) {
            throw new IllegalArgumentException("It is at work again, and does what waits.");
        }
        around.local().keptTriggers().discard(id);
    }

    /** From now on saved queries are asked there. */
    public void askSaved(SavedQueries queries) {
        saved = queries;
    }

    private Execution.Doors reading(Supplier<Plant> known, boolean drafted) {
        return new Execution.Doors() {
            @Override
            public Session.Found ask(String database, QueryText query, List<Object> bound, int most)
                    throws StoreProblem, QueryProblem {
                return reached.ask(known.get(), database, query, bound, most);
            }

            @Override
            public Session.Found saved(String query, Execution.Parameters values, int most)
                    throws StoreProblem, QueryProblem {
                SavedQueries queries = saved;
                if (queries == null) {
                    throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "Saved queries cannot be asked yet.", null);
                }
                return queries.ask(query, drafted, values, most);
            }
        };
    }

    /**
     * What removes old marks of these transactions in the night.
     *
     * @param zone plant time
     */
    public OldMarks oldMarks(ZoneId zone) {
        OldMarks.Around marked = new OldMarks.Around() {
            @Override
            public Collection<TransactionDefinition> all() {
                return live.values();
            }

            @Override
            public Transacting database(String id) {
                return reached.database(destination(plant, id));
            }

            @Override
            public String name(String database) {
                return Reached.destination(plant, database)
                        .map(DestinationDefinition::name)
                        .orElse("a database that is not there any more");
            }

            @Override
            public void say(String transaction, String sentence) {
                saidBy(transaction).note(around.clock().now(), sentence);
            }
        };
        return new OldMarks(marked, around.local(), around.clock(), zone);
    }

    /** From now on the archive is asked there. */
    public void askIn(PastValues values) {
        archive = values;
    }

    /** Tells a run, or whatever else stands in the ledger, from all others. */
    public String identity() {
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
                        request.isEmpty() ? "" : Trigger.CALL + request,
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

    /**
     * What a run has left to do after its commit is tried at once.
     *
     * @throws IllegalArgumentException with a sentence, where it is not at work
     */
    public void doRest(String id) {
        atWork(id).doRest();
    }

    /**
     * What a run has left to do after its commit is not done any more.
     *
     * @throws IllegalArgumentException with a sentence, where that cannot be noted
     */
    public void letBe(String id, String request, String who) {
        atWork(id).letBe(request, who);
    }

    /** A person says how a request ended of which nobody knew. */
    public void settled(String id, String request) {
        around.local().intents().ended(id, request);
    }

    /**
     * Does a design for real, and takes everything back; what follows the commit is only shown.
     *
     * @param known what is known of the rest, drafts included
     * @param given values that count in the place of what would be read; of new rows, the newest one counts, and of what follows
     *              another transaction, its last run
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
        all.putAll(lastOfFirst(design));
        all.putAll(given);
        return TriedOut.of(
                design, known, around, all, new Past(() -> archive, () -> known), reading(() -> known, true));
    }

    /**
     * Sends one step of a design alone, for real: what it changes is committed, and read back.
     *
     * @param given values by name, in the place of what would be read
     */
    public SentAlone sendAlone(TransactionDefinition design, int step, Plant known, Map<String, Object> given) {
        return SentAlone.of(design, step, known, around, identity(), given, reading(() -> known, true), this::appended);
    }

    /** What one that follows another would get of the last run of that, by name. */
    public Map<String, Object> lastOfFirst(TransactionDefinition design) {
        Map<String, Object> all = new LinkedHashMap<>();
        design.after().stream().flatMap(first -> find(first).stream()).forEach(run -> run.lastValues()
                .forEach((name, value) -> all.put(When.AfterTransaction.PREFIX + name, value)));
        return all;
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
            return Optional.of(
                    new TransactionStatus(design, LaneState.STOPPED, sentence, 0, 0, stop.at(), uncertain, List.of()));
        }
        Optional<TransactionRun> run = find(id);
        String trouble = Optional.ofNullable(refused.get(id))
                .or(() -> run.map(TransactionRun::trouble).filter(each -> !each.isEmpty()))
                .or(() -> run.map(TransactionRun::lastFailure)
                        .filter(each -> !each.isEmpty())
                        .map(each -> "Its last run failed: " + each))
                .orElse("");
        List<Leftovers.Rest> rest = run.map(TransactionRun::rest).orElse(List.of());
        String holding = run.map(TransactionRun::holding).orElse("");
        if (!holding.isEmpty() && refused.get(id) == null) {
            return Optional.of(new TransactionStatus(
                    design,
                    LaneState.HOLDING,
                    holding,
                    run.map(TransactionRun::waiting).orElse(0),
                    run.map(TransactionRun::running).orElse(0),
                    run.map(TransactionRun::lastRun).orElse(Instant.EPOCH),
                    uncertain,
                    rest));
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
                trouble.isEmpty() ? run.map(TransactionRun::turn).orElse("") : trouble,
                run.map(TransactionRun::waiting).orElse(0),
                run.map(TransactionRun::running).orElse(0),
                last,
                uncertain,
                rest));
    }

    /** Hears of no trigger any more; what waits for an answer is left to the next start. */
    @Override
    public void close() {
        close(STOP);
    }

    /**
     * As {@link #close()}.
     *
     * @param within so long what is under way has to end, before it is broken off
     */
    public void close(Duration within) {
        ticking.close();
        schedule.changeover(List.of());
        closing = true;
        runs.values().forEach(TransactionRun::end);
        threads.shutdown();
        try {
            if (!threads.awaitTermination(within.toMillis(), TimeUnit.MILLISECONDS)) {
                threads.shutdownNow();
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
        lookout.close();
        reached.close();
    }
}
