package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Session.Told;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.StepRun.Fate;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;

/**
 * Does what follows the commit of a run, in order. One that is refused does not keep the others from being done; what has to be
 * done and cannot be now is left. Each run's is done by one thread at a time.
 */
final class Following {

    /** A command to the plant that is older than this is not given any more: things have gone on. */
    static final Duration OLD = Duration.ofMinutes(10);

    static final Set<Kind> PASSING = Set.of(Kind.AWAY, Kind.BUSY, Kind.CLASHED);

    private static final int MOST_UNNOTED = 1000;
    private static final long AGAIN_NANOS = 1_000_000_000L;
    private static final long TURN_NANOS = 20_000_000L;

    private final TransactionDefinition design;
    private final PlantSide plant;
    private final Beyond beyond;
    private final PlantClock clock;
    private final BooleanSupplier closing;
    private final AtomicBoolean left = new AtomicBoolean();
    private final Set<String> busy = ConcurrentHashMap.newKeySet();

    /** What is left of runs of which that could not be noted: what was done of them is not done again, as long as this runs. */
    private final Map<String, List<Todo>> unnoted = new ConcurrentHashMap<>();

    /** What lies beyond the plant and the transaction's own database. From any thread. */
    interface Beyond {

        /** @throws RuntimeException with a sentence, where it cannot be reached */
        Transacting database(String id);

        /** @throws IllegalArgumentException with a sentence, where the line was not written */
        void append(Todo.Append line);

        /**
         * Lets another transaction be done after this one; it is on disk then.
         *
         * @param identity of the run that it follows
         * @throws IllegalArgumentException with a sentence, where it cannot be
         */
        void begin(Todo.Begin next, TransactionDefinition after, String identity);
    }

    /**
     * What became of it.
     *
     * @param steps   of each that was done here
     * @param refused why something is not done, in sentences
     * @param left    what has to be done yet
     */
    record Ended(List<StepRun> steps, List<String> refused, List<Todo> left) {}

    /** @param closing whether the application stops: nothing is waited for then */
    Following(TransactionDefinition design, PlantSide plant, Beyond beyond, PlantClock clock, BooleanSupplier closing) {
        this.design = design;
        this.plant = plant;
        this.beyond = beyond;
        this.clock = clock;
        this.closing = closing;
    }

    /** What follows this run is done by the caller alone, until it is given back. */
    void take(String identity) {
        while (!busy.add(identity)) {
            LockSupport.parkNanos(TURN_NANOS);
        }
    }

    /** A run has left something that has to be done yet. */
    void leaves() {
        left.set(true);
    }

    /** Whether one has, since this was asked for last. */
    boolean hasLeft() {
        return left.getAndSet(false);
    }

    /** What is left of a run could not be noted in its mark. */
    void notNoted(String identity, List<Todo> left) {
        if (unnoted.size() < MOST_UNNOTED) {
            unnoted.put(identity, List.copyOf(left));
        }
    }

    /** What is left of a run, where its mark does not know it. */
    Optional<List<Todo>> leftOf(String identity) {
        return Optional.ofNullable(unnoted.get(identity));
    }

    /** Its mark knows. */
    void noted(String identity) {
        unnoted.remove(identity);
    }

    /** The same where nobody else has it. */
    boolean takeFree(String identity) {
        return busy.add(identity);
    }

    void giveBack(String identity) {
        busy.remove(identity);
    }

