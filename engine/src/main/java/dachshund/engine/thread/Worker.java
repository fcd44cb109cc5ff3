package dachshund.engine.thread;

import java.time.Duration;

/** Repeats one step until it is closed. */
public interface Worker extends AutoCloseable {

    /** Ends the pause between two steps. */
    void wake();

    /** Lets the present step end and waits for it, 10 s at most. */
    @Override
    default void close() {
        close(Duration.ofSeconds(10));
    }

    /** Lets the present step end and waits for it. False where it has not ended within the limit. */
    boolean close(Duration limit);
}
