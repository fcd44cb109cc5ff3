package dachshund.engine.tag;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.LongAdder;

/**
 * The latest value of every tag, one entry a tag. Reading takes no lock; batches of one source come one at a time, of
 * several sources at once. Recent values are kept only for tags that somebody asked for.
 */
public final class TagTable {

    private final Map<String, Map<String, Entry>> bySource = new ConcurrentHashMap<>();
    private final LongAdder changes = new LongAdder();
    private final Share share = new Share();

    /** Hears of changes of the tags it watches, all of one batch together. Called by the delivering thread; must be quick. */
    public interface Watcher {
        void changed(List<TaggedValue> changes);
    }

    /** The room for recent values of recorded tags: they share it, so that many recorded tags do not fill the memory. */
    static final class Share {

        /** Values of all recorded tags together, about 150 bytes each. */
        static final int ALL = 1_000_000;

        private static final int LEAST = 30;

        private final AtomicInteger tags = new AtomicInteger();
        private volatile int room = RecentValues.ROOM;

        private void oneMore() {
            room = Math.max(LEAST, Math.min(RecentValues.ROOM, ALL / tags.incrementAndGet()));
        }
    }

    /** The place of one tag; stays the same object as long as the application runs. */
    public static final class Entry {

        private static final Watcher[] NOBODY = {};

        private final TagRef tag;
        private final Share share;
        private volatile TagValue value = TagValue.NONE;
        private volatile TagValue lastGood = TagValue.NONE;
        private volatile Instant changedAt = Instant.EPOCH;
        private volatile RecentValues recent;
        private volatile boolean pinned;
        private volatile Instant lookedAt = Instant.EPOCH;
        private volatile Watcher[] watchers = NOBODY;

        private Entry(TagRef tag, Share share) {
            this.tag = tag;
            this.share = share;
        }

        /** The latest value; {@link TagValue#NONE} before anything arrived. */
        public TagValue value() {
            return value;
        }

        /** The latest value that was not bad; {@link TagValue#NONE} where there was none yet. */
        public TagValue lastGood() {
            return lastGood;
        }

        /** When the value last became another one, by this machine's clock; the epoch before anything arrived. */
        public Instant changedAt() {
            return changedAt;
        }

        private void set(TagValue next) {
            if (!next.value().equals(value.value())) {
                changedAt = next.receiveTime();
            }
            value = next;
            if (!next.quality().isBad()) {
                lastGood = next;
            }
            RecentValues kept = recent;
            if (kept != null) {
                kept.add(next, room());
            }
        }

        /** A tag that somebody looks at has all of its minutes. */
        @SuppressWarnings("ReferenceEquality") // the epoch itself stands for nobody
        private int room() {
            return lookedAt == Instant.EPOCH ? share.room : RecentValues.ROOM;
        }

        /** The values of the last minutes, kept from now on for good: the tag is recorded. */
        public RecentValues recent() {
            synchronized (this) {
                if (!pinned) {
                    pinned = true;
                    share.oneMore();
                }
            }
            return kept();
        }

        /** The values of the last minutes, kept from now on while somebody looks now and then. */
        public RecentValues look(Instant now) {
            lookedAt = now;
            return kept();
        }

        private RecentValues kept() {
            RecentValues kept = recent;
            if (kept == null) {
                synchronized (this) {
                    kept = recent;
                    if (kept == null) {
                        kept = new RecentValues();
                        if (value.arrived()) {
                            kept.add(value, room());
                        }
                        recent = kept;
                    }
                }
            }
            return kept;
        }

        private void forgetUnseen(Instant before) {
            if (recent != null && lookedAt.isBefore(before)) {
                lookedAt = Instant.EPOCH;
                recent = pinned ? recent : null;
            }
        }
    }

    /** The entry of a tag, made if it is new. */
    public Entry entry(TagRef tag) {
        return entries(tag.source()).computeIfAbsent(tag.address(), address -> new Entry(tag, share));
    }

    private Map<String, Entry> entries(String source) {
        return bySource.computeIfAbsent(source, id -> new ConcurrentHashMap<>());
    }

    /** Takes a batch of changes of one source. */
    public void offer(String source, List<TagChange> batch) {
        Map<String, Entry> entries = entries(source);
        Map<Watcher, List<TaggedValue>> told = Map.of();
        for (TagChange change : batch) {
            Entry entry = entries.get(change.address());
            if (entry == null) {
                entry = entries.computeIfAbsent(
                        change.address(), address -> new Entry(new TagRef(source, address), share));
            }
            entry.set(change.value());
            told = note(told, entry, change.value());
        }
        changes.add(batch.size());
        told.forEach(Watcher::changed);
    }

    private static Map<Watcher, List<TaggedValue>> note(
            Map<Watcher, List<TaggedValue>> told, Entry entry, TagValue value) {
        Watcher[] watchers = entry.watchers;
        if (watchers.length == 0) {
            return told;
        }
        Map<Watcher, List<TaggedValue>> more = told.isEmpty() ? new LinkedHashMap<>() : told;
        for (Watcher watcher : watchers) {
            more.computeIfAbsent(watcher, each -> new ArrayList<>()).add(new TaggedValue(entry.tag, value));
        }
        return more;
    }

    /** Lets somebody hear of changes of these tags from now on, until {@link #unwatch}. */
    public void watch(Collection<TagRef> tags, Watcher watcher) {
        tags.forEach(tag -> change(entry(tag), watcher, true));
    }

    public void unwatch(Collection<TagRef> tags, Watcher watcher) {
        tags.forEach(tag -> change(entry(tag), watcher, false));
    }

    private static void change(Entry entry, Watcher watcher, boolean add) {
        synchronized (entry) {
            List<Watcher> next = new ArrayList<>(List.of(entry.watchers));
            next.remove(watcher);
            if (add) {
                next.add(watcher);
            }
            entry.watchers = next.toArray(Watcher[]::new);
        }
    }

    /** The source is away: every value of it is bad from now on, never stale and good. */
    public void away(String source, Instant at) {
        Map<Watcher, List<TaggedValue>> told = Map.of();
        for (Entry each : entries(source).values()) {
            TagValue last = each.value();
            if (last.arrived() && !last.quality().equals(Quality.AWAY)) {
                TagValue now = last.withQuality(Quality.AWAY, at);
                each.set(now);
                told = note(told, each, now);
            }
        }
        told.forEach(Watcher::changed);
    }

    /** Forgets tags that their source no longer has. */
    public void forget(String source, Collection<String> addresses) {
        // The place stays, because somebody may hold it; only its value goes.
        addresses.forEach(address ->
                Optional.ofNullable(entries(source).get(address)).ifPresent(entry -> entry.value = TagValue.NONE));
    }

    /** Lets go of the last minutes of tags that nobody records and nobody has looked at since the instant. */
    public void forgetUnseen(Instant before) {
        bySource.values().forEach(entries -> entries.values().forEach(entry -> entry.forgetUnseen(before)));
    }

    /** How many tags of a source have a value that is not bad. */
    public long live(String source) {
        return entries(source).values().stream()
                .filter(entry -> !entry.value().quality().isBad())
                .count();
    }

    /** How many changes arrived since the start, all sources together. */
    public long changes() {
        return changes.sum();
    }
}
