package dachshund.engine.tag;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.LongAdder;
import java.util.concurrent.locks.ReentrantReadWriteLock;
import java.util.function.Consumer;
import java.util.function.Supplier;

/**
 * The latest value of every tag, one entry a tag. Reading takes no lock; batches of one source come one at a time, of
 * several sources at once. Recent values are kept only for tags that somebody asked for.
 */
public final class TagTable {

    private final Map<String, Map<String, Entry>> bySource = new ConcurrentHashMap<>();
    private final LongAdder changes = new LongAdder();
    private final PlantClock clock;
    private final Share share = new Share();

    /**
     * Held by batches together, and alone by whoever changes who watches: a batch is seen whole by the watchers before the
     * change or by those after it.
     */
    private final ReentrantReadWriteLock watching = new ReentrantReadWriteLock();

    private final Object settleLock = new Object();
    private final Said said = new Said();
    private volatile Settling settling = changes -> List.of();

    /**
     * Hears of changes of the tags it watches, all of one batch together, formulas settled. Called by the delivering thread:
     * only takes note, and hands on what takes time.
     */
    public interface Watcher {
        void changed(List<TaggedValue> changes);
    }

    /** Computes what follows from a batch, before anybody hears of it. */
    public interface Settling {

        /** @return the values of formula tags that follow, in the order in which they do */
        List<TaggedValue> settle(List<TaggedValue> changes);
    }

