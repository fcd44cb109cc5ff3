package dachshund.engine.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.core.when.Firing;
import dachshund.core.when.When;
import dachshund.core.when.WhenFacts;
import dachshund.core.when.WhenGroup;
import dachshund.engine.count.CounterBook;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import dachshund.engine.when.Action;
import dachshund.engine.when.ActionPool;
import dachshund.engine.when.WhenRun;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
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

    /** So many runs that hang in the database, given up and answered, may be left behind before no further one is begun. */
    private static final int MOST_LEFT_BEHIND = 8;

    private static final int FAILS_AGAIN = 3;
    /** Requests of which it is known that they were begun here. */
    private static final int BEGUN_KNOWN = 1000;

    /** What is held is tried again after one such time, then two, up to the most. */
    private static final long HOLD_NANOS = 1_000_000_000L;

    private static final int MOST_HOLDS = 30;

    private static final Duration LONG = Duration.ofSeconds(3);

    private final TransactionDefinition design;
    private final OneRun.Around around;
    private final With with;
    private final WhenRun when;
    private final Deque<Trigger> waiting = new ArrayDeque<>();
    private final Set<OneRun> running = ConcurrentHashMap.newKeySet();
    private final Set<OneRun> leftBehind = ConcurrentHashMap.newKeySet();
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
    /** Guarded by the waiting ones, as what follows. */
    private volatile String heldWhy = "";

    private Instant heldSince = Instant.EPOCH;
    private long heldUntil = System.nanoTime();
    private int holds;
    private volatile int failedInARow;
    private volatile String lastFailure = "";
    private volatile Instant lastRun = Instant.EPOCH;
    private volatile boolean ended;

    /**
     * What it works with.
     *
     * @param identity  a new one for each run
     * @param executor  a thread for each run
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
    }

    public TransactionDefinition definition() {
        return design;
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
        // The number is the last good one, as its When has decided by; in between it may be gone again.
        design.request()
                .flatMap(request -> asked(request, firing.at(), values))
                .ifPresentOrElse(this::take, () -> skipped(firing));
    }

    private String why() {
        return design.whens().stream().map(When::sentence).collect(Collectors.joining(" or "));
    }

    private Optional<Trigger> asked(When.OnRequest request, Instant at, Snapshot values) {
        Optional<Object> number = value(request.number(), values.lastGood()).filter(When.OnRequest::asks);
        return number.map(each -> {
            String epoch = request.epoch()
                    .flatMap(tag -> value(tag, values.lastGood()))
                    .map(Values::words)
                    .orElse("");
            String identity = epoch + "/" + Values.words(each);
            boolean sure = fired && !begun.containsKey(identity);
            fired = true;
            begun.put(identity, true);
            return new Trigger(
                    at, "request " + Values.words(each), identity, each, sure, values.now(), values.lastGood());
        });
    }

    private Optional<Object> value(TagRef tag, TagValue[] of) {
        return of[design.reads().indexOf(tag)].value();
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
        take(new Trigger(at, why, own, null, true, now, good, given, origin));
    }

    /** Looks for new rows from now on, where its Whens say so. */
    synchronized void beginToLook() {
        if (lookers.isEmpty() && !ended) {
            for (When.OnNewRow rows : design.newRows()) {
                lookers.add(with.looking().look(rows, new NewRows.Taker() {
                    @Override
                    public int room() {
                        return when.open() ? TransactionRun.this.room() : 0;
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

    private int room() {
        synchronized (waiting) {
            return held()
                    ? 0
                    : design.policy().waiting() + design.policy().parallel() - waiting.size() - running.size();
        }
    }

    private boolean held() {
        return System.nanoTime() - heldUntil < 0;
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
        String full;
        synchronized (waiting) {
            full = running.size() < design.policy().parallel()
                            || waiting.size() < design.policy().waiting()
                    ? ""
                    : waiting.size() + " triggers wait already.";
            if (full.isEmpty() && leftBehind.size() >= MOST_LEFT_BEHIND) {
                full = leftBehind.size()
                        + " runs that were given up still hang in the database; no further one is begun before they end.";
            }
            if (full.isEmpty() && ended) {
                full = "the transaction was stopped or changed.";
            }
            if (full.isEmpty()) {
                waiting.add(trigger);
            }
        }
        if (full.isEmpty()) {
            begin();
        } else if (trigger.asked()) {
            // It waits for an answer, and gets one.
            String why = "It was not begun: " + full;
            with.executor().execute(() -> ended(new OneRun(design, trigger, around).refuse(why)));
        } else {
            dropped(trigger, full);
        }
    }

    private void dropped(Trigger trigger, String why) {
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

    /** Begins as many as may be under way at once. */
    private void begin() {
        while (true) {
            Trigger trigger;
            OneRun next;
            synchronized (waiting) {
                if (ended
                        || held()
                        || waiting.isEmpty()
                        || running.size() >= design.policy().parallel()) {
                    return;
                }
                trigger = waiting.poll();
                next = new OneRun(design, trigger, around);
                running.add(next);
            }
            try {
                with.executor().execute(() -> carryOut(next));
            } catch (RuntimeException | Error noThread) {
                running.remove(next);
                dropped(trigger, "there is no thread for it. " + Threads.words(noThread));
            }
        }
    }

    private void carryOut(OneRun run) {
        try {
            run.carryOut().ifPresent(how -> endedOrHeld(run, how));
        } finally {
            running.remove(run);
            leftBehind.remove(run);
            begin();
        }
    }

    /** Gives up runs whose time is over. Called often, by one thread. */
    void lookAfter() {
        for (OneRun each : running) {
            if (each.isLate()) {
                with.executor().execute(() -> each.breakOff().ifPresent(run -> {
                    if (running.remove(each)) {
                        leftBehind.add(each);
                    }
                    endedOrHeld(each, run);
                    begin();
                }));
            }
        }
        if (!heldWhy.isEmpty()) {
            begin();
        }
    }

    /** What fails for a passing reason goes back to where it was, before all that came later. */
    private void endedOrHeld(OneRun run, Run how) {
        Trigger trigger = run.trigger();
        if (design.policy().hold()
                && trigger.origin() != Trigger.Origin.NONE
                && !trigger.origin().isWaiting()
                && how.outcome() == Outcome.FAILED
                && run.passing()) {
            synchronized (waiting) {
                if (heldWhy.isEmpty()) {
                    heldSince = around.clock().now();
                }
                holds = Math.min(holds + 1, MOST_HOLDS);
                heldWhy = how.reason();
                heldUntil = System.nanoTime() + HOLD_NANOS * holds;
                if (ended) {
                    trigger.origin().letGo();
                } else {
                    waiting.addFirst(trigger);
                }
            }
            with.said().note(around.clock().now(), "Held, and done later: " + how.reason());
            return;
        }
        synchronized (waiting) {
            holds = 0;
            heldWhy = "";
        }
        try {
            ended(how);
        } finally {
            // What is not sure is found again, and its mark says; without one, a person does.
            boolean open = !how.outcome().stands()
                    && (around.closing().getAsBoolean() || design.mark() && how.outcome() == Outcome.UNCERTAIN);
            if (open) {
                trigger.origin().letGo();
            } else {
                trigger.origin().done(how);
            }
        }
    }

    /** What it holds, and why, in a sentence; empty where nothing is held. */
    public String holding() {
        synchronized (waiting) {
            return heldWhy.isEmpty()
                    ? ""
                    : "Held for "
                            + PeriodText.roughly(
                                    Duration.between(heldSince, around.clock().now()))
                            + ", and done in order as soon as it can be: " + heldWhy;
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
        List<Trigger> left;
        synchronized (waiting) {
            left = new ArrayList<>(waiting);
            waiting.clear();
        }
        left.forEach(each -> dropped(each, "the transaction was stopped or changed while it waited."));
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
        String waits = running.stream()
                .map(OneRun::waits)
                .filter(each -> !each.isEmpty())
                .findFirst()
                .orElse("");
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

    /** Whether so many runs in a row have failed that it is hardly their own doing. */
    public boolean failsAgain() {
        return failedInARow >= FAILS_AGAIN;
    }

    /** Why its last run failed; empty where it did not. */
    public String lastFailure() {
        return lastFailure;
    }

    public Instant lastRun() {
        return lastRun;
    }

    public int waiting() {
        synchronized (waiting) {
            return waiting.size();
        }
    }

    public int running() {
        return running.size();
    }
}
