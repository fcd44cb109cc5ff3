package dachshund.web.watch;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Layout;
import dachshund.engine.Engine;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.lane.LaneState;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.source.Sources;
import dachshund.engine.transaction.Transactions;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.springframework.ui.ExtendedModelMap;
import org.springframework.ui.Model;

/** Two hundred and fifty recorders on Watch: a hundred a page, those in trouble on the first one, found by words. */
class WatchPagesTest {

    private final Engine engine = mock(Engine.class);
    private final WatchController watch = new WatchController(mock(Definitions.class), engine, mock(Audit.class));

    WatchPagesTest() {
        Map<String, RecorderStatus> all = new LinkedHashMap<>();
        for (int i = 0; i < 250; i++) {
            String id = String.format("%08x", i);
            all.put(
                    id,
                    new RecorderStatus(
                            new RecorderDefinition(
                                    id, String.format("Mill %03d", i), "", List.of(), Layout.proposed(), List.of()),
                            i == 240 ? LaneState.FAULTED : LaneState.RECORDING,
                            "",
                            Instant.EPOCH,
                            0,
                            0,
                            Instant.EPOCH,
                            Duration.ZERO,
                            List.of()));
        }
        when(engine.status()).thenReturn(all);
        when(engine.clock()).thenReturn(new SystemClock());
        when(engine.book()).thenReturn(new CounterBook());
        Sources sources = mock(Sources.class);
        when(engine.sources()).thenReturn(sources);
        Transactions transactions = mock(Transactions.class);
        when(engine.transactions()).thenReturn(transactions);
    }

    private List<String> names(String words, String page) {
        Model model = new ExtendedModelMap();
        watch.strips(words, page, model);
        return ((List<?>) model.getAttribute("strips"))
                .stream()
                        .map(strip -> ((WatchController.Strip) strip)
                                .status()
                                .definition()
                                .name())
                        .toList();
    }

    @Test
    void aPageIsAHundredAndTroubleStandsFirst() {
        assertThat(names("", "1")).hasSize(100).startsWith("Mill 240", "Mill 000");
        assertThat(names("", "3")).hasSize(50).endsWith("Mill 249");
        assertThat(names("", "99")).as("no page there: the last one").isEqualTo(names("", "3"));
        assertThat(names("", "-1")).isEqualTo(names("", "1"));
        assertThat(names("", "a")).isEqualTo(names("", "1"));
        assertThat(names("24 mill", "1")).hasSize(13).startsWith("Mill 240");
        assertThat(names("kiln", "1")).isEmpty();
    }
}
