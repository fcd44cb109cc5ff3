package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Known;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.Prepared;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Session.Told;
import dachshund.core.transaction.StepFailed;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.engine.answer.Answering;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.local.Intents;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicReference;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;

/**
 * One run from its trigger to its answer. The mark of the request decides whether it is done: it goes first into the same
 * transaction, and whoever comes again finds it there, or waits until it is sure that it is not. What follows the commit stands in
 * the mark until it is done. Carried out by one thread; {@link #breakOff} comes from another.
 */
final class OneRun {

    private static final long ASK_AGAIN_NANOS = 1_000_000_000L;

    /** Of a commit: the database says that it did not. Whatever else it says leaves that open. */
    static final Set<Kind> NOT_COMMITTED = Set.of(Kind.CLASHED, Kind.CONTENT, Kind.DUPLICATE);

    private enum State {
        /** Nothing is committed, and can still be given up. */
        OPEN,
        /** The commit was sent: what became of it is for the database to say. */
        COMMITTING,
        /** It was given up and answered by somebody else. */
        GIVEN_UP
    }

    private final TransactionDefinition design;
    private final Trigger trigger;
    private final Around around;
    private final AtomicReference<State> state = new AtomicReference<>(State.OPEN);
    private final Instant begun;
    private final long from = System.nanoTime();
    private final List<StepRun> steps = new CopyOnWriteArrayList<>();
    private volatile Map<String, Run.Read> snapshot = Map.of();
    private volatile Map<String, Object> last = Map.of();
    private volatile Session session;
    private volatile Second second;
    private volatile GatheredNow gathered;
    private volatile String waits = "";
    private volatile int tries;
    private volatile boolean passing;
    /**
     * It may be done, and the database has to say: a commit was sent and not answered, or somebody may have begun it before, as
     * the application of before a death has. As long as it is so, the plant is told nothing.
     */
    private boolean uncertain;

    /** Whether what follows its commit is its own to do; of its thread alone, as the next. */
    private boolean follows;

    /** Whether it was this run that sent a commit. */
    private boolean committedHere;

    /**
     * What runs of one transaction have in common.
     *
     * @param equipment that it is about
     * @param other     the other database; empty where rows are changed in one alone
     * @param reading   rows of databases that are only read
     * @param followers ids of transactions that are done after this one
     * @param ids       a new one for each run in the ledger
     * @param closing   whether the application stops: what waits then is left as it is
     */
    record Around(
            Prepared prepared,
            OnEquipment equipment,
            Transacting database,
            Optional<Transacting> other,
            Execution.Doors reading,
            PlantSide plant,
            Following following,
            Supplier<List<String>> followers,
            Past past,
            Intents intents,
            PlantClock clock,
            Supplier<String> ids,
            String site,
            BooleanSupplier closing) {}

    OneRun(TransactionDefinition design, Trigger trigger, Around around) {
        this.design = design;
        this.trigger = trigger;
        this.around = around;
        this.begun = around.clock().now();
        this.uncertain = design.mark() && !trigger.sure();
        if (uncertain) {
            state.set(State.COMMITTING);
        }
    }

    /** Of its transaction. */
    String name() {
        return design.name();
    }

    Trigger trigger() {
        return trigger;
    }

    /** What it has gathered; empty where it did not come to that. */
    Optional<GatheredNow> gathered() {
        return Optional.ofNullable(gathered);
    }

    /** Whether it failed for a reason that passes by itself. */
    boolean passing() {
        return passing;
    }

    /** What it waits for, in a sentence; empty where it is at work. */
    String waits() {
        return waits;
    }

    private long left() {
        return design.policy().limit().toNanos() - (System.nanoTime() - from);
    }

    /**
     * Gives it up where its time is over and nothing is committed.
     *
     * @return how it ended then, answer included; empty where it goes on, or has ended by itself
     */
    Optional<Run> breakOff() {
        if (left() > 0 || !state.compareAndSet(State.OPEN, State.GIVEN_UP)) {
            return Optional.empty();
        }
        passing = true;
        Session now = session;
        if (now != null) {
            now.breakOff();
        }
        Second other = second;
        if (other != null) {
            other.breakOff();
        }
        return Optional.of(failed(late()));
    }

