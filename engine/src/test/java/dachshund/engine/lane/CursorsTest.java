package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.inOrder;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.verifyNoInteractions;
import static org.mockito.Mockito.verifyNoMoreInteractions;

import dachshund.engine.local.LocalStore;
import java.util.ArrayDeque;
import java.util.Map;
import java.util.concurrent.CompletionException;
import org.junit.jupiter.api.Test;
import org.mockito.InOrder;

class CursorsTest {

    private final LocalStore local = mock(LocalStore.class);

    @Test
    void whatMovedIsKeptOnceAndInOrder() {
        Cursors cursors = new Cursors(local, Runnable::run);
        cursors.keep();
        verifyNoInteractions(local);
        cursors.moved("a", 10);
        cursors.moved("b", 20);
        cursors.moved("a", 30);
        cursors.keep();
        cursors.keep();
        cursors.moved("a", 40);
        cursors.keep();
        cursors.kept();
        InOrder order = inOrder(local);
        order.verify(local).moveCursors(Map.of("a", 30L, "b", 20L));
        order.verify(local).moveCursors(Map.of("a", 40L));
        verifyNoMoreInteractions(local);
    }

    @Test
    void theWriterGoesOnWhileTheyAreKept() {
        ArrayDeque<Runnable> later = new ArrayDeque<>();
        Cursors cursors = new Cursors(local, later::add);
        cursors.moved("a", 10);
        cursors.keep();
        verifyNoInteractions(local);
        later.remove().run();
        cursors.kept();
        verify(local).moveCursors(Map.of("a", 10L));
    }

    @Test
    void whatCouldNotBeKeptIsSaidAndKeptWithTheNext() {
        doThrow(new IllegalStateException("the disk is full"))
                .doNothing()
                .when(local)
                .moveCursors(any());
        Cursors cursors = new Cursors(local, Runnable::run);
        cursors.moved("a", 10);
        cursors.moved("b", 5);
        cursors.keep();
        cursors.moved("a", 20);
        assertThatThrownBy(cursors::kept)
                .isInstanceOf(CompletionException.class)
                .hasRootCauseMessage("the disk is full");
        cursors.keep();
        cursors.kept();
        verify(local).moveCursors(Map.of("a", 20L, "b", 5L));
        assertThat(org.mockito.Mockito.mockingDetails(local).getInvocations()).hasSize(2);
    }
}
