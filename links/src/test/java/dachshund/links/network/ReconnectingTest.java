package dachshund.links.network;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagChange;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Connecting by hand: what is to be done later is done when the test says so, in any order. */
class ReconnectingTest {

    /** What opens, begins and breaks as the test says. */
    private final class Peer implements Reconnecting.Making<String> {
        private Runnable whileOpening = () -> {};
        private Runnable whileBeginning = () -> {};
        private Runnable whileClosing = () -> {};
        private LinkProblem refuses;
        private Consumer<String> lost;
        private int opened;

        @Override
        public String open(Consumer<String> told) throws LinkProblem {
            lost = told;
            opened++;
            String mine = "connection " + opened;
            whileOpening.run();
            if (refuses != null) {
                throw refuses;
            }
            return mine;
        }

        @Override
        public String begin(String fresh) {
            whileBeginning.run();
            return "Connected over " + fresh + ".";
        }

        @Override
        public void close(String connection) {
            let.add(connection);
            whileClosing.run();
        }
    }

    private record Later(Runnable step, long millis) {}

    private final Deque<Later> later = new ArrayDeque<>();
    private final List<String> said = new ArrayList<>();
    private final List<String> let = new ArrayList<>();
    private final List<String> problems = new ArrayList<>();
    private Runnable hearing = () -> {};
    private final Peer peer = new Peer();
    private final ScheduledExecutorService work = mock(ScheduledExecutorService.class);
    private final Reconnecting<String> connecting = new Reconnecting<>("the plant", peer);
    private final PlantLink.Listener listener = new PlantLink.Listener() {
        @Override
        public void onBatch(List<TagChange> changes) {}

        @Override
        public void onState(LinkState state, String sentence) {
            hearing.run();
            said.add(state + ": " + sentence);
        }

        @Override
        public void onProblem(String sentence) {
            problems.add(sentence);
        }
    };

    @BeforeEach
    void byHand() {
        doAnswer(call -> {
                    ((Runnable) call.getArgument(0)).run();
                    return null;
                })
                .when(work)
                .execute(any());
        when(work.schedule(any(Runnable.class), anyLong(), any())).thenAnswer(call -> {
            TimeUnit unit = call.getArgument(2);
            later.add(new Later(call.getArgument(0), unit.toMillis(call.getArgument(1))));
            return null;
        });
    }

    /** Does what was to be done after so many milliseconds, the first of it. */
    private void after(long millis) {
        Later next = later.stream()
                .filter(each -> each.millis() == millis)
                .findFirst()
                .orElseThrow(() -> new AssertionError("Nothing waits " + millis + " ms: " + later));
        later.remove(next);
        next.step().run();
    }

    @Test
    void aConnectionThatBreaksIsFollowedByTheNextAfterPausesThatGrow() {
        connecting.start(listener, work);
        assertThat(said)
                .containsExactly("CONNECTING: Connecting to the plant.", "CONNECTED: Connected over connection 1.");
        assertThat(connecting.settled()).contains("connection 1");
        connecting.worked();
        peer.lost.accept("It broke.");
        assertThat(connecting.present()).isEmpty();
        assertThat(let).containsExactly("connection 1");
        assertThat(said).last().isEqualTo("AWAY: It broke. Trying again in 1 s.");
        peer.refuses = new LinkProblem("Nobody is there.");
        after(1000);
        assertThat(said).last().isEqualTo("AWAY: Nobody is there. Trying again in 2 s.");
        after(2000);
        peer.refuses = null;
        after(4000);
        assertThat(said).last().isEqualTo("CONNECTED: Connected over connection 4.");
        assertThat(connecting.is("connection 1")).isFalse();
        connecting.lost("connection 1", "An old one says that it broke.");
        assertThat(connecting.settled()).contains("connection 4");
    }

