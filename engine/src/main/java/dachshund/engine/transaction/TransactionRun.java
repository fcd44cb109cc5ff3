package dachshund.engine.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.Firing;
import dachshund.core.when.When;
import dachshund.core.when.WhenFacts;
import dachshund.core.when.WhenGroup;
import dachshund.engine.answer.Asked;
import dachshund.engine.count.CounterBook;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.when.Action;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.WhenRun;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executor;
import java.util.function.Consumer;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/**
 * A transaction at work: its Whens, the triggers that wait, and the runs under way. A trigger only takes its values and hands
 * them on; runs have threads of their own.
 */
public final class TransactionRun implements Action {

    private static final int FAILS_AGAIN = 3;
    /** Requests of which it is known that they were begun here. */
    private static final int BEGUN_KNOWN = 1000;

    private static final Duration LONG = Duration.ofSeconds(3);

    private final TransactionDefinition design;
    private final OneRun.Around around;
    private final With with;
    private final WhenRun when;
    private final Turns turns;
    private final Leftovers leftovers;
    /** The first request after a start, or a change, may have been begun before; of the strand alone, as the next. */
    private boolean fired;

    private final Map<String, Boolean> begun = new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Boolean> eldest) {
            return size() > BEGUN_KNOWN;
        }
    };

    private final List<NewRows> lookers = new CopyOnWriteArrayList<>();
    private volatile int failedInARow;
    private volatile String lastFailure = "";
    private volatile Instant lastRun = Instant.EPOCH;
    private volatile Map<String, Object> lastValues = Map.of();
    private volatile boolean ended;

    /**
     * What it works with.
     *
     * @param identity  a new one for each run
     * @param executor  a thread for each run
     * @param place     where it waits its turn with others; empty where it waits for nobody
     * @param looking   begins to look for new rows
     * @param told      of how each run ended
     * @param stopItself told after too many failures in a row, with why
     */
    record With(
            TagTable table,
            Plant plant,
            CounterBook book,
            LocalStore local,
            ActionPool.Strand strand,
            Said said,
            Supplier<String> identity,
            Executor executor,
            Optional<OneAtATime> place,
            Looking looking,
            Consumer<Run> told,
            Consumer<String> stopItself) {}

    /** Looks for new rows of a table. */
    interface Looking {
        NewRows look(When.OnNewRow rows, NewRows.Taker taker);
    }

    TransactionRun(TransactionDefinition design, OneRun.Around around, With with) {
        this.design = design;
        this.around = around;
        this.with = with;
        boolean byClock = design.whens().stream().anyMatch(each -> each.pace() == When.Pace.CLOCK);
        Optional<Instant> served = byClock ? with.local().served(design.id()) : Optional.empty();
        if (byClock && served.isEmpty()) {
            with.local().served(design.id(), around.clock().now());
        }
        WhenGroup whens = new WhenGroup(
                design.whens(),
                design.gate(),
                new WhenFacts(with.plant().zone(), with.plant().shifts(), design.reads(), with.plant()::range, served));
        this.when = new WhenRun(
                design.id(), whens, design.reads(), with.table(), this, with.strand(), around.clock(), with.said());
        this.turns = new Turns(
                design,
                around,
                with.executor(),
                with.place(),
                with.local().keptTriggers(),
                with.said(),
                new Turns.Told() {
                    @Override
                    public void ended(OneRun run, Run how) {
                        endedWith(run, how);
                    }

                    @Override
                    public void dropped(Trigger trigger, String why) {
                        droppedFor(trigger, why);
                    }
                });
        this.leftovers = new Leftovers(around, design, with.executor(), with.told());
    }

    public TransactionDefinition definition() {
        return design;
    }

    OnEquipment equipment() {
        return around.equipment();
    }

    WhenRun when() {
        return when;
    }

    @Override
    public void run(Firing firing, Snapshot values, Instant now) {
        served(firing.at());
        if (design.request().isEmpty()) {
            take(new Trigger(firing.at(), why(), with.identity().get(), null, true, values.now(), values.lastGood()));
            return;
        }
        design.request()
                .flatMap(request -> asked(request, firing.at(), values))
                .ifPresentOrElse(this::take, () -> skipped(firing));
    }

    private String why() {
        return design.whens().stream().map(When::sentence).collect(Collectors.joining(" or "));
    }

    private Optional<Trigger> asked(When.OnRequest request, Instant at, Snapshot values) {
        List<TagRef> reads = design.reads();
        return Asked.of(request, tag -> values.lastGood()[reads.indexOf(tag)]).map(asked -> {
            boolean sure = fired && !begun.containsKey(asked.identity());
            fired = true;
            begun.put(asked.identity(), true);
            return new Trigger(
                    at, asked.words(), asked.identity(), asked.number(), sure, values.now(), values.lastGood());
        });
    }

    /**
     * Somebody wants it to be done now. It is no request of the plant, whatever number stands there.
     *
     * @param at       what is computed of the time before ends there
     * @param identity what tells it from everything else that is asked for; empty where it is new
     * @param given    values that count in the place of those of now
     */
    void byCall(String why, Instant at, String identity, Map<String, Object> given, Trigger.Origin origin) {
        TagValue[] now = design.reads().stream().map(around.plant()::now).toArray(TagValue[]::new);
        TagValue[] good = design.reads().stream().map(around.plant()::lastGood).toArray(TagValue[]::new);
        String own = identity.isEmpty() ? with.identity().get() : RunIdentity.of(identity);
        take(new Trigger(at, why, own, null, true, now, good, given, Optional.empty(), origin));
    }

    /**
     * A run of another transaction is done, and this one follows.
     *
     * @return false where this one is not at work any more; it waits on disk then
     * @throws IllegalStateException with a sentence, where so much waits that no more is taken
     */
    boolean follow(Trigger trigger) {
        with.book().due(design.id(), trigger.at(), 1);
        if (!when.open()) {
            with.book().count(design.id(), trigger.at(), dachshund.core.outcome.Outcome.SKIPPED, 1);
            with.said().note(around.clock().now(), "Passed over, since the gate is shut: " + trigger.why());
            return true;
        }
        return turns.offerKept(trigger);
    }

    /** What waits on disk and is not known here comes, too. */
    void restore() {
        turns.restore();
    }

    /** Looks for new rows from now on, where its Whens say so, and does what waits on disk. */
    synchronized void beginToLook() {
        if (!ended) {
            turns.restore();
        }
        if (lookers.isEmpty() && !ended) {
            for (When.OnNewRow rows : design.newRows()) {
                lookers.add(with.looking().look(rows, new NewRows.Taker() {
                    @Override
                    public int room() {
                        return when.open() ? turns.room() : 0;
                    }

                    @Override
                    public void take(String key, Map<String, Object> cells, Trigger.Origin origin) {
                        byRow(rows, key, cells, origin);
                    }
                }));
            }
        }
    }

    private void byRow(When.OnNewRow rows, String key, Map<String, Object> cells, Trigger.Origin origin) {
        // Tables of two databases may have one name, and rows of one key.
        String identity = String.join(":", rows.database(), rows.table(), key);
        byCall("row " + key + " of " + rows.table(), around.clock().now(), identity, cells, origin);
    }

    @Override
    public void skipped(Firing firing) {
        served(firing.at());
        with.book().due(design.id(), firing.at(), firing.times());
        with.book().count(design.id(), firing.at(), dachshund.core.outcome.Outcome.SKIPPED, firing.times());
    }

    @Override
    public void overrun(Instant at) {
        with.book().due(design.id(), at, 1);
        with.book().count(design.id(), at, dachshund.core.outcome.Outcome.SKIPPED, 1);
    }

    private void served(Instant upTo) {
        if (design.whens().stream().anyMatch(each -> each.pace() == When.Pace.CLOCK)) {
            with.local().served(design.id(), upTo);
        }
    }

    private void take(Trigger trigger) {
        with.book().due(design.id(), trigger.at(), 1);
        String full = turns.offer(trigger);
        if (full.isEmpty()) {
            return;
        }
        if (trigger.asked()) {
            // It waits for an answer, and gets one.
            String why = "It was not begun: " + full;
            with.executor().execute(() -> ended(new OneRun(design, trigger, around).refuse(why)));
        } else {
            droppedFor(trigger, full);
        }
    }

    private void droppedFor(Trigger trigger, String why) {
        trigger.origin().letGo();
        if (trigger.origin() != Trigger.Origin.NONE) {
            // It stands in its table, and is found again; or whoever has called knows.
            with.book().count(design.id(), trigger.at(), dachshund.core.outcome.Outcome.SKIPPED, 1);
            return;
        }
        ended(new Run(
                around.ids().get(),
                design.id(),
                design.name(),
                trigger.at(),
                around.clock().now(),
                trigger.why(),
                trigger.asked() ? trigger.identity() : "",
                Outcome.DROPPED,
                0,
                0,
                java.util.Map.of(),
                List.of(),
                "It was not begun: " + why,
                0,
                "",
                "",
                java.util.Map.of()));
    }

    /** Gives up runs whose time is over, and does what was left. Called often, by one thread. */
    void lookAfter() {
        turns.lookAfter();
        leftovers.lookAfter();
    }

    private void endedWith(OneRun run, Run how) {
        Trigger trigger = run.trigger();
        if (how.outcome().stands()) {
            lastValues = run.values();
        }
        try {
            ended(how);
        } finally {
            // What is not sure is found again, and its mark says; without one, a person does.
            boolean open = !how.outcome().stands()
                    && (around.closing().getAsBoolean() || design.mark() && how.outcome() == Outcome.UNCERTAIN);
            if (open) {
                trigger.origin().letGo();
                turns.again(trigger);
            } else {
                trigger.origin().done(how);
            }
        }
    }

    private void ended(Run run) {
        Outcome outcome = run.outcome();
        if (outcome == Outcome.DROPPED) {
            with.book().count(design.id(), run.fired(), dachshund.core.outcome.Outcome.SKIPPED, 1);
        } else if (outcome.stands()) {
            with.book()
                    .landed(
                            design.id(),
                            new Instant[] {run.fired()},
                            around.clock().now());
        } else {
            with.book().count(design.id(), run.fired(), dachshund.core.outcome.Outcome.REFUSED, 1);
        }
        boolean stops = counted(run);
        with.told().accept(run);
        if (stops) {
            with.stopItself()
                    .accept(design.policy().stopAfter() + " runs in a row failed, the last one since: " + run.reason());
        }
    }

    /** Whether there were too many failures in a row. */
    private synchronized boolean counted(Run run) {
        Outcome outcome = run.outcome();
        lastRun = run.fired();
        if (outcome.stands()) {
            if (!lastFailure.isEmpty()) {
                with.said().note(around.clock().now(), "Runs are done again.");
            }
            failedInARow = 0;
            lastFailure = "";
        } else if (outcome != Outcome.DROPPED) {
            lastFailure = run.reason();
            with.said().note(around.clock().now(), outcome.words() + ": " + run.reason());
            failedInARow++;
        } else {
            with.said().note(around.clock().now(), run.reason());
        }
        boolean stops = design.policy().stopAfter() > 0
                && failedInARow >= design.policy().stopAfter();
        failedInARow = stops ? 0 : failedInARow;
        return stops;
    }

    /** No further run is begun; those that are under way end. */
    void end() {
        synchronized (this) {
            ended = true;
            lookers.forEach(NewRows::close);
        }
        turns.end().forEach(each -> droppedFor(each, "the transaction was stopped or changed while it waited."));
    }

    /** What it holds, and why, in a sentence; empty where nothing is held. */
    public String holding() {
        return turns.holding();
    }

    /** What runs have left to do after their commits. */
    public List<Leftovers.Rest> rest() {
        return leftovers.rest();
    }

    /** Does at once what runs have left to do. */
    public void doRest() {
        leftovers.now();
    }

    /** What a run has left to do is not done any more. */
    public void letBe(String request, String who) {
        leftovers.letBe(request, who);
    }

    /** Why it does not do what it should, in words; empty where it does. */
    public String trouble() {
        if (!when.trouble().isEmpty()) {
            return when.trouble();
        }
        Optional<String> blind = lookers.stream()
                .map(NewRows::trouble)
                .filter(each -> !each.isEmpty())
                .findFirst();
        if (blind.isPresent()) {
            return blind.get();
        }
        String waits = turns.waits();
        if (waits.isEmpty()) {
            waits = leftovers.trouble();
        }
        if (!waits.isEmpty()) {
            return waits;
        }
        Instant due = when.dueAt();
        return due.isBefore(around.clock().now().minus(LONG))
                ? "It was due "
                        + PeriodText.roughly(
                                Duration.between(due, around.clock().now())) + " ago and has not begun."
                : "";
    }

    /** Whom it lets go first at its equipment, in a sentence; empty where it waits for nobody. */
    String turn() {
        return turns.turn();
    }

    /** Whether so many runs in a row have failed that it is hardly their own doing. */
    public boolean failsAgain() {
        return failedInARow >= FAILS_AGAIN;
    }

    /** Why its last run failed; empty where it did not. */
    public String lastFailure() {
        return lastFailure;
    }

    /** What the last run that was done knew in the end; empty where there was none since the start. */
    Map<String, Object> lastValues() {
        return lastValues;
    }

    public Instant lastRun() {
        return lastRun;
    }

    public int waiting() {
        return turns.waiting();
    }

    public int running() {
        return turns.running();
    }
}
