package dachshund.engine.transaction;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.local.KeptTriggers;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executor;
import java.util.concurrent.atomic.AtomicBoolean;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Triggers of one transaction that wait for their turn, and its runs under way. What is held waits on disk, with what was gathered
 * as it came, and goes on in its order after a restart, too. From any thread.
 */
final class Turns {

    private static final Logger LOG = LoggerFactory.getLogger(Turns.class);

    /** So many runs that hang in the database, given up and answered, may be left behind before no further one is begun. */
    private static final int MOST_LEFT_BEHIND = 8;

    /** What is held is tried again after one such time, then two, up to the most. */
    private static final long HOLD_NANOS = 1_000_000_000L;

    private static final int MOST_HOLDS = 30;

    /** What follows other transactions waits in their marks where more than these wait here. */
    static final int MOST_KEPT = 10_000;

    private final TransactionDefinition design;
    private final Policy policy;
    private final OneRun.Around around;
    private final Executor executor;
    private final Optional<OneAtATime> place;
    private final KeptTriggers disk;
    private final Said said;
    private final Told told;
    private final Set<OneRun> running = ConcurrentHashMap.newKeySet();
    private final Set<OneRun> leftBehind = ConcurrentHashMap.newKeySet();
    /** Guards what follows. */
    private final Deque<Trigger> waiting = new ArrayDeque<>();

    /** Places of those that wait on disk and are known here. */
    private final Set<Long> here = ConcurrentHashMap.newKeySet();

    private String heldWhy = "";
    private Instant heldSince = Instant.EPOCH;
    private long heldUntil = System.nanoTime();
    private int holds;
    private volatile boolean ended;
    private volatile boolean holding;
    private final AtomicBoolean keeping = new AtomicBoolean();
    private volatile boolean toKeep;

    /** Told of how it goes. */
    interface Told {

        void ended(OneRun run, Run how);

        /** A trigger that nobody waits for was not begun. */
        void dropped(Trigger trigger, String why);
    }

    Turns(
            TransactionDefinition design,
            OneRun.Around around,
            Executor executor,
            Optional<OneAtATime> place,
            KeptTriggers disk,
            Said said,
            Told told) {
        this.design = design;
        this.policy = design.policy();
        this.around = around;
        this.executor = executor;
        this.place = place;
        this.disk = disk;
        this.said = said;
        this.told = told;
    }

    /** What waits on disk since before takes its place in front of all that comes. */
    void restore() {
        List<Trigger> before = disk.of(design.id()).stream()
                .filter(each -> here.add(each.nth()))
                .flatMap(each -> read(each).stream())
                .toList();
        synchronized (waiting) {
            List<Trigger> after = new ArrayList<>(waiting);
            waiting.clear();
            waiting.addAll(before);
            waiting.addAll(after);
        }
        begin();
    }

    private Optional<Trigger> read(KeptTriggers.Kept kept) {
        try {
            return Optional.of(KeptTrigger.read(kept, new OnDisk(kept.nth())));
        } catch (IllegalArgumentException unreadable) {
            LOG.error("{}", unreadable.getMessage(), unreadable);
            said.note(around.clock().now(), unreadable.getMessage());
            return Optional.empty();
        }
    }

    /** One that waits on disk. */
    private final class OnDisk implements Trigger.Origin {

        private final long nth;

        OnDisk(long nth) {
            this.nth = nth;
        }

        @Override
        public void done(Run how) {
            disk.done(design.id(), nth);
            here.remove(nth);
        }

        @Override
        public void letGo() {
            // It stands on disk, and comes again when the transaction is put to work the next time.
        }
    }

    /** @return why it was not taken, in a sentence; empty where it was */
    String offer(Trigger trigger) {
        String full = "";
        synchronized (waiting) {
            boolean busy = running.size() >= policy.parallel()
                    || place.filter(OneAtATime::busy).isPresent();
            if (busy && waiting.size() >= policy.waiting()
                    || holding && waiting.size() >= policy.waiting() + policy.parallel()) {
                full = waiting.size() + " triggers wait already.";
            } else if (leftBehind.size() >= MOST_LEFT_BEHIND) {
                full = leftBehind.size()
                        + " runs that were given up still hang in the database; no further one is begun before they end.";
            } else if (ended) {
                full = "the transaction was stopped or changed.";
            } else {
                waiting.add(trigger);
            }
        }
        if (full.isEmpty()) {
            if (holding && holdable(trigger)) {
                keepSoon();
            }
            begin();
        }
        return full;
    }

