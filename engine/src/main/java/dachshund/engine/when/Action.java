package dachshund.engine.when;

import dachshund.core.row.Snapshot;
import dachshund.core.when.Firing;
import java.time.Instant;

/**
 * What a When drives: a row today. Runs on a thread of the {@link ActionPool}, one firing after the other, never on a
 * thread or under a lock of a link, the schedule or another action. May throw: that ends in a state and a sentence.
 */
public interface Action {

    /**
     * @param values what the tags of {@link WhenRun#reads} were when it fired, in their order
     * @param now    when it is carried out
     */
    void run(Firing firing, Snapshot values, Instant now);

    /** A time at which it could have fired was passed over. */
    void skipped(Firing firing);

    /** So many firings were passed over because it could not keep up; it was due at the instant. */
    void overrun(Instant at);
}
