package dachshund.office.work;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;

import dachshund.engine.clock.SystemClock;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;

class WorksTest {

    private static final Duration SOON = Duration.ofSeconds(60);
    private static final Duration AT_ONCE = Duration.ZERO;
    private static final Work.Outcome WENT = new Work.Outcome("It went.", true, "/there");

    private final Works works = new Works(new SystemClock());

    private Work begin(Duration within, Works.Body body) {
        return works.begin("Something long", "engineer", "/here", within, body);
    }

    private static void over(Work work) {
        await().atMost(SOON).until(() -> work.state().over());
    }

    @Test
    void whatEndsSoonIsAnsweredWithItsEnd() {
        Work work = begin(SOON, progress -> WENT);
        assertThat(work.state()).isEqualTo(Work.State.DONE);
        assertThat(work.outcome()).contains(WENT);
        assertThat(work.page()).isEqualTo("/there");
    }

    @Test
    void whatTakesLongIsLeftSaysHowFarItIsAndIsFoundAgainUntilItsEndIsSeen() throws Exception {
        CountDownLatch half = new CountDownLatch(1);
        CountDownLatch goOn = new CountDownLatch(1);
        Work work = begin(AT_ONCE, progress -> {
            progress.step("Counting", 10, true);
            progress.done(5);
            half.countDown();
            goOn.await();
            return WENT;
        });
        half.await();
        assertThat(work.state()).isEqualTo(Work.State.RUNNING);
        assertThat(work.step()).isEqualTo(new Work.Step("Counting", 5, 10, true));
        work.look();
        assertThat(works.open("engineer")).as("seen, but not its end").containsExactly(work);
        assertThat(works.open("somebody else")).isEmpty();
        assertThat(works.find(work.id())).contains(work);
        goOn.countDown();
        over(work);
        assertThat(works.open("engineer")).containsExactly(work);
        work.look();
        assertThat(works.open("engineer")).isEmpty();
        assertThat(works.newest()).containsExactly(work);
    }

    @Test
    void itEndsWhereNothingIsHalfDoneAndNowhereElse() throws Exception {
        AtomicInteger written = new AtomicInteger();
        CountDownLatch looking = new CountDownLatch(1);
        CountDownLatch asked = new CountDownLatch(1);
        Work early = begin(AT_ONCE, progress -> {
            progress.step("Looking", 0, true);
            looking.countDown();
            asked.await();
            progress.step("Writing", 2, false);
            written.incrementAndGet();
            return WENT;
        });
        looking.await();
        early.end();
        asked.countDown();
        over(early);
        assertThat(early.state()).isEqualTo(Work.State.ENDED);
        assertThat(written).hasValue(0);

        CountDownLatch writing = new CountDownLatch(1);
        CountDownLatch ended = new CountDownLatch(1);
        Work late = begin(AT_ONCE, progress -> {
            progress.step("Writing", 2, false);
            writing.countDown();
            ended.await();
            progress.done(1);
            progress.step("Writing on", 2, false);
            return WENT;
        });
        writing.await();
        late.end();
        ended.countDown();
        over(late);
        assertThat(late.state()).as("too late to end it").isEqualTo(Work.State.DONE);
    }

    /** Whatever is thrown, errors too, is told and keeps no thread; as many as wait at most. */
    @Test
    void whateverItThrowsIsKeptAndTheNextGoesOn() {
        List<Throwable> all = List.of(
                new IllegalArgumentException("a sentence"), new OutOfMemoryError("of ours"), new Exception("checked"));
        for (Throwable each : all) {
            Work work = begin(SOON, progress -> {
                throw each instanceof Exception exception ? exception : sneaky(each);
            });
            assertThat(work.state()).isEqualTo(Work.State.FAILED);
            assertThat(work.problem()).containsSame(each);
            assertThat(work.page()).as("back to where it was begun").isEqualTo("/here");
        }
        assertThat(begin(SOON, progress -> WENT).state()).isEqualTo(Work.State.DONE);
    }

    private static Exception sneaky(Throwable thrown) {
        if (thrown instanceof Error error) {
            throw error;
        }
        return new IllegalStateException(thrown);
    }

    @Test
    void atTheEndWhatMayEndDoesAndWhatMayNotIsWaitedFor() throws Exception {
        CountDownLatch both = new CountDownLatch(2);
        Work endable = begin(AT_ONCE, progress -> {
            progress.step("Looking", 0, true);
            both.countDown();
            for (long n = 0; ; n++) {
                progress.done(n);
                TimeUnit.MILLISECONDS.sleep(5);
            }
        });
        CountDownLatch closing = new CountDownLatch(1);
        Work writing = begin(AT_ONCE, progress -> {
            progress.step("Writing", 0, false);
            both.countDown();
            closing.await();
            TimeUnit.MILLISECONDS.sleep(100);
            return WENT;
        });
        both.await();
        closing.countDown();
        works.close();
        assertThat(endable.state()).isEqualTo(Work.State.ENDED);
        assertThat(writing.state()).isEqualTo(Work.State.DONE);
        assertThat(begin(AT_ONCE, progress -> WENT).state()).isEqualTo(Work.State.WAITING);
    }

    @Test
    void noMoreWaitsThanAPersonWouldWaitFor() throws Exception {
        CountDownLatch goOn = new CountDownLatch(1);
        Works.Body waits = progress -> {
            goOn.await();
            return WENT;
        };
        for (int i = 0; i < 22; i++) {
            begin(AT_ONCE, waits);
        }
        assertThatThrownBy(() -> begin(AT_ONCE, waits)).hasMessageContaining("Too much long work");
        Work waiting = works.newest().get(0);
        assertThat(waiting.state()).isEqualTo(Work.State.WAITING);
        waiting.end();
        goOn.countDown();
        over(waiting);
        assertThat(waiting.state()).isEqualTo(Work.State.ENDED);
        for (int i = 0; i < 200; i++) {
            begin(SOON, progress -> WENT);
        }
        assertThat(works.newest()).as("the oldest are forgotten").hasSize(100);
    }
}