    public TagTable(PlantClock clock) {
        this.clock = clock;
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
        private static final long MICROS_A_SECOND = 1_000_000;
        private static final int NANOS_A_MICRO = 1000;

        private final TagRef tag;
        private final Share share;
        private static final VarHandle VALUE = valueHandle();
        private volatile TagValue value = TagValue.NONE;
        /**
         * The one before it turned bad; while it is good, it is its own last good one. This and the next are seen by whoever has
         * read {@link #value} before: a fence for each of every value would cost much, and so do references that an old object
         * gets to new ones.
         */
        private TagValue beforeBad = TagValue.NONE;

        /** In microseconds since 1970. */
        private long changedMicros;

        private volatile RecentValues recent;
        private volatile boolean pinned;
        private volatile Instant lookedAt = Instant.EPOCH;
        private volatile Watcher[] watchers = NOBODY;
        private volatile boolean derives;

        private Entry(TagRef tag, Share share) {
            this.tag = tag;
            this.share = share;
        }

        private static VarHandle valueHandle() {
            try {
                return MethodHandles.lookup().findVarHandle(Entry.class, "value", TagValue.class);
            } catch (ReflectiveOperationException never) {
                throw new ExceptionInInitializerError(never);
            }
        }

        public TagRef tag() {
            return tag;
        }

        /** The latest value; {@link TagValue#NONE} before anything arrived. */
        public TagValue value() {
            return value;
        }

        /** The latest value that was not bad; {@link TagValue#NONE} where there was none yet. */
        public TagValue lastGood() {
            TagValue now = value;
            return !now.arrived() ? TagValue.NONE : now.quality().isBad() ? beforeBad : now;
        }

        /** When the value last became another one, by this machine's clock, to the microsecond; the epoch before anything arrived. */
        public Instant changedAt() {
            return value.arrived() ? Instant.EPOCH.plus(changedMicros, ChronoUnit.MICROS) : Instant.EPOCH;
        }

        private void set(TagValue next) {
            TagValue before = value;
            if (!next.value().equals(before.value())) {
                Instant at = next.receiveTime();
                changedMicros = at.getEpochSecond() * MICROS_A_SECOND + at.getNano() / NANOS_A_MICRO;
            }
            if (next.quality().isBad() && !before.quality().isBad()) {
                beforeBad = before;
            }
            // Without waiting for other threads to see it: who has to see it hears of it through a queue or a lock.
            VALUE.setRelease(this, next);
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

        private void forget() {
            beforeBad = TagValue.NONE;
            changedMicros = 0;
            value = TagValue.NONE;
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

    /** Whoever computes formula tags from now on. */
    public void settledBy(Settling next) {
        settling = next;
    }

    /** Takes a batch of changes of one source. */
    public void offer(String source, List<TagChange> batch) {
        watching.readLock().lock();
        try {
            Map<String, Entry> entries = entries(source);
            List<TaggedValue> all = new ArrayList<>(batch.size());
            Map<Watcher, List<TaggedValue>> told = Map.of();
            boolean derives = false;
            for (TagChange change : batch) {
                Entry entry = entries.get(change.address());
                if (entry == null) {
                    entry = entries.computeIfAbsent(
                            change.address(), address -> new Entry(new TagRef(source, address), share));
                }
                entry.set(change.value());
                told = note(told, entry, change.value());
                if (entry.derives) {
                    derives = true;
                    all.add(new TaggedValue(entry.tag, change.value()));
                }
            }
            changes.add(batch.size());
            if (derives) {
                derive(() -> settling.settle(all), told);
            } else {
                tell(told);
            }
        } finally {
            watching.readLock().unlock();
        }
    }

    /** Takes values of formula tags that follow from something else than a batch: from time that passes, or from a new formula. */
    public void derived(Supplier<List<TaggedValue>> computing) {
        watching.readLock().lock();
        try {
            derive(computing, Map.of());
        } finally {
            watching.readLock().unlock();
        }
    }

    /** Computing, keeping and telling are one step, so that nobody hears of an older result after a newer one. */
    private void derive(Supplier<List<TaggedValue>> computing, Map<Watcher, List<TaggedValue>> told) {
        synchronized (settleLock) {
            tell(settle(computing, told));
        }
    }

    private Map<Watcher, List<TaggedValue>> settle(
            Supplier<List<TaggedValue>> computing, Map<Watcher, List<TaggedValue>> told) {
        Map<Watcher, List<TaggedValue>> more = told;
        try {
            for (TaggedValue derived : computing.get()) {
                Entry entry = entry(derived.tag());
                entry.set(derived.value());
                more = note(more, entry, derived.value());
                changes.increment();
            }
        } catch (RuntimeException | Error thrown) {
            said(thrown);
        }
        return more;
    }

    /** Each watcher by itself: what one throws, the others do not notice. */
    private void tell(Map<Watcher, List<TaggedValue>> told) {
        told.forEach((watcher, theirs) -> {
            try {
                watcher.changed(theirs);
            } catch (RuntimeException | Error thrown) {
                said(thrown);
            }
        });
    }

    private void said(Throwable thrown) {
        Threads.report(thrown);
        said.note(clock.now(), "Telling of a change failed: " + Threads.words(thrown));
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
        replace(Set.of(), null, tags, watcher, first -> {});
    }

    public void unwatch(Collection<TagRef> tags, Watcher watcher) {
        replace(tags, watcher, Set.of(), null, first -> {});
    }

    /**
     * Puts one watcher in the place of another at one instant: every batch is told to the one or to the other.
     *
     * @param before what listened to the first tags; null for nobody
     * @param after  listens to the second ones; null for nobody
     * @param look   gets the values of that instant, before the first change is told
     */
    public void replace(
            Collection<TagRef> tagsBefore,
            Watcher before,
            Collection<TagRef> tagsAfter,
            Watcher after,
            Consumer<Map<TagRef, TagValue>> look) {
        watching.writeLock().lock();
        try {
            if (before != null) {
                tagsBefore.forEach(tag -> change(entry(tag), before, false));
            }
            Map<TagRef, TagValue> first = new LinkedHashMap<>();
            if (after != null) {
                for (TagRef tag : tagsAfter) {
                    Entry entry = entry(tag);
                    change(entry, after, true);
                    first.put(tag, entry.value());
                }
            }
            look.accept(first);
        } finally {
            watching.writeLock().unlock();
        }
    }

    /** Marks a tag that formulas are computed from, or that no formula is computed from any more. */
    public void derivesFrom(TagRef tag, boolean used) {
        entry(tag).derives = used;
    }

    private static void change(Entry entry, Watcher watcher, boolean add) {
        List<Watcher> next = new ArrayList<>(List.of(entry.watchers));
        next.remove(watcher);
        if (add) {
            next.add(watcher);
        }
        entry.watchers = next.toArray(Watcher[]::new);
    }

    /** The source is away: every value of it is bad from now on, never stale and good. */
    public void away(String source, Instant at) {
        List<TagChange> bad = new ArrayList<>();
        for (Entry each : entries(source).values()) {
            TagValue last = each.value();
            if (last.arrived() && !last.quality().equals(Quality.AWAY)) {
                bad.add(new TagChange(each.tag.address(), last.withQuality(Quality.AWAY, at)));
            }
        }
        if (!bad.isEmpty()) {
            offer(source, bad);
        }
    }

    /** What went wrong when changes were told, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    /** Forgets tags that their source no longer has. */
    public void forget(String source, Collection<String> addresses) {
        // The place stays, because somebody may hold it; only its value goes.
        addresses.forEach(
                address -> Optional.ofNullable(entries(source).get(address)).ifPresent(Entry::forget));
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
