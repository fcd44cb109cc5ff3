package dachshund.engine.thread;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutionException;
import org.awaitility.Awaitility;
import org.junit.jupiter.api.Test;

/** Whoever asks something that hangs waits no longer than the limit, and what hangs is bounded, too. */
final class BoundedTest {

    private final Bounded folder = new Bounded("the folder Lots", 2);

    /** Deaf to being interrupted. */
    private static boolean hangs(CountDownLatch over) {
        while (true) {
            try {
                over.await();
                return true;
            } catch (InterruptedException deaf) {
                Thread.interrupted();
            }
        }
    }

    @Test
    void anAnswerAndWhatIsThrownComeThrough() throws Exception {
        assertThat(folder.within(Duration.ofSeconds(60), () -> 7)).isEqualTo(7);
        assertThatThrownBy(() -> folder.within(Duration.ofSeconds(60), () -> {
                    throw new StackOverflowError("deep");
                }))
                .isInstanceOf(ExecutionException.class)
                .hasCauseInstanceOf(StackOverflowError.class);
    }

    @Test
    void whatHangsIsLeftBehindAndBounded() {
        CountDownLatch over = new CountDownLatch(1);
        for (int i = 0; i < 2; i++) {
            assertThatThrownBy(() -> folder.within(Duration.ofMillis(50), () -> hangs(over)))
                    .isInstanceOf(Bounded.Unanswered.class)
                    .hasMessageStartingWith("The folder Lots did not answer within");
        }
        assertThatThrownBy(() -> folder.within(Duration.ofMillis(50), () -> 7))
                .hasMessage("2 questions to the folder Lots have not been answered yet; no further one is asked.");
        over.countDown();
        Awaitility.await().ignoreExceptions().until(() -> folder.within(Duration.ofSeconds(60), () -> 7) == 7);
    }
}