    /** Thrown out before it is known here, as when two clients of one name throw each other out. */
    @Test
    void whatBreaksWhileItOpensOrBeginsIsLetGoOfAndNeverCalledConnected() {
        peer.whileOpening = () -> peer.lost.accept("Thrown out.");
        connecting.start(listener, work);
        assertThat(let).containsExactly("connection 1");
        assertThat(said).last().isEqualTo("AWAY: Thrown out. Trying again in 1 s.");
        peer.whileOpening = () -> {};
        peer.whileBeginning = () -> peer.lost.accept("Thrown out again.");
        after(1000);
        assertThat(let).containsExactly("connection 1", "connection 2");
        assertThat(said).last().isEqualTo("AWAY: Thrown out again. Trying again in 2 s.");
        assertThat(said).noneMatch(each -> each.startsWith("CONNECTED"));
    }

    @Test
    void anAttemptThatHangsIsGivenUpAndWhatItBringsLateIsLetGoOf() {
        peer.whileOpening = () -> {
            peer.whileOpening = () -> {};
            after(30_000); // as long as it hangs, the time for it runs out
            after(1000); // and the next one comes to an end before it
            assertThat(connecting.settled()).contains("connection 2");
        };
        connecting.start(listener, work);
        assertThat(said)
                .contains("AWAY: Connecting to the plant did not come to an end within 30 s. Trying again in 1 s.")
                .last()
                .isEqualTo("CONNECTED: Connected over connection 2.");
        assertThat(let).containsExactly("connection 1");
        assertThat(connecting.settled()).contains("connection 2");
        after(30_000); // of the second, which has come to its end
        assertThat(connecting.settled()).contains("connection 2");
    }

    @Test
    void whateverIsThrownIsASentenceAndTriedAgain() {
        for (Throwable thrown : List.of(new IllegalStateException("odd"), new StackOverflowError("deep"))) {
            peer.whileBeginning = () -> {
                peer.whileBeginning = () -> {};
                ReconnectingTest.<RuntimeException>sneak(thrown);
            };
            said.clear();
            later.clear();
            Reconnecting<String> each = new Reconnecting<>("the plant", peer);
            each.start(listener, work);
            assertThat(said).last().asString().contains("in a way that nobody expected", thrown.getMessage());
            assertThat(let).last().isEqualTo("connection " + peer.opened);
            after(1000);
            assertThat(each.settled()).isPresent();
        }
    }

    @Test
    void oneThatCannotBeClosedOrAListenerThatThrowsDoesNotEndTheTrying() {
        connecting.start(listener, work);
        peer.whileClosing = () -> {
            throw new IllegalStateException("It clings.");
        };
        peer.lost.accept("It broke.");
        assertThat(problems).singleElement().asString().contains("could not be closed", "It clings.");
        assertThat(said).last().asString().startsWith("AWAY: It broke.");
        after(1000);
        assertThat(connecting.settled()).contains("connection 2");
        peer.whileClosing = () -> {};
        hearing = () -> {
            throw new IllegalStateException("Nobody listens.");
        };
        assertThatThrownBy(() -> peer.lost.accept("It broke again.")).hasMessage("Nobody listens.");
        hearing = () -> {};
        after(2000);
        assertThat(connecting.settled()).contains("connection 3");
        connecting.close();
        assertThat(let).last().isEqualTo("connection 3");
    }

    @SuppressWarnings("unchecked")
    private static <T extends Throwable> void sneak(Throwable thrown) throws T {
        throw (T) thrown;
    }

    @Test
    void closedAtAnyMomentItSaysAndTriesNothingMore() {
        peer.whileOpening = connecting::close;
        connecting.start(listener, work);
        assertThat(let).containsExactly("connection 1");
        assertThat(said).containsExactly("CONNECTING: Connecting to the plant.");
        peer.lost.accept("It broke.");
        later.forEach(each -> each.step().run());
        assertThat(peer.opened).isEqualTo(1);
        assertThat(said).hasSize(1);
        assertThat(connecting.present()).isEqualTo(Optional.empty());
    }
}