    boolean isLate() {
        return left() <= 0 && state.get() == State.OPEN;
    }

    private String late() {
        return "It did not end within " + PeriodText.write(design.policy().limit()) + " and was broken off.";
    }

    /** It is not carried out at all, and the plant is told why. */
    Run refuse(String why) {
        state.set(State.GIVEN_UP);
        Run failed = failed(why);
        return run(Outcome.DROPPED, why, failed.code(), failed.text(), failed.answered());
    }

    /**
     * Carries it out.
     *
     * @return how it ended; empty where somebody else gave it up
     */
    Optional<Run> carryOut() {
        boolean intent = false;
        Optional<Run> ended;
        try {
            Map<String, Object> values = gather();
            if (uncertain) {
                takeFollowing();
            }
            if (!design.mark() && trigger.once()) {
                intent = around.intents().begin(design.id(), trigger.identity(), begun);
                if (!intent) {
                    return Optional.of(run(
                            Outcome.UNCERTAIN,
                            "This request was begun before, and it is not known how that ended. A person has to say.",
                            0,
                            "",
                            ""));
                }
            }
            ended = tried(values);
        } catch (Failed no) {
            ended = state.get() == State.GIVEN_UP ? Optional.empty() : Optional.of(failed(no.getMessage()));
        } catch (RuntimeException | Error thrown) {
            Threads.report(thrown);
            String why = "Unexpectedly: " + Threads.words(thrown);
            ended = switch (state.get()) {
                case GIVEN_UP -> Optional.empty();
                case COMMITTING -> Optional.of(run(Outcome.UNCERTAIN, why, 0, "", ""));
                case OPEN -> Optional.of(failed(why));
            };
        } finally {
            giveBackFollowing();
        }
        if (intent && ended.map(run -> run.outcome() != Outcome.UNCERTAIN).orElse(true)) {
            around.intents().ended(design.id(), trigger.identity());
        }
        return ended;
    }

    private static final class Failed extends Exception {
        private static final long serialVersionUID = 1;

        Failed(String sentence) {
            super(sentence);
        }
    }

    private Map<String, Object> gather() throws Failed {
        GatheredNow now = trigger.gathered().orElseGet(() -> GatheredNow.of(design, trigger, around));
        gathered = now;
        snapshot = new LinkedHashMap<>(now.snapshot());
        if (!now.problem().isEmpty()) {
            throw new Failed(now.problem());
        }
        return now.values();
    }

    /** One try after the other, until it is known how it ended. */
    private Optional<Run> tried(Map<String, Object> first) throws Failed {
        while (true) {
            tries++;
            steps.clear();
            Values values = new Values(around.prepared(), trigger.at());
            first.forEach(values::put);
            StoreProblem problem;
            Optional<Kind> kind;
            String why;
            try {
                return Optional.of(once(values));
            } catch (StepFailed no) {
                why = "Step " + no.step().name() + ": " + no.getMessage();
                kind = no.kind();
            } catch (StoreProblem no) {
                problem = no;
                why = problem.getMessage();
                kind = Optional.of(problem.kind());
            } catch (Unknown open) {
                uncertain = true;
                committedHere = true;
                why = open.getMessage();
                kind = Optional.of(Kind.AWAY);
                if (!design.mark()) {
                    return Optional.of(run(Outcome.UNCERTAIN, why, 0, "", ""));
                }
            } catch (RuntimeException driver) {
                Threads.report(driver);
                why = "Unexpectedly: " + Threads.words(driver) + ".";
                kind = Optional.empty();
            } finally {
                last = values.all();
                session = null;
                second = null;
            }
            if (state.get() == State.GIVEN_UP) {
                return Optional.empty();
            }
            if (around.closing().getAsBoolean()) {
                if (uncertain) {
                    // The plant is told nothing; the next start finds the request, and the mark or none.
                    return Optional.of(
                            run(Outcome.UNCERTAIN, "The application stopped before it was known. " + why, 0, "", ""));
                }
                throw new Failed(why);
            }
            if (uncertain) {
                waits = "It is not known whether " + words() + " is done; the database is asked until it says. " + why;
                LockSupport.parkNanos(ASK_AGAIN_NANOS);
                continue;
            }
            boolean again = kind.filter(Following.PASSING::contains).isPresent()
                    && tries <= design.policy().retries()
                    && left() > design.policy().pause().toNanos();
            if (!again) {
                passing = kind.filter(Following.PASSING::contains).isPresent();
                throw new Failed(why);
            }
            waits = "Tried again: " + why;
            LockSupport.parkNanos(Math.max(1, design.policy().pause().toNanos()));
        }
    }

