package dachshund.links.network;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;

/**
 * What every link does to be connected: one connection at a time, and the next after a pause that grows from 1 s to 30 s,
 * until it is closed. An attempt that does not come to an end is given up, and what it may still bring is let go of. Nothing
 * is carried over from one connection to the next, so there is no state to get wrong. Never asks for a connection, puts one
 * to work or closes one with a lock held. Safe for use by many threads.
 *
 * @param <C> a connection
 */
public final class Reconnecting<C> {

    private static final long ATTEMPT_SECONDS = 30;

    private final Object lock = new Object();
    private final GrowingPause pause = new GrowingPause();
    private final String place;
    private final Making<C> making;
    private PlantLink.Listener listener;
    private ScheduledExecutorService work;
    private Attempt<C> now;
    private boolean closed;

    /** How connections are made. */
    public interface Making<C> {

        /**
         * Connects; may take a while, not for ever.
         *
         * @param lost told in words when it breaks, from any thread and at any moment
         * @throws LinkProblem with a sentence
         */
        C open(Consumer<String> lost) throws LinkProblem;

        /**
         * Puts a fresh connection to work.
         *
         * @return what is said of it; empty where the link says itself how it stands
         * @throws LinkProblem with a sentence; the connection is closed then
         */
        String begin(C fresh) throws LinkProblem;

        /** Afterwards, when that it is at work was said. */
        default void atWork(C connection) {}

        /** Lets go of one, without a word. */
        void close(C connection);
    }

    /** One attempt and the connection that came of it; guarded by the lock. */
    private static final class Attempt<C> {
        private C connection;
        private boolean settled;
        private boolean over;
    }

    /** @param place for sentences */
    public Reconnecting(String place, Making<C> making) {
        this.place = place;
        this.making = making;
    }

    /** Begins. Called once. */
    public void start(PlantLink.Listener heard, ScheduledExecutorService pool) {
        synchronized (lock) {
            listener = heard;
            work = pool;
        }
        pool.execute(this::connect);
    }

    private void connect() {
        Attempt<C> attempt = new Attempt<>();
        synchronized (lock) {
            if (closed || now != null && !now.over) {
                return;
            }
            now = attempt;
        }
        schedule(() -> giveUp(attempt), Duration.ofSeconds(ATTEMPT_SECONDS));
        if (pause.first()) {
            listener.onState(LinkState.CONNECTING, "Connecting to " + place + ".");
        }
        try {
            C fresh = making.open(sentence -> end(attempt, sentence));
            if (!taken(attempt, fresh)) {
                letGo(fresh);
                return;
            }
            String said = making.begin(fresh);
            if (!settled(attempt)) {
                return; // lost meanwhile, and tried again
            }
            if (!said.isEmpty()) {
                listener.onState(LinkState.CONNECTED, said);
            }
            making.atWork(fresh);
        } catch (LinkProblem problem) {
            end(attempt, problem.getMessage());
        } catch (RuntimeException | Error unexpected) {
            end(attempt, "Connecting to " + place + " failed in a way that nobody expected: " + unexpected + ".");
        }
    }

    private boolean taken(Attempt<C> attempt, C fresh) {
        synchronized (lock) {
            if (closed || attempt.over) {
                return false;
            }
            attempt.connection = fresh;
            return true;
        }
    }

    private boolean settled(Attempt<C> attempt) {
        synchronized (lock) {
            attempt.settled = !attempt.over;
            return attempt.settled;
        }
    }

    private void giveUp(Attempt<C> attempt) {
        synchronized (lock) {
            if (attempt.settled) {
                return;
            }
        }
        end(attempt, "Connecting to " + place + " did not come to an end within " + ATTEMPT_SECONDS + " s.");
    }

    /** An attempt ends once: it failed, or what came of it broke. */
    private void end(Attempt<C> attempt, String sentence) {
        C broken;
        synchronized (lock) {
            if (closed || attempt.over) {
                return;
            }
            attempt.over = true;
            broken = attempt.connection;
        }
        Duration next = pause.next();
        schedule(this::connect, next); // first, so that it is tried again whatever is thrown here
        letGo(broken);
        listener.onState(LinkState.AWAY, sentence + " Trying again in " + PeriodText.write(next) + ".");
    }

    /** One that does not even let itself be closed is of no interest any more. */
    private void letGo(C connection) {
        if (connection == null) {
            return;
        }
        try {
            making.close(connection);
        } catch (RuntimeException | Error stubborn) {
            listener.onProblem("A connection to " + place + " could not be closed: " + stubborn + ".");
        }
    }

    /** A connection broke, or is of no use any more. Of one that is not at work nothing is heard. */
    @SuppressWarnings("ReferenceEquality") // a connection is itself
    public void lost(C broken, String sentence) {
        Attempt<C> attempt;
        synchronized (lock) {
            attempt = now;
            if (attempt == null || attempt.connection != broken) {
                return;
            }
        }
        end(attempt, sentence);
    }

    /** The connection proved itself: when it breaks, the first pause is short again. */
    public void worked() {
        pause.worked();
    }

    /** The connection there is, though it may just begin. */
    public Optional<C> present() {
        synchronized (lock) {
            return now == null || now.over || closed ? Optional.empty() : Optional.ofNullable(now.connection);
        }
    }

    /** The connection that has begun. */
    public Optional<C> settled() {
        synchronized (lock) {
            return now != null && now.settled ? present() : Optional.empty();
        }
    }

    /** Whether this connection is the one there is. */
    @SuppressWarnings("ReferenceEquality")
    public boolean is(C connection) {
        return present().filter(each -> each == connection).isPresent();
    }

    /** Does something later, unless it is closed by then. */
    public void schedule(Runnable step, Duration in) {
        synchronized (lock) {
            if (!closed) {
                work.schedule(step, in.toNanos(), TimeUnit.NANOSECONDS);
            }
        }
    }

    public void close() {
        C last;
        synchronized (lock) {
            last = present().orElse(null);
            closed = true;
        }
        letGo(last);
    }
}