    /**
     * One that is to be done whatever happens: it waits on disk before this returns.
     *
     * @return false where this one does not do it any more
     * @throws IllegalStateException with a sentence, where so much waits that no more is taken
     */
    boolean offerKept(Trigger trigger) {
        if (here.size() >= MOST_KEPT) {
            throw new IllegalStateException("So much waits for " + design.name() + " that no more is taken now.");
        }
        Trigger known = policy.settle().isZero() ? gathered(trigger) : trigger;
        Optional<Trigger> kept = Optional.ofNullable(kept(List.of(known)).get(known.identity()));
        boolean open;
        synchronized (waiting) {
            open = !ended;
            if (open) {
                kept.ifPresent(waiting::add);
            }
        }
        begin();
        return open;
    }

    /** The plant and programs are told that theirs failed; a row of a table stands where it is. */
    private boolean holdable(Trigger trigger) {
        return policy.hold() && !trigger.asked() && trigger.origin() == Trigger.Origin.NONE;
    }

    private Trigger gathered(Trigger trigger) {
        return trigger.gathered().isPresent()
                ? trigger
                : trigger.of(trigger.origin(), Optional.of(GatheredNow.of(design, trigger, around)));
    }

    /** Brings them to disk; of one that stands there already, nothing is given. */
    private Map<String, Trigger> kept(List<Trigger> triggers) {
        Map<String, Trigger> known = new LinkedHashMap<>();
        Map<String, String> documents = new LinkedHashMap<>();
        triggers.forEach(each -> {
            known.put(each.identity(), each);
            documents.put(each.identity(), KeptTrigger.document(each));
        });
        Map<String, Trigger> kept = new LinkedHashMap<>();
        disk.keep(design.id(), documents).forEach((identity, nth) -> {
            if (here.add(nth)) {
                Trigger trigger = known.get(identity);
                kept.put(identity, trigger.of(new OnDisk(nth), trigger.gathered()));
            }
        });
        return kept;
    }

    /** What came while something is held, or waited behind it, comes to disk, too, in its order. */
    private synchronized void keepWaiting() {
        List<Trigger> now;
        synchronized (waiting) {
            now = waiting.stream().filter(this::holdable).toList();
        }
        Map<String, Trigger> kept = new HashMap<>();
        try {
            // Who ends does not wait for a settle time; what is not gathered then is read when it is done.
            boolean waits = !policy.settle().isZero();
            kept.putAll(
                    kept(ended && waits ? now : now.stream().map(this::gathered).toList()));
        } catch (RuntimeException cannot) {
            LOG.error("{}: what waits could not be kept on disk.", design.name(), cannot);
            said.note(
                    around.clock().now(),
                    "What waits could not be kept on disk, and would not outlive a stop: " + Threads.words(cannot)
                            + ".");
        }
        synchronized (waiting) {
            List<Trigger> all = new ArrayList<>(waiting);
            waiting.clear();
            all.forEach(each -> {
                Trigger other = holdable(each) ? kept.remove(each.identity()) : null;
                waiting.add(other == null ? each : other);
            });
        }
        // What is under way by now is not to come again.
        kept.values().forEach(each -> each.origin().done(null));
    }

    /** On one thread, however many come. */
    private void keepSoon() {
        toKeep = true;
        if (keeping.compareAndSet(false, true)) {
            try {
                executor.execute(() -> {
                    try {
                        while (toKeep) {
                            toKeep = false;
                            keepWaiting();
                        }
                    } finally {
                        keeping.set(false);
                    }
                    if (toKeep) {
                        keepSoon();
                    }
                });
            } catch (RuntimeException | Error noThread) {
                keeping.set(false);
                LOG.error("{}: there is no thread to keep what waits.", design.name(), noThread);
            }
        }
    }

    /** How many more may come. */
    int room() {
        synchronized (waiting) {
            return held() ? 0 : policy.waiting() + policy.parallel() - waiting.size() - running.size();
        }
    }

    private boolean held() {
        return System.nanoTime() - heldUntil < 0;
    }

    /** Begins as many as may be under way at once. */
    private void begin() {
        while (true) {
            Trigger trigger;
            OneRun next;
            synchronized (waiting) {
                if (ended || held() || waiting.isEmpty() || running.size() >= policy.parallel()) {
                    return;
                }
                next = new OneRun(design, waiting.peek(), around);
                if (place.isPresent() && !place.get().enter(next, this, this::begin)) {
                    return;
                }
                trigger = waiting.remove();
                running.add(next);
            }
            try {
                executor.execute(() -> carryOut(next));
            } catch (RuntimeException | Error noThread) {
                running.remove(next);
                leavePlace(next);
                if (trigger.origin() instanceof OnDisk) {
                    again(trigger);
                    return;
                }
                told.dropped(trigger, "there is no thread for it. " + Threads.words(noThread));
            }
        }
    }