    private String words() {
        return trigger.origin() != Trigger.Origin.NONE
                ? trigger.why()
                : trigger.asked() ? "request " + Values.words(trigger.number()) : "the run";
    }

    /** The database did not say whether it has committed. */
    private static final class Unknown extends Exception {
        private static final long serialVersionUID = 1;

        Unknown(StoreProblem problem) {
            super(problem.getMessage(), problem);
        }
    }

    private Run once(Values values) throws StepFailed, StoreProblem, Unknown, Failed {
        // While it is open, it is broken off from outside when its time is over; later nobody may do that.
        Duration limit = uncertain ? design.policy().limit() : Duration.ZERO;
        try (Second other = around.other()
                .map(each -> new Second(each, design, trigger.identity(), limit))
                .orElse(null)) {
            second = other;
            return once(values, limit, Optional.ofNullable(other));
        }
    }

    private Run once(Values values, Duration limit, Optional<Second> other)
            throws StepFailed, StoreProblem, Unknown, Failed {
        Optional<Committed> committed = committed(values, limit, other);
        if (committed.isEmpty()) {
            return already();
        }
        last = values.all();
        return followed(committed.get().told(), committed.get().todo(), other, Outcome.DONE);
    }

    /** What was committed here, and what follows it. */
    private record Committed(Told told, List<Todo> todo) {}

    /** @return empty where it was done before, and how it is answered has to be read */
    private Optional<Committed> committed(Values values, Duration limit, Optional<Second> other)
            throws StepFailed, StoreProblem, Unknown, Failed {
        try (Session now = begin(limit)) {
            session = now;
            if (design.mark() && !now.claim(design.id(), trigger.identity())) {
                if (!uncertain && !state.compareAndSet(State.OPEN, State.COMMITTING)) {
                    throw new Failed(late());
                }
                uncertain = true;
                return Optional.empty();
            }
            if (uncertain) {
                // Nobody has claimed it, so it was never committed.
                uncertain = false;
                state.set(State.OPEN);
                if (left() <= 0) {
                    throw new Failed("It was not known in time whether it is done. The database has nothing of it.");
                }
            }
            waits = "";
            lookBack(now, values);
            List<Todo> todo = new ArrayList<>(new Execution(
                            design,
                            around.prepared(),
                            around.reading()
                                    .changingIn(() -> other.orElseThrow().begun()),
                            values,
                            System::nanoTime)
                    .within(now, steps::add));
            around.followers().get().forEach(each -> todo.add(new Todo.Begin(each, values.all())));
            Told told = new Told(design.answer().done(), doneText(values), written(todo));
            if (design.mark()) {
                now.tell(design.id(), trigger.identity(), told);
            }
            if (goesOn()) {
                now.leave(design.id(), Past.LAST_RUN, trigger.at().toString());
            }
            if (!state.compareAndSet(State.OPEN, State.COMMITTING)) {
                throw new Failed(late());
            }
            if (!todo.isEmpty()) {
                takeFollowing();
            }
            commit(now);
            return Optional.of(new Committed(told, todo));
        }
    }

