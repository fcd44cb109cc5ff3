package dachshund.links.mqtt;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.ByteBuffer;
import java.time.Instant;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;

class TopicsTest {

    @Test
    void manyTopicsThatMoveWhileTheyAreListedDoNotBreakTheList() throws Exception {
        Topics topics = new Topics();
        AtomicBoolean going = new AtomicBoolean(true);
        Instant from = Instant.parse("2026-11-26T06:00:00Z");
        for (int n = 0; n < 5000; n++) {
            topics.note("quillmoor/" + n, ByteBuffer.wrap(new byte[] {'1'}), false, from);
        }
        Thread moving = new Thread(() -> {
            for (long i = 0; going.get(); i++) {
                topics.note(
                        "quillmoor/" + i * 7919 % 5000,
                        ByteBuffer.wrap(new byte[] {'2'}),
                        false,
                        from.plusNanos(i * 31 % 1_000_003));
            }
        });
        moving.start();
        try {
            for (int i = 0; i < 200; i++) {
                assertThat(topics.newest(20)).hasSize(20);
            }
        } finally {
            going.set(false);
            moving.join();
        }
    }
}
