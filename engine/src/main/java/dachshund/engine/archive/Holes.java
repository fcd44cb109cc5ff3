package dachshund.engine.archive;

import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * Times over which nothing came of a tag though its source may know what it was: the application was away, or the source. A
 * hole is known when the first value behind it has come. Safe for several threads.
 */
final class Holes {

    private static final int MOST = 200_000;

    /** Since when nothing comes of a tag, in ticks. */
    private final Map<Long, Long> open = new HashMap<>();

    private final Deque<Archive.Hole> closed = new ArrayDeque<>();
    private long lost;

    /** @param mark of the next value of the tag in the order of the journal */
    synchronized void next(long key, KeptTags.Tag tag, long time, int mark) {
        boolean away = Marks.isGap(mark)
                ? Marks.gap(mark) == Gap.AWAY
                : Marks.quality(mark).equals(Quality.AWAY);
        if (away) {
            open.putIfAbsent(key, time);
            return;
        }
        Long since = open.remove(key);
        if (since == null || time <= since) {
            return;
        }
        if (closed.size() == MOST) {
            closed.removeFirst();
            lost++;
        }
        closed.addLast(new Archive.Hole(new TagRef(tag.source(), tag.address()), tag.name(), since, time));
    }

    /** Some that are known, the oldest first; each is given once. */
    synchronized List<Archive.Hole> take(int most) {
        List<Archive.Hole> some = new ArrayList<>();
        while (some.size() < most && !closed.isEmpty()) {
            some.add(closed.removeFirst());
        }
        return some;
    }

    /** How many were forgotten, because nobody took them. */
    synchronized long lost() {
        return lost;
    }
}