    private void carryOut(OneRun run) {
        try {
            run.carryOut().ifPresent(how -> endedOrHeld(run, how));
        } finally {
            running.remove(run);
            leftBehind.remove(run);
            leavePlace(run);
            begin();
        }
    }

    /** One that was given up leaves it, too, though it may still hang. */
    private void leavePlace(OneRun run) {
        place.ifPresent(each -> each.leave(run));
    }

    /** Gives up runs whose time is over. Called often, by one thread. */
    void lookAfter() {
        for (OneRun each : running) {
            if (each.isLate()) {
                executor.execute(() -> each.breakOff().ifPresent(run -> {
                    if (running.remove(each)) {
                        leftBehind.add(each);
                    }
                    try {
                        endedOrHeld(each, run);
                    } finally {
                        leavePlace(each);
                        begin();
                    }
                }));
            }
        }
        if (holding) {
            begin();
        }
    }

    private void endedOrHeld(OneRun run, Run how) {
        if (policy.hold() && how.outcome() == Outcome.FAILED && run.passing() && hold(run, how)) {
            said.note(around.clock().now(), "Held, and done later: " + how.reason());
            keepWaiting();
            return;
        }
        synchronized (waiting) {
            holds = 0;
            heldWhy = "";
            holding = false;
        }
        told.ended(run, how);
    }

    /** What fails for a passing reason goes back to where it was, before all that came later. */
    private boolean hold(OneRun run, Run how) {
        Trigger trigger = run.trigger();
        if (trigger.asked() || trigger.origin().isWaiting()) {
            return false;
        }
        Trigger again;
        try {
            again = holdable(trigger)
                    ? kept(List.of(gathered(trigger.of(trigger.origin(), run.gathered()))))
                            .getOrDefault(trigger.identity(), trigger)
                    : trigger;
        } catch (RuntimeException cannot) {
            LOG.error("{}: what failed could not be held.", design.name(), cannot);
            said.note(around.clock().now(), "What failed could not be kept on disk: " + Threads.words(cannot) + ".");
            return false;
        }
        synchronized (waiting) {
            if (heldWhy.isEmpty()) {
                heldSince = around.clock().now();
            }
            holds = Math.min(holds + 1, MOST_HOLDS);
            heldWhy = how.reason();
            heldUntil = System.nanoTime() + HOLD_NANOS * holds;
            holding = true;
            if (ended) {
                again.origin().letGo();
            } else {
                waiting.addFirst(again);
            }
        }
        return true;
    }

    /** It is not sure how one ended that waits on disk: it is asked for again. */
    void again(Trigger trigger) {
        if (trigger.origin() instanceof OnDisk) {
            synchronized (waiting) {
                if (!ended) {
                    heldUntil = System.nanoTime() + HOLD_NANOS;
                    holding = true;
                    waiting.addFirst(new Trigger(
                            trigger.at(),
                            trigger.why(),
                            trigger.identity(),
                            null,
                            false,
                            trigger.now(),
                            trigger.lastGood(),
                            trigger.given(),
                            trigger.gathered(),
                            trigger.origin()));
                }
            }
        }
    }

    /**
     * No further run is begun; those that are under way end.
     *
     * @return what waited, of which nothing that is to be held is lost
     */
    List<Trigger> end() {
        synchronized (waiting) {
            ended = true;
        }
        if (policy.hold()) {
            keepWaiting();
        }
        place.ifPresent(each -> each.forget(this));
        synchronized (waiting) {
            List<Trigger> left = new ArrayList<>(waiting);
            waiting.clear();
            return left;
        }
    }

    /** What it holds, and why, in a sentence; empty where nothing is held. */
    String holding() {
        synchronized (waiting) {
            return heldWhy.isEmpty()
                    ? ""
                    : "Held for "
                            + PeriodText.roughly(
                                    Duration.between(heldSince, around.clock().now()))
                            + ", and done in order as soon as it can be: " + heldWhy;
        }
    }

    int waiting() {
        synchronized (waiting) {
            return waiting.size();
        }
    }

    int running() {
        return running.size();
    }

    /** What a run waits for, in a sentence; empty where none does. */
    String waits() {
        return running.stream()
                .map(OneRun::waits)
                .filter(each -> !each.isEmpty())
                .findFirst()
                .orElse("");
    }

    /** Whom it lets go first at its equipment, in a sentence; empty where nobody is under way there. */
    String turn() {
        return place.flatMap(each -> each.waitsFor(this))
                .map(other -> "Waits its turn at " + around.equipment().name() + ": " + other + " is under way there.")
                .orElse("");
    }
}
