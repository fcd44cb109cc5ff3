package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.inOrder;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.verifyNoInteractions;
import static org.mockito.Mockito.verifyNoMoreInteractions;

import dachshund.engine.clock.SystemClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.mockito.InOrder;

class CursorsTest {

    private final LocalStore local = mock(LocalStore.class);

    private static Settled at(long position) {
        return new Settled("0123456789abcdef", position, 0, 0, 0, 0, 0, 0, 0);
    }

    @Test
    void whatMovedIsKeptOnceAndInOrder() {
        Cursors cursors = new Cursors(local, new SystemClock(), Runnable::run);
        cursors.keep(0, Duration.ZERO);
        verifyNoInteractions(local);
        cursors.moved("a", at(10));
        cursors.moved("b", at(20));
        cursors.moved("a", at(30));
        cursors.keep(0, Duration.ZERO);
        cursors.keep(0, Duration.ZERO);
        cursors.moved("a", at(40));
        cursors.keep(0, Duration.ZERO);
        cursors.kept(Duration.ofSeconds(5));
        InOrder order = inOrder(local);
        order.verify(local).settle(Map.of("a", at(30), "b", at(20)));
        order.verify(local).settle(Map.of("a", at(40)));
        verifyNoMoreInteractions(local);
    }

    @Test
    void theWriterGoesOnWhileTheyAreKept() {
        ArrayDeque<Runnable> later = new ArrayDeque<>();
        Cursors cursors = new Cursors(local, new SystemClock(), later::add);
        cursors.moved("a", at(10));
        cursors.keep(0, Duration.ZERO);
        verifyNoInteractions(local);
        later.remove().run();
        cursors.kept(Duration.ofSeconds(5));
        verify(local).settle(Map.of("a", at(10)));
    }

    @Test
    void whatCouldNotBeKeptIsSaidAndKeptWithTheNext() {
        doThrow(new IllegalStateException("the disk is full"))
                .doNothing()
                .when(local)
                .settle(any());
        Cursors cursors = new Cursors(local, new SystemClock(), Runnable::run);
        cursors.moved("a", at(10));
        cursors.moved("b", at(5));
        cursors.keep(0, Duration.ZERO);
        cursors.moved("a", at(20));
        assertThat(cursors.kept(Duration.ofSeconds(5))).isFalse();
        assertThat(cursors.trouble()).contains("the disk is full");
        cursors.keep(0, Duration.ZERO);
        cursors.kept(Duration.ofSeconds(5));
        assertThat(cursors.trouble()).isEmpty();
        verify(local).settle(Map.of("a", at(20), "b", at(5)));
        assertThat(org.mockito.Mockito.mockingDetails(local).getInvocations()).hasSize(2);
    }

    @Test
    void onlyWhatIsOnDiskIsGivenBack() {
        ArrayDeque<Runnable> later = new ArrayDeque<>();
        Cursors cursors = new Cursors(local, new SystemClock(), later::add);
        assertThat(cursors.keep(5, Duration.ZERO))
                .as("nothing moved: all of it is on disk")
                .isEqualTo(5);
        cursors.moved("a", at(10));
        assertThat(cursors.keep(10, Duration.ZERO)).isEqualTo(5);
        cursors.moved("a", at(20));
        assertThat(cursors.keep(20, Duration.ZERO)).isEqualTo(5);
        later.remove().run();
        assertThat(cursors.keep(20, Duration.ZERO)).isEqualTo(10);
        later.remove().run();
        assertThat(cursors.keep(20, Duration.ZERO)).isEqualTo(20);
    }
}