    private String written(List<Todo> todo) throws Failed {
        try {
            return Todo.written(todo, around.clock().now());
        } catch (IllegalArgumentException tooMuch) {
            throw new Failed(tooMuch.getMessage());
        }
    }

    /** From the commit on, and as long as it is not known what became of it. */
    private void takeFollowing() {
        if (!follows) {
            if (!around.following().takeFree(trigger.identity())) {
                waits = "Somebody else is doing what follows the commit of " + words() + ".";
                around.following().take(trigger.identity());
                waits = "";
            }
            follows = true;
        }
    }

    private void giveBackFollowing() {
        if (follows) {
            follows = false;
            around.following().giveBack(trigger.identity());
        }
    }

    /** One that is done again with what it had has taken nothing of the time since. */
    private boolean goesOn() {
        return design.gathers().stream()
                .anyMatch(each -> each.over()
                                .filter(over -> over.since() == Over.Since.LAST_RUN)
                                .isPresent()
                        && !trigger.given().containsKey(each.name()));
    }

    /** What is computed of the time before; in the transaction, so that what went on from the last run is taken once. */
    private void lookBack(Session now, Values values) throws StoreProblem, Failed {
        if (design.histories().isEmpty()) {
            return;
        }
        Map<String, Object> past = new LinkedHashMap<>();
        Map<String, Run.Read> read = new LinkedHashMap<>(snapshot);
        String problem = around.past()
                .into(
                        design,
                        trigger.at(),
                        trigger.given().keySet(),
                        () -> Past.read(now.left(design.id(), Past.LAST_RUN)),
                        past,
                        read);
        snapshot = read;
        if (!problem.isEmpty()) {
            throw new Failed(problem);
        }
        past.forEach(values::put);
    }

    /** Where there is no table of marks, and none can be made, nothing was ever done with one. */
    private Session begin(Duration limit) throws StoreProblem, Failed {
        try {
            return around.database().begin(design.isolation(), design.mark(), limit);
        } catch (StoreProblem problem) {
            if (uncertain && !committedHere && problem.kind() == Kind.TABLE) {
                uncertain = false;
                state.set(State.OPEN);
                throw new Failed(problem.getMessage());
            }
            throw problem;
        }
    }

    private void commit(Session now) throws StoreProblem, Unknown {
        try {
            now.commit();
        } catch (StoreProblem problem) {
            if (NOT_COMMITTED.contains(problem.kind())) {
                state.set(State.OPEN);
                throw problem;
            }
            throw new Unknown(problem);
        } catch (RuntimeException driver) {
            Threads.report(driver);
            throw new Unknown(new StoreProblem(
                    Kind.UNKNOWN, -1, "The commit failed unexpectedly: " + Threads.words(driver) + ".", driver));
        }
    }

    private String doneText(Values values) throws Failed {
        if (design.answer().doneText().isBlank()) {
            return "";
        }
        try {
            return cut(Values.words(values.of(design.answer().doneText())));
        } catch (FormulaProblem problem) {
            throw new Failed("The text of the answer: " + problem.getMessage());
        }
    }

    private static String cut(String text) {
        return text.length() > Answer.LONGEST_TEXT ? text.substring(0, Answer.LONGEST_TEXT) : text;
    }

    /** It stands in the database, by this run or by one before. */
    private Run already() throws StoreProblem, Failed {
        takeFollowing();
        Told told = around.database()
                .told(design.id(), trigger.identity())
                .orElseThrow(() -> new StoreProblem(
                        Kind.CLASHED, -1, "Somebody else was doing this request and gave it up at this moment.", null));
        List<Todo> todo = around.following().leftOf(trigger.identity()).orElseGet(() -> Todo.read(told.todo()));
        return followed(told, todo, Optional.empty(), committedHere ? Outcome.DONE : Outcome.ALREADY);
    }

