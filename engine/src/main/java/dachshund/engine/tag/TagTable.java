package dachshund.engine.tag;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.LongAdder;

/**
 * The latest value of every tag, one entry a tag. Reading takes no lock; batches of one source come one at a time, of
 * several sources at once. Recent values are kept only for tags that somebody asked for.
 */
public final class TagTable {

    private final Map<String, Map<String, Entry>> bySource = new ConcurrentHashMap<>();
    private final LongAdder changes = new LongAdder();

    /** The place of one tag; stays the same object as long as the application runs. */
    public static final class Entry {

        private volatile TagValue value = TagValue.NONE;
        private volatile RecentValues recent;

        /** The latest value; {@link TagValue#NONE} before anything arrived. */
        public TagValue value() {
            return value;
        }

        private void set(TagValue next) {
            value = next;
            RecentValues kept = recent;
            if (kept != null) {
                kept.add(next);
            }
        }

        /** The values of the last minutes; keeps them from now on if it did not. */
        public RecentValues recent() {
            RecentValues kept = recent;
            if (kept == null) {
                synchronized (this) {
                    kept = recent;
                    if (kept == null) {
                        kept = new RecentValues();
                        if (value.arrived()) {
                            kept.add(value);
                        }
                        recent = kept;
                    }
                }
            }
            return kept;
        }
    }

    /** The entry of a tag, made if it is new. */
    public Entry entry(TagRef tag) {
        return entries(tag.source()).computeIfAbsent(tag.address(), address -> new Entry());
    }

    private Map<String, Entry> entries(String source) {
        return bySource.computeIfAbsent(source, id -> new ConcurrentHashMap<>());
    }

    /** Takes a batch of changes of one source. */
    public void offer(String source, List<TagChange> batch) {
        Map<String, Entry> entries = entries(source);
        for (TagChange change : batch) {
            Entry entry = entries.get(change.address());
            if (entry == null) {
                entry = entries.computeIfAbsent(change.address(), address -> new Entry());
            }
            entry.set(change.value());
        }
        changes.add(batch.size());
    }

    /** The source is away: every value of it is bad from now on, never stale and good. */
    public void away(String source, Instant at) {
        entries(source).values().forEach(entry -> {
            TagValue last = entry.value();
            if (last.arrived() && !last.quality().equals(Quality.AWAY)) {
                entry.set(last.withQuality(Quality.AWAY, at));
            }
        });
    }

    /** Forgets tags that their source no longer has. */
    public void forget(String source, java.util.Collection<String> addresses) {
        entries(source).keySet().removeAll(addresses);
    }

    /** How many tags of a source have a value that is not bad. */
    public long live(String source) {
        return entries(source).values().stream().filter(entry -> !entry.value().quality().isBad()).count();
    }

    /** How many changes arrived since the start, all sources together. */
    public long changes() {
        return changes.sum();
    }
}
