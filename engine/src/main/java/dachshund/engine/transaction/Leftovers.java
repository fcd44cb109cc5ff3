package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Session.Told;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Executor;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import java.util.function.Supplier;

/**
 * What follows commits and was left: by a death between a commit and what follows it, or because it could not be done then. It is
 * looked for when a transaction is put to work, and again as long as something is left. From any thread.
 */
public final class Leftovers {

    private static final int AT_ONCE = 1000;
    /** A look goes on no longer than this: the rest has its turn the next time. */
    private static final long LOOK_NANOS = 10_000_000_000L;

    private static final long SOON_NANOS = 2_000_000_000L;
    private static final long LATER_NANOS = 60_000_000_000L;

    private final TransactionDefinition design;
    private final Transacting database;
    private final Following following;
    private final PlantClock clock;
    private final Supplier<String> ids;
    private final Supplier<List<String>> followers;
    private final BooleanSupplier closing;
    private final Executor executor;
    private final Consumer<Run> told;
    private final AtomicBoolean looking = new AtomicBoolean();
    private volatile boolean wanted = true;
    private volatile long next = System.nanoTime();
    private volatile long pause = SOON_NANOS;
    private volatile List<Rest> rest = List.of();
    private volatile String blind = "";
    /** Of the thread that looks alone. */
    private int first;

    /**
     * What one run has left.
     *
     * @param request tells the run from all others
     * @param why     it is not done yet, in a sentence
     */
    public record Rest(String request, String why) {}

    /** @param told of what was done here, as of any run */
    Leftovers(OneRun.Around around, TransactionDefinition design, Executor executor, Consumer<Run> told) {
        this.design = design;
        this.database = around.database();
        this.following = around.following();
        this.clock = around.clock();
        this.ids = around.ids();
        this.followers = around.followers();
        this.closing = around.closing();
        this.executor = executor;
        this.told = told;
    }

    /** Called often, by one thread; looks on another. */
    void lookAfter() {
        if (following.hasLeft()) {
            pause = SOON_NANOS;
            next = System.nanoTime() + pause;
            wanted = true;
        }
        if (wanted && design.mark() && System.nanoTime() - next >= 0 && looking.compareAndSet(false, true)) {
            try {
                executor.execute(this::look);
            } catch (RuntimeException | Error noThread) {
                looking.set(false);
                next = System.nanoTime() + LATER_NANOS;
            }
        }
    }

    /** Does now what can be done. */
    void now() {
        next = System.nanoTime();
        wanted = true;
    }

    private void look() {
        // What a run leaves meanwhile may not be among what is found, and is looked for again.
        wanted = false;
        boolean again = true;
        try {
            List<Transacting.Left> found = database.left(design.id(), AT_ONCE);
            blind = "";
            List<Rest> still = oneAfterTheOther(found);
            rest = still;
            again = !still.isEmpty() || found.size() == AT_ONCE;
            pause = still.isEmpty() ? SOON_NANOS : Math.min(pause * 2, LATER_NANOS);
        } catch (StoreProblem away) {
            blind = "Whether something of earlier runs is left to do is not known: " + away.getMessage();
            pause = Math.min(pause * 2, LATER_NANOS);
        } catch (RuntimeException | Error thrown) {
            Threads.report(thrown);
            blind = "Whether something of earlier runs is left to do is not known. Unexpectedly: "
                    + Threads.words(thrown) + ".";
            pause = LATER_NANOS;
        } finally {
            if (again) {
                next = System.nanoTime() + pause;
                wanted = true;
            }
            looking.set(false);
        }
    }

    /** Each look begins with another one, so that those that take long keep no other from its turn for ever. */
    private List<Rest> oneAfterTheOther(List<Transacting.Left> found) {
        long until = System.nanoTime() + LOOK_NANOS;
        List<Rest> still = new ArrayList<>();
        for (int i = 0; i < found.size(); i++) {
            String request = found.get((first + i) % found.size()).request();
            boolean over = closing.getAsBoolean() || System.nanoTime() - until > 0;
            if (over) {
                first = (first + i) % found.size();
                still.add(new Rest(request, "It has not had its turn yet."));
            } else {
                one(request).ifPresent(still::add);
            }
        }
        return still;
    }

