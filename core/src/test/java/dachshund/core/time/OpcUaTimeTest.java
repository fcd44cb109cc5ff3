package dachshund.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.api.Test;

/** OPC 10000-6, 5.2.2.5: 100 ns ticks since 1601-01-01 UTC; 1970-01-01 is tick 116444736000000000 (the value of Windows FILETIME, published). */
class OpcUaTimeTest {

    @Test
    void knownTicks() {
        assertThat(OpcUaTime.toInstant(0)).isEqualTo(Instant.parse("1601-01-01T00:00:00Z"));
        assertThat(OpcUaTime.toInstant(116_444_736_000_000_000L)).isEqualTo(Instant.EPOCH);
        assertThat(OpcUaTime.toInstant(116_444_736_000_000_001L)).isEqualTo(Instant.EPOCH.plusNanos(100));
        assertThat(OpcUaTime.toTicks(Instant.parse("1601-01-01T00:00:01Z"))).isEqualTo(10_000_000L);
    }

    @Property
    void everyTickComesBack(@ForAll @LongRange(min = 0, max = 2_650_467_743_990_000_000L) long ticks) {
        assertThat(OpcUaTime.toTicks(OpcUaTime.toInstant(ticks))).isEqualTo(ticks);
    }
}