    /**
     * Does it.
     *
     * @param at     when it came to be; empty for now
     * @param second in which changes of the other database are not committed yet; empty where nothing holds them
     * @param until  by {@link System#nanoTime}, how long what fails for a passing reason is tried again
     */
    Ended done(List<Todo> todo, String identity, Optional<Instant> at, Optional<Second> second, long until) {
        List<StepRun> steps = new ArrayList<>();
        List<String> refused = new ArrayList<>();
        List<Todo> left = new ArrayList<>();
        List<Todo.Change> changes = todo.stream()
                .filter(Todo.Change.class::isInstance)
                .map(Todo.Change.class::cast)
                .toList();
        if (!changes.isEmpty()) {
            long from = System.nanoTime();
            String why = changed(changes, identity, second, until);
            for (Todo.Change each : changes) {
                steps.add(step(
                        each,
                        why.isEmpty() ? Fate.DONE : Fate.FAILED,
                        each.sql(),
                        from,
                        why.isEmpty()
                                ? "Committed in the other database."
                                : "Not committed in the other database: " + why));
            }
            if (!why.isEmpty()) {
                refused.add("What it changes in the other database is not there yet, and is done as soon as it can be: "
                        + why);
                left.addAll(changes);
            }
        }
        todo.stream().filter(each -> !(each instanceof Todo.Change)).forEach(each -> {
            long from = System.nanoTime();
            Fate fate = Fate.DONE;
            String said;
            try {
                said = one(each, identity, at);
            } catch (RuntimeException no) {
                fate = Fate.FAILED;
                boolean told = no instanceof IllegalArgumentException || no instanceof IllegalStateException;
                said = told && no.getMessage() != null ? no.getMessage() : "Unexpectedly: " + Threads.words(no);
                refused.add((each.step().isEmpty() ? "" : "Step " + each.step() + ": ") + said);
                if (each.keeps() && !(no instanceof IllegalArgumentException)) {
                    left.add(each);
                }
            }
            if (!each.step().isEmpty()) {
                steps.add(step(each, fate, "", from, said));
            }
        });
        return new Ended(steps, refused, left);
    }

    private static StepRun step(Todo of, Fate fate, String statement, long from, String said) {
        Map<String, String> carries = of instanceof Todo.Change ? Map.of() : of.carries();
        return new StepRun(of.step(), fate, statement, carries, -1, (System.nanoTime() - from) / 1000, said);
    }

    /** @return what is to be said of it */
    private String one(Todo each, String identity, Optional<Instant> at) {
        if (each instanceof Todo.Write write) {
            at.map(since -> Duration.between(since, clock.now()))
                    .filter(age -> age.compareTo(OLD) > 0)
                    .ifPresent(age -> {
                        throw new IllegalArgumentException("It was to be written " + PeriodText.roughly(age)
                                + " ago, and is not written any more.");
                    });
            return "Read back: " + plant.write(write.tag(), write.value(), write.tolerance(), design.name());
        }
        if (each instanceof Todo.Publish publish) {
            plant.publish(publish.source(), publish.topic(), publish.payload(), publish.retained());
            return "The broker has taken it.";
        }
        if (each instanceof Todo.Append append) {
            beyond.append(append);
            return "Written.";
        }
        beyond.begin((Todo.Begin) each, design, identity);
        return "";
    }

    /** @return why it is not committed; empty where it is */
    private String changed(List<Todo.Change> changes, String identity, Optional<Second> second, long until) {
        boolean first = second.isPresent();
        while (true) {
            String why;
            boolean passing;
            try {
                if (first) {
                    first = false;
                    second.get().commit();
                } else {
                    anew(changes, identity);
                }
                return "";
            } catch (StoreProblem problem) {
                why = problem.getMessage();
                // Of a commit nobody knows; the mark in the other database does.
                passing = PASSING.contains(problem.kind()) || problem.kind() == Kind.UNKNOWN;
            } catch (QueryProblem problem) {
                why = problem.getMessage();
                passing = false;
            } catch (RuntimeException driver) {
                Threads.report(driver);
                why = "Unexpectedly: " + Threads.words(driver) + ".";
                passing = true;
            }
            boolean over = System.nanoTime() + AGAIN_NANOS - until > 0;
            if (!passing || over || closing.getAsBoolean()) {
                return why;
            }
            second.ifPresent(Second::close);
            LockSupport.parkNanos(AGAIN_NANOS);
        }
    }

    private void anew(List<Todo.Change> changes, String identity) throws StoreProblem, QueryProblem {
        Transacting database = beyond.database(changes.get(0).database());
        try (Session session =
                database.begin(design.isolation(), true, design.policy().limit())) {
            if (!session.claim(design.id(), identity)) {
                return; // it stands there
            }
            for (Todo.Change each : changes) {
                QueryText text = QueryText.change(each.sql());
                for (List<Object> values : each.bound()) {
                    session.change(text, values.stream().map(Values::bound).toList());
                }
            }
            session.tell(design.id(), identity, new Told(design.answer().done(), "", ""));
            session.commit();
        }
    }
}