    /** What follows the commit, and then the answer. */
    private Run followed(Told told, List<Todo> todo, Optional<Second> other, Outcome outcome) {
        waits = "";
        Following.Ended ended = around.following()
                .done(todo, trigger.identity(), Optional.empty(), other, System.nanoTime() + Math.max(0, left()));
        ended.steps().forEach(this::became);
        boolean but = !ended.refused().isEmpty();
        Told after = but
                ? new Told(
                        design.answer().but(),
                        cut("Done, but: " + ended.refused().get(0)),
                        "")
                : told;
        String reason = String.join(" ", ended.refused());
        if (design.mark() && !todo.isEmpty()) {
            try {
                String rest = Todo.written(ended.left(), around.clock().now());
                around.database().followed(design.id(), trigger.identity(), new Told(after.code(), after.text(), rest));
                around.following().noted(trigger.identity());
            } catch (StoreProblem | RuntimeException problem) {
                // It is committed, whatever is thrown here: the plant is told.
                around.following().leaves();
                around.following().notNoted(trigger.identity(), ended.left());
                reason = (reason
                                + " What followed the commit is done; that it is could not be noted, and it may be done again after a stop. "
                                + problem.getMessage())
                        .strip();
            }
        }
        giveBackFollowing();
        if (!ended.left().isEmpty()) {
            around.following().leaves();
        }
        other.ifPresent(Second::close);
        return run(
                but ? Outcome.DONE_BUT : outcome,
                reason,
                after.code(),
                after.text(),
                answer(after.code(), after.text()));
    }

    /** What became of a step after the commit stands in the place of what became of it before. */
    private void became(StepRun now) {
        for (int i = 0; i < steps.size(); i++) {
            if (steps.get(i).name().equals(now.name())) {
                StepRun was = steps.get(i);
                steps.set(
                        i,
                        new StepRun(
                                was.name(),
                                now.fate(),
                                was.statement(),
                                was.values(),
                                was.rows(),
                                was.micros() + now.micros(),
                                now.said()));
                return;
            }
        }
        steps.add(now);
    }

    /** What it knew in the end, by name. */
    Map<String, Object> values() {
        return last;
    }

    private Run failed(String why) {
        String text = cut(why);
        return run(
                Outcome.FAILED,
                why,
                design.answer().failed(),
                text,
                answer(design.answer().failed(), text));
    }

    private String answer(long code, String text) {
        Answering.Into into = new Answering.Into(
                design.name(),
                design.request(),
                design.answer().code(),
                design.answer().text());
        return new Answering(into, trigger.number(), around.plant(), around.closing())
                .give(
                        code,
                        text,
                        why -> waits = why.isEmpty() ? "" : "The answer to " + words() + " cannot be given: " + why);
    }

    private Run run(Outcome outcome, String reason, long code, String text, String answered) {
        Map<String, String> keys = new LinkedHashMap<>();
        for (String key : design.keys()) {
            last.entrySet().stream()
                    .filter(each -> each.getKey().equalsIgnoreCase(key) && each.getValue() != null)
                    .findFirst()
                    .map(each -> Values.words(each.getValue()))
                    .or(() -> Optional.ofNullable(snapshot.get(key)).map(Run.Read::value))
                    .ifPresent(value -> keys.put(key, value));
        }
        if (!trigger.request().isEmpty()) {
            keys.put(Known.REQUEST, trigger.request());
        }
        return new Run(
                around.ids().get(),
                design.id(),
                design.name(),
                trigger.at(),
                begun,
                trigger.why(),
                trigger.request().isEmpty() ? "" : trigger.identity(),
                outcome,
                Duration.between(trigger.at(), around.clock().now()).toMillis(),
                tries,
                snapshot,
                reached(),
                reason,
                code,
                text,
                answered,
                keys);
    }

    /** Steps that it did not come to stand there, too. */
    private List<StepRun> reached() {
        List<StepRun> all = new ArrayList<>(steps);
        design.steps().stream()
                .filter(step -> steps.stream().noneMatch(done -> done.name().equals(step.name())))
                .forEach(step -> all.add(new StepRun(step.name(), StepRun.Fate.NOT_REACHED, "", Map.of(), -1, 0, "")));
        return all;
    }
}
