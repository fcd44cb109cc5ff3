package dachshund.engine.tag;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;

class TagTableTest {

    /** UncertainLastUsableValue of OPC UA. */
    private static final Quality UNCERTAIN = new Quality(Quality.Grade.UNCERTAIN, 0x40900000L, "last usable value");

    private static final Instant NOW = Instant.parse("2026-11-24T06:00:00Z");
    private final TagTable table = new TagTable(new dachshund.engine.FakeClock());

    private void offer(String source, Object value, Instant at) {
        table.offer(source, List.of(new TagChange("v", TagValue.good(value, at))));
    }

    @Test
    void aTagWithoutAValueIsBadAndSaysWhy() {
        assertThat(table.entry(new TagRef("a", "v")).value().quality()).isEqualTo(Quality.WAITING);
    }

    @Test
    void aWatcherThatThrowsRobsNobodyOfTheBatch() {
        List<Object> heard = new java.util.ArrayList<>();
        TagRef tag = new TagRef("a", "v");
        table.watch(List.of(tag), changes -> {
            throw new IllegalStateException("a defect");
        });
        table.watch(List.of(tag), changes -> {
            throw new StackOverflowError();
        });
        table.watch(List.of(tag), heard::addAll);
        offer("a", 1.0, NOW);
        offer("a", 2.0, NOW);
        assertThat(heard).hasSize(2);
        assertThat(table.said()).isNotEmpty().allMatch(line -> line.words().contains("failed"));
    }

    @Test
    void whileWatchersTakeEachOthersPlaceEveryChangeIsHeardByOneOfThem() throws Exception {
        TagRef tag = new TagRef("a", "v");
        java.util.concurrent.atomic.AtomicLong heard = new java.util.concurrent.atomic.AtomicLong();
        java.util.concurrent.atomic.AtomicBoolean going = new java.util.concurrent.atomic.AtomicBoolean(true);
        TagTable.Watcher first = changes -> heard.addAndGet(changes.size());
        table.watch(List.of(tag), first);
        Thread changing = new Thread(() -> {
            TagTable.Watcher before = first;
            while (going.get()) {
                TagTable.Watcher after = changes -> heard.addAndGet(changes.size());
                table.replace(List.of(tag), before, List.of(tag), after, values -> {});
                before = after;
            }
        });
        changing.start();
        for (int i = 0; i < 20_000; i++) {
            offer("a", (double) i, NOW);
        }
        going.set(false);
        changing.join();
        assertThat(heard.get()).isEqualTo(20_000);
    }

    @Test
    void whenItsSourceIsAwayAValueIsBadNotStaleAndGood() {
        offer("a", 1.0, NOW);
        offer("b", 2.0, NOW);
        table.away("a", NOW.plusSeconds(5));
        TagValue away = table.entry(new TagRef("a", "v")).value();
        assertThat(away.quality()).isEqualTo(Quality.AWAY);
        assertThat(away.value()).contains(1.0);
        assertThat(away.sourceTime()).isEqualTo(NOW);
        assertThat(table.entry(new TagRef("b", "v")).value().quality().isGood()).isTrue();
        assertThat(table.live("a")).isZero();
        offer("a", 3.0, NOW.plusSeconds(9));
        assertThat(table.live("a")).isEqualTo(1);
    }

    @Test
    void theLastGoodValueAndItsLastChangeAreThoseOfAPlainRecord() {
        Random random = new Random(7);
        TagTable.Entry entry = table.entry(new TagRef("a", "v"));
        TagValue good = TagValue.NONE;
        Instant changed = Instant.EPOCH;
        Optional<Object> last = Optional.empty();
        for (int i = 0; i < 5000; i++) {
            if (random.nextInt(500) == 0) {
                table.forget("a", List.of("v"));
                good = TagValue.NONE;
                changed = Instant.EPOCH;
                last = Optional.empty();
            } else {
                Instant at = NOW.plusNanos(i * 1_000_123_000L);
                Quality quality = List.of(Quality.GOOD, UNCERTAIN, Quality.AWAY, Quality.NOT_A_NUMBER)
                        .get(random.nextInt(4));
                TagValue next = TagValue.good(random.nextInt(3), at).withQuality(quality, at);
                table.offer("a", List.of(new TagChange("v", next)));
                good = quality.isBad() ? good : next;
                changed = next.value().equals(last) ? changed : at;
                last = next.value();
            }
            assertThat(entry.lastGood()).as("after %d", i).isSameAs(good);
            assertThat(entry.changedAt()).as("after %d", i).isEqualTo(changed);
        }
    }

    @Test
    void recentValuesAreKeptFromTheFirstLookOnAndTheOldestGoFirst() {
        offer("a", 0, NOW);
        RecentValues recent = table.entry(new TagRef("a", "v")).recent();
        for (int i = 1; i <= RecentValues.ROOM; i++) {
            offer("a", i, NOW.plusSeconds(i));
        }
        assertThat(recent.since(Instant.EPOCH))
                .hasSize(RecentValues.ROOM)
                .extracting(value -> value.value().orElseThrow())
                .startsWith(1)
                .endsWith(RecentValues.ROOM);
        assertThat(recent.since(NOW.plusSeconds(RecentValues.ROOM - 9L))).hasSize(10);
    }

    @Test
    void manyRecordedTagsShareTheRoomAndOneThatIsLookedAtHasAllOfIt() {
        for (int i = 0; i < 10_000; i++) {
            table.entry(new TagRef("a", "v" + i)).recent();
        }
        RecentValues recorded = table.entry(new TagRef("a", "v")).recent();
        for (int i = 1; i <= 300; i++) {
            offer("a", i, NOW.plusSeconds(i));
        }
        assertThat(recorded.since(Instant.EPOCH)).hasSize(TagTable.Share.ALL / 10_001);
        table.entry(new TagRef("a", "v")).look(NOW.plusSeconds(300));
        for (int i = 301; i <= 700; i++) {
            offer("a", i, NOW.plusSeconds(i));
        }
        assertThat(recorded.since(Instant.EPOCH)).as("while somebody looks").hasSizeGreaterThan(400);
        table.forgetUnseen(NOW.plusSeconds(1000));
        offer("a", 701, NOW.plusSeconds(1001));
        assertThat(recorded.since(Instant.EPOCH)).as("and no longer").hasSize(TagTable.Share.ALL / 10_001);
    }

    /** Whoever reads while values are added gets some of the last ones, in order and without a gap. */
    @Test
    void recentValuesAreReadWhileTheyAreAdded() throws Exception {
        RecentValues recent = new RecentValues();
        AtomicBoolean go = new AtomicBoolean(true);
        Thread adds = new Thread(() -> {
            for (long n = 0; go.get(); n++) {
                recent.add(TagValue.good(n, NOW), n % 5_000 < 2_500 ? 50 : RecentValues.ROOM);
            }
        });
        adds.start();
        long before = -1;
        for (int reading = 0; reading < 20_000; reading++) {
            List<TagValue> values = recent.since(Instant.EPOCH);
            assertThat(values.size()).isLessThanOrEqualTo(RecentValues.ROOM);
            for (int i = 1; i < values.size(); i++) {
                assertThat(number(values.get(i))).isEqualTo(number(values.get(i - 1)) + 1);
            }
            if (!values.isEmpty()) {
                assertThat(number(values.get(values.size() - 1))).isGreaterThanOrEqualTo(before);
                before = number(values.get(values.size() - 1));
            }
        }
        go.set(false);
        adds.join();
    }

    private static long number(TagValue value) {
        return (Long) value.value().orElseThrow();
    }
}
