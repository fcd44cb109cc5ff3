package dachshund.office.rehearse;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Series;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.office.archive.Histories;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The last minutes from an archive that answers, fails and comes back; the page that asks never waits. */
class RecentPastTest {

    private static final Instant NOW = Instant.parse("2026-11-28T06:00:00Z");
    private static final TagRef TAG = new TagRef("5ca1ab1e", "a");

    private final AtomicReference<Instant> now = new AtomicReference<>(NOW);
    private final AtomicInteger reads = new AtomicInteger();
    private volatile boolean away;
    private RecentPast past;

    @BeforeEach
    void begin() throws Problem {
        Column values = new Column(Column.Sort.NUMBER, 4);
        for (int minute : new int[] {15, 8, 5, 1}) {
            values.addNumber(
                    OpcUaTime.toTicks(NOW.minus(Duration.ofMinutes(minute))),
                    minute,
                    minute == 5 ? Marks.of(Gap.AWAY) : 0);
        }
        Histories histories = mock(Histories.class);
        when(histories.read(any(), any(), any())).then(call -> {
            reads.incrementAndGet();
            if (away) {
                throw new Problem("Away.", null);
            }
            return new Histories.History(Series.of(List.of(values)), 0);
        });
        past = new RecentPast(histories, now::get);
    }

    @AfterEach
    void end() {
        past.close();
    }

    private List<TagValue> asked() {
        return past.of(TAG, Optional.empty(), NOW.minus(Duration.ofMinutes(10)), NOW.minus(Duration.ofMinutes(2)));
    }

    @Test
    void whatIsNotReadYetIsThereAtTheNextDrawing() {
        assertThat(asked()).isEmpty();
        await().until(() -> !asked().isEmpty());
        assertThat(asked())
                .extracting(value -> Duration.between(value.receiveTime(), NOW).toMinutes())
                .as("the one at the beginning, and none that memory has")
                .containsExactly(15L, 8L, 5L);
        assertThat(asked().get(2).quality()).isEqualTo(Rehearsal.UNKNOWN);
        assertThat(reads).hasValue(1);
        now.set(NOW.plus(Duration.ofMinutes(4)));
        assertThat(asked()).hasSize(3);
        await().until(() -> reads.get() == 2);
    }

    @Test
    void anArchiveThatIsAwayIsAskedAgainAfterAWhile() {
        away = true;
        asked();
        await().until(() -> reads.get() == 1);
        assertThat(asked()).isEmpty();
        away = false;
        now.set(NOW.plus(Duration.ofMinutes(4)));
        await().until(() -> !asked().isEmpty());
    }
}
