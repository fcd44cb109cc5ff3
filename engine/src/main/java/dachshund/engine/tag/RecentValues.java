package dachshund.engine.tag;

import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.List;

/** The last values of one tag, oldest dropped first. */
public final class RecentValues {

    /** At most so many of a tag: ten minutes at one a second. */
    static final int ROOM = 600;

    private final ArrayDeque<TagValue> values = new ArrayDeque<>();

    /** @param room so many are kept */
    synchronized void add(TagValue value, int room) {
        values.addLast(value);
        while (values.size() > room) {
            values.removeFirst();
        }
    }

    /** The values received at or after the instant, oldest first. */
    public synchronized List<TagValue> since(Instant from) {
        return values.stream()
                .filter(value -> !value.receiveTime().isBefore(from))
                .toList();
    }
}
