package dachshund.engine.tag;

import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/** The last values of one tag, oldest dropped first: {@value #ROOM} of them, ten minutes at one a second. */
public final class RecentValues {

    static final int ROOM = 600;

    private final TagValue[] ring = new TagValue[ROOM];
    private int next;
    private int size;

    synchronized void add(TagValue value) {
        ring[next] = value;
        next = (next + 1) % ROOM;
        size = Math.min(size + 1, ROOM);
    }

    /** The values received at or after the instant, oldest first. */
    public synchronized List<TagValue> since(Instant from) {
        List<TagValue> found = new ArrayList<>();
        for (int i = 0; i < size; i++) {
            TagValue value = ring[(next - size + i + ROOM) % ROOM];
            if (!value.receiveTime().isBefore(from)) {
                found.add(value);
            }
        }
        return found;
    }
}
