package dachshund.core.when;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import org.junit.jupiter.api.Test;

/** A request is fired once, whatever stands in its tags when. */
class RequestStateTest {

    private static final Instant T = Instant.parse("2026-11-28T12:00:00Z");
    private static final TagRef NUMBER = new TagRef("s", "number");
    private static final TagRef EPOCH = new TagRef("s", "epoch");
    private static final TagRef ANSWERED = new TagRef("s", "answered");

    private final Map<TagRef, TagValue> values = new HashMap<>();
    private RequestState state;

    private void begin(boolean epoch, boolean answered) {
        begin(epoch, answered, Duration.ZERO);
    }

    private void begin(boolean epoch, boolean answered, Duration settle) {
        state = new RequestState(
                new When.OnRequest(
                        NUMBER,
                        epoch ? Optional.of(EPOCH) : Optional.empty(),
                        answered ? Optional.of(ANSWERED) : Optional.empty()),
                settle);
        state.begin(tag -> values.getOrDefault(tag, TagValue.NONE), T);
    }

    /** Whether it fires. */
    private boolean set(TagRef tag, Object value) {
        values.put(tag, TagValue.good(value, T));
        return state.changed(List.of(new TaggedValue(tag, values.get(tag))), T).isPresent();
    }

    private boolean firesAtOnce() {
        return !state.next().isAfter(T) && !state.time(T).isEmpty();
    }

    /** A plant that writes its number before its data. */
    @Test
    void whereValuesHaveToSettleItFiresThatMuchLaterAndOnce() {
        values.put(NUMBER, TagValue.good(0L, T));
        values.put(ANSWERED, TagValue.good(0L, T));
        begin(false, true, Duration.ofMillis(200));
        assertThat(firesAtOnce()).isFalse();
        assertThat(set(NUMBER, 1L)).isFalse();
        assertThat(state.next()).isEqualTo(T.plusMillis(200));
        assertThat(state.time(T.plusMillis(199))).isEmpty();
        assertThat(set(NUMBER, 1L)).as("told again meanwhile").isFalse();
        assertThat(state.time(T.plusMillis(200))).hasSize(1);
        assertThat(state.next()).isEqualTo(Instant.MAX);
        assertThat(set(NUMBER, 1L)).isFalse();
        assertThat(state.next()).isEqualTo(Instant.MAX);
        // One that is gone again before it settled is none.
        set(NUMBER, 2L);
        set(NUMBER, 0L);
        assertThat(state.time(T.plusMillis(400))).isEmpty();
        set(NUMBER, 3L);
        assertThat(state.time(state.next())).hasSize(1);
    }

    @Test
    void eachNumberFiresOnceAndNoneIsNoRequest() {
        values.put(NUMBER, TagValue.good(0L, T));
        values.put(ANSWERED, TagValue.good(0L, T));
        begin(false, true);
        assertThat(firesAtOnce()).isFalse();
        assertThat(set(NUMBER, 1L)).isTrue();
        assertThat(set(NUMBER, 1L)).isFalse();
        assertThat(set(ANSWERED, 1L)).isFalse();
        assertThat(set(NUMBER, 0L)).isFalse();
        assertThat(set(NUMBER, "")).isFalse();
        assertThat(set(NUMBER, 2.0)).as("a float that is whole").isTrue();
        assertThat(set(NUMBER, 2L)).as("the same number, carried otherwise").isFalse();
    }

    @Test
    void oneThatWaitsAtTheStartFiresUnlessItIsAnswered() {
        values.put(NUMBER, TagValue.good(7L, T));
        values.put(ANSWERED, TagValue.good(6L, T));
        begin(false, true);
        assertThat(firesAtOnce()).isTrue();
        values.put(ANSWERED, TagValue.good(7L, T));
        begin(false, true);
        assertThat(firesAtOnce()).isFalse();
        assertThat(set(NUMBER, 8L)).isTrue();
    }

    @Test
    void itWaitsUntilItIsKnownWhetherItIsAnswered() {
        values.put(NUMBER, TagValue.good(7L, T));
        begin(false, true);
        assertThat(firesAtOnce()).isFalse();
        assertThat(set(ANSWERED, 6L)).isTrue();
        values.clear();
        begin(false, true);
        assertThat(set(NUMBER, 7L)).isFalse();
        assertThat(set(ANSWERED, 7L)).isFalse();
    }

    @Test
    void withAnEpochANumberThatWasAnsweredBeforeIsNew() {
        values.put(NUMBER, TagValue.good(0L, T));
        values.put(ANSWERED, TagValue.good(1L, T));
        values.put(EPOCH, TagValue.good(10L, T));
        begin(true, true);
        assertThat(set(NUMBER, 1L))
                .as("the answer may be of the counting before")
                .isTrue();
        assertThat(set(EPOCH, 11L)).isTrue();
        assertThat(set(EPOCH, 11L)).isFalse();
    }

    @Test
    void whereNobodyCouldTellWhatIsThereAtTheStartIsPassedOver() {
        values.put(NUMBER, TagValue.good(7L, T));
        begin(false, false);
        assertThat(firesAtOnce()).isFalse();
        assertThat(set(NUMBER, 8L)).isTrue();
    }

    @Test
    void whileTheNumberIsBadNothingFiresAndNothingIsForgotten() {
        values.put(NUMBER, TagValue.good(7L, T));
        values.put(ANSWERED, TagValue.good(7L, T));
        begin(false, true);
        firesAtOnce();
        TagValue bad = new TagValue(Optional.empty(), Quality.bad(0x80000000L, "away"), T, T);
        assertThat(state.changed(List.of(new TaggedValue(NUMBER, bad)), T)).isEmpty();
        assertThat(set(NUMBER, 7L))
                .as("the source is back, with the request that was answered")
                .isFalse();
    }

    /** A controller as it should be, with values that go bad and come twice: each of its requests fires once. */
    @Test
    void aThousandRequestsFireOnceEach() {
        Random random = new Random(1);
        for (boolean epoch : new boolean[] {true, false}) {
            values.clear();
            values.put(NUMBER, TagValue.good(0L, T));
            values.put(ANSWERED, TagValue.good(0L, T));
            values.put(EPOCH, TagValue.good(1L, T));
            begin(epoch, true);
            int fired = firesAtOnce() ? 1 : 0;
            for (long n = 1; n <= 1000; n++) {
                for (int times = 1 + random.nextInt(3); times > 0; times--) {
                    fired += set(NUMBER, n) ? 1 : 0;
                    if (random.nextInt(4) == 0) {
                        TagValue bad = new TagValue(Optional.empty(), Quality.bad(0x80000000L, "away"), T, T);
                        fired += state.changed(List.of(new TaggedValue(NUMBER, bad)), T)
                                        .isPresent()
                                ? 1
                                : 0;
                    }
                }
                fired += set(NUMBER, n) ? 1 : 0;
                fired += set(ANSWERED, n) ? 1 : 0;
                if (random.nextBoolean()) {
                    fired += set(NUMBER, 0L) ? 1 : 0;
                }
            }
            assertThat(fired).isEqualTo(1000);
        }
    }
}