    /** @return what of it is left still; empty where nothing is, or a run is at it */
    private Optional<Rest> one(String request) {
        if (!following.takeFree(request)) {
            return Optional.empty();
        }
        try {
            // Whoever had it meanwhile may have done it.
            Told now = database.told(design.id(), request).orElse(new Told(0, "", ""));
            Optional<List<Todo>> known = following.leftOf(request);
            List<Todo> todo = known.orElseGet(() -> Todo.read(now.todo()));
            if (todo.isEmpty()) {
                known.ifPresent(none -> noteNone(request, now));
                return Optional.empty();
            }
            Instant begun = clock.now();
            Instant at = Todo.at(now.todo()).orElse(begun);
            Following.Ended ended = following.done(todo, request, Optional.of(at), Optional.empty(), System.nanoTime());
            boolean done = ended.left().isEmpty();
            if (ended.left().size() < todo.size()) {
                Told then = new Told(
                        done && ended.refused().isEmpty()
                                ? design.answer().done()
                                : design.answer().but(),
                        done && now.code() == design.answer().but() ? "" : now.text(),
                        Todo.written(ended.left(), at));
                following.notNoted(request, ended.left());
                database.followed(design.id(), request, then);
                following.noted(request);
                told.accept(run(request, at, begun, ended));
            }
            return done ? Optional.empty() : Optional.of(new Rest(request, String.join(" ", ended.refused())));
        } catch (StoreProblem | RuntimeException no) {
            return Optional.of(new Rest(request, no.getMessage() == null ? Threads.words(no) : no.getMessage()));
        } finally {
            following.giveBack(request);
        }
    }

    /** All of it is done, and its mark did not know. */
    private void noteNone(String request, Told now) {
        try {
            if (!now.todo().isEmpty()) {
                database.followed(design.id(), request, new Told(now.code(), now.text(), ""));
            }
            following.noted(request);
        } catch (StoreProblem away) {
            throw new IllegalStateException(away.getMessage(), away);
        }
    }

    private Run run(String request, Instant at, Instant begun, Following.Ended ended) {
        return new Run(
                ids.get(),
                design.id(),
                design.name(),
                at,
                begun,
                "what was left of " + request,
                "",
                ended.refused().isEmpty() ? Outcome.DONE : Outcome.DONE_BUT,
                java.time.Duration.between(begun, clock.now()).toMillis(),
                1,
                Map.of(),
                ended.steps(),
                String.join(" ", ended.refused()),
                0,
                "",
                "",
                Map.of());
    }

    /**
     * A person decides that what is left of a run is not done any more.
     *
     * @throws IllegalArgumentException with a sentence, where that cannot be noted
     */
    void letBe(String request, String who) {
        if (!following.takeFree(request)) {
            throw new IllegalArgumentException("It is being done just now. Look again in a moment.");
        }
        try {
            Told now = database.told(design.id(), request)
                    .orElseThrow(() -> new IllegalArgumentException("There is no such run."));
            List<Todo> todo = Todo.read(now.todo());
            if (todo.isEmpty()) {
                return;
            }
            database.followed(design.id(), request, new Told(now.code(), now.text(), ""));
            following.noted(request);
            Instant at = clock.now();
            told.accept(run(
                    request,
                    Todo.at(now.todo()).orElse(at),
                    at,
                    new Following.Ended(
                            List.of(),
                            List.of("Let be by " + who + ": what follows the commit is not done."),
                            List.of())));
        } catch (StoreProblem away) {
            throw new IllegalArgumentException(away.getMessage(), away);
        } finally {
            following.giveBack(request);
            now();
        }
    }

    List<Rest> rest() {
        return rest;
    }

    /** What is not done, or not known, in a sentence; empty where nothing is left. */
    String trouble() {
        boolean mayLeave = design.steps().stream().anyMatch(Step::afterCommit)
                || design.other().isPresent()
                || !followers.get().isEmpty();
        if (!blind.isEmpty() && mayLeave) {
            return blind;
        }
        List<Rest> now = rest;
        return now.isEmpty()
                ? ""
                : (now.size() == 1 ? "One run has" : now.size() + " runs have")
                        + " something to do yet that follows its commit. "
                        + now.get(0).why();
    }
}
