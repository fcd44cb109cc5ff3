package dachshund.engine.transaction;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Turns at a piece of equipment, whatever those who wait for them do. */
class OneAtATimeTest {

    @Test
    void oneWhoThrowsKeepsNoOtherFromItsTurn() {
        OneAtATime place = new OneAtATime();
        OneRun under = mock(OneRun.class);
        Turns next = mock(Turns.class);
        List<String> asked = new ArrayList<>();
        assertThat(place.enter(under, mock(Turns.class), () -> {})).isTrue();
        assertThat(place.enter(mock(OneRun.class), mock(Turns.class), () -> {
                    throw new IllegalStateException("a defect");
                }))
                .isFalse();
        assertThat(place.enter(mock(OneRun.class), next, () -> asked.add("next")))
                .isFalse();
        place.leave(mock(OneRun.class));
        assertThat(asked).as("whoever is not there cannot leave").isEmpty();
        place.leave(under);
        assertThat(asked).containsExactly("next");
        assertThat(place.enter(mock(OneRun.class), next, () -> {})).isTrue();
        assertThat(place.busy()).isTrue();
    }
}
