package dachshund.engine;

import static org.awaitility.Awaitility.await;

import java.time.Duration;
import java.util.concurrent.Callable;

/**
 * The one way in which tests wait for what must become true. What cannot be asked yet (a table, a file, a lane that is
 * not there) is "not yet", never a failure; when the time is up, the last reason is told.
 */
public final class Soon {

    private static final Duration PATIENCE = Duration.ofSeconds(60);

    private Soon() {}

    public static void soon(Callable<Boolean> it) {
        await().ignoreExceptions()
                .pollDelay(Duration.ZERO)
                .pollInterval(Duration.ofMillis(2))
                .atMost(PATIENCE)
                .until(it);
    }
}
