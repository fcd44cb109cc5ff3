package dachshund.engine.tag;

import dachshund.core.tag.TagValue;
import java.lang.invoke.VarHandle;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicLong;

/**
 * The last values of one tag, oldest dropped first. One thread adds at a time, without a lock, since every value of a
 * recorded tag passes here; any may read meanwhile.
 */
public final class RecentValues {

    /** At most so many of a tag: ten minutes at one a second. */
    static final int ROOM = 600;

    private static final int FIRST_ROOM = 16;

    private volatile Ring ring = new Ring(FIRST_ROOM);

    /** Values in their places; how many there have ever been says which of them are the last. */
    private static final class Ring {

        private final TagValue[] slots;
        /** Written behind the slot, in this order for whoever reads it. */
        private final AtomicLong count = new AtomicLong();

        private int at;

        /** @param room so many can be read; one more place is for the value that is being added */
        Ring(int room) {
            this.slots = new TagValue[room + 1];
        }

        boolean full() {
            return count.getPlain() >= slots.length - 1;
        }

        void add(TagValue value) {
            slots[at] = value;
            at = at + 1 == slots.length ? 0 : at + 1;
            count.setRelease(count.getPlain() + 1);
        }

        /** The last ones, oldest first, without those that were written over while they were read. */
        List<TagValue> last(int most) {
            long end = count.getAcquire();
            long from = Math.max(0, end - Math.min(most, slots.length - 1));
            List<TagValue> read = new ArrayList<>((int) (end - from));
            for (long i = from; i < end; i++) {
                read.add(slots[(int) (i % slots.length)]);
            }
            VarHandle.acquireFence();
            long gone = count.getAcquire() + 1 - slots.length - from;
            return gone <= 0 ? read : read.subList((int) Math.min(gone, read.size()), read.size());
        }
    }

    /** @param room so many are kept */
    void add(TagValue value, int room) {
        Ring now = ring;
        int had = now.slots.length - 1;
        if (had > room || had < room && now.full()) {
            Ring next = new Ring(Math.min(2 * had, room));
            now.last(room).forEach(next::add);
            ring = next;
            now = next;
        }
        now.add(value);
    }

    /** The values received at or after the instant, oldest first. */
    public List<TagValue> since(Instant from) {
        return ring.last(ROOM).stream()
                .filter(value -> !value.receiveTime().isBefore(from))
                .toList();
    }
}
