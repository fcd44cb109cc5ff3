package dachshund.office.work;

import dachshund.core.work.Progress;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Something that takes its time: what it is, who began it, how far it is, what came of it. Known until the application ends. */
public final class Work implements Progress {

    private static final Logger LOG = LoggerFactory.getLogger(Work.class);

    /** How work stands. */
    public enum State {
        WAITING("Waits for its turn"),
        RUNNING("Under way"),
        DONE("Done"),
        ENDED("Ended by a person"),
        FAILED("Broke off");

        private final String words;

        State(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        public boolean over() {
            return this != WAITING && this != RUNNING;
        }
    }

    /**
     * What came of it.
     *
     * @param sentence what a person is told
     * @param went     whether that is what was wanted
     * @param page     the page to go on from
     */
    public record Outcome(String sentence, boolean went, String page) {}

    /**
     * How far it is.
     *
     * @param of     0 where nobody knows
     * @param mayEnd whether it can be ended now without leaving anything half done
     */
    public record Step(String words, long done, long of, boolean mayEnd) {}

    private final String id;
    private final String title;
    private final String by;
    private final String page;
    private final Instant begun;

    private volatile Step step = new Step("", 0, 0, true);
    private volatile boolean wanted = true;
    private volatile boolean looked;
    private volatile State state = State.WAITING;
    private volatile Optional<Outcome> outcome = Optional.empty();
    private volatile Optional<Throwable> problem = Optional.empty();

    /** @param page where it was begun, to go back to */
    Work(String id, String title, String by, String page, Instant begun) {
        this.id = id;
        this.title = title;
        this.by = by;
        this.page = page;
        this.begun = begun;
    }

    public String id() {
        return id;
    }

    public String title() {
        return title;
    }

    public String by() {
        return by;
    }

    /** The page to go on from. */
    public String page() {
        return outcome.map(Outcome::page).orElse(page);
    }

    public Instant begun() {
        return begun;
    }

    public State state() {
        return state;
    }

    public Step step() {
        return step;
    }

    public Optional<Outcome> outcome() {
        return outcome;
    }

    /** Why it broke off. */
    public Optional<Throwable> problem() {
        return problem;
    }

    /** Whether who began it has seen its end. */
    public boolean looked() {
        return looked;
    }

    public void look() {
        looked = looked || state.over();
    }

    /** Whether somebody has asked for its end. */
    public boolean ending() {
        return !wanted;
    }

    /** Asks for the end; it comes where nothing is half done, and not at all where the rest is short. */
    public void end() {
        wanted = false;
    }

    @Override
    public void step(String words, long of, boolean mayEnd) {
        if (step.mayEnd) {
            endWhereAsked();
        }
        step = new Step(words, 0, of, mayEnd);
    }

    @Override
    public void done(long n) {
        Step now = step;
        step = new Step(now.words, n, now.of, now.mayEnd);
        if (now.mayEnd) {
            endWhereAsked();
        }
    }

    private void endWhereAsked() {
        if (!wanted) {
            throw new Ended();
        }
    }

    void run(Works.Body body) {
        try {
            endWhereAsked();
            state = State.RUNNING;
            outcome = Optional.of(body.run(this));
            state = State.DONE;
        } catch (Ended ended) {
            state = State.ENDED;
        } catch (Exception | Error broke) {
            problem = Optional.of(broke);
            state = State.FAILED;
            LOG.warn("{}, begun by {}, broke off: {}", title, by, Threads.words(broke));
        }
    }
}
