package dachshund.office.trend;

import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.tag.TagRef;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.engine.Engine;
import dachshund.office.archive.Histories;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.trend.Trends.Undrawn;
import java.time.Instant;
import org.junit.jupiter.api.Test;

/** Whatever fails while one curve or band is drawn is a sentence at its place. */
class UndrawnTest {

    private static final Instant END = Instant.parse("2026-11-01T06:00:00Z");
    private static final TagRef TAG = new TagRef("s", "a");

    private final Definitions definitions = mock(Definitions.class);

    private void fails(Throwable how) {
        when(definitions.tag(any())).thenThrow(how);
    }

    private void curveIsASentence(String words) {
        Trends trends = new Trends(mock(Histories.class), null, null, definitions, null, mock(Engine.class));
        assertThatThrownBy(() -> trends.drawn(
                        Curve.of("1", "Any", "", true, false, new CurveSource.OfTag(TAG)),
                        END.minusSeconds(60),
                        END,
                        100,
                        Standing.RELEASED))
                .isInstanceOf(Undrawn.class)
                .hasMessageContaining(words);
    }

    @Test
    void aDefectIsTold() {
        fails(new IllegalStateException("a sieve"));
        curveIsASentence("It cannot be told why it is not drawn: IllegalStateException: a sieve");
        Bands bands = new Bands(mock(Histories.class), definitions, null, null);
        assertThatThrownBy(() -> bands.of(
                        new Band("1", "Lot", new BandSource.OfTag(TAG)), END.minusSeconds(60), END, Standing.RELEASED))
                .isInstanceOf(Undrawn.class)
                .hasMessageContaining("a sieve");
    }

    @Test
    void soIsWhatIsNoException() {
        fails(new StackOverflowError());
        curveIsASentence("StackOverflowError");
    }
}
