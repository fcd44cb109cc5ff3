package dachshund.web;

import static org.awaitility.Awaitility.await;

import java.time.Duration;
import java.util.concurrent.Callable;

/**
 * The one way in which tests of the running application wait. What cannot be asked yet (a table, a column, a file or a
 * page that is not there) is "not yet", never a failure; when the time is up, the last reason is told.
 */
final class Soon {

    private static final Duration PATIENCE = Duration.ofSeconds(60);

    private Soon() {}

    static void soon(Callable<Boolean> it) {
        await().ignoreExceptions().atMost(PATIENCE).until(it);
    }
}
