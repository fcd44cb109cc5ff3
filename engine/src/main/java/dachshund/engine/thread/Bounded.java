package dachshund.engine.thread;

import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * Questions to something outside that may hang: nobody waits longer than a limit. One that hangs goes on by itself; when several
 * do, further ones are refused at once. From any thread.
 */
public final class Bounded {

    private final String whom;
    private final int most;
    private final AtomicInteger underWay = new AtomicInteger();

    /** No answer; the message is a sentence. */
    public static final class Unanswered extends Exception {
        private static final long serialVersionUID = 1;

        Unanswered(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    /**
     * @param whom who is asked, in the middle of a sentence
     * @param most so many questions may hang at once
     */
    public Bounded(String whom, int most) {
        this.whom = whom;
        this.most = most;
    }

    /** @throws ExecutionException with what the question threw */
    public <T> T within(Duration limit, Callable<T> question) throws Unanswered, ExecutionException {
        if (underWay.incrementAndGet() > most) {
            underWay.decrementAndGet();
            throw new Unanswered(
                    most + " questions to " + whom + " have not been answered yet; no further one is asked.", null);
        }
        FutureTask<T> answer = new FutureTask<>(question);
        Thread asking = Threads.once("asking", () -> {
            try {
                answer.run();
            } finally {
                underWay.decrementAndGet();
            }
        });
        try {
            return answer.get(limit.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException silent) {
            asking.interrupt();
            throw new Unanswered(
                    Character.toUpperCase(whom.charAt(0)) + whom.substring(1) + " did not answer within "
                            + PeriodText.roughly(limit) + ".",
                    silent);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new Unanswered("The question was broken off.", interrupted);
        }
    }
}
