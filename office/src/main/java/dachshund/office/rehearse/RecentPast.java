package dachshund.office.rehearse;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Series;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.office.archive.Histories;
import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ScheduledExecutorService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * The last minutes of tags from the archive, for pages that are drawn anew every few seconds and wait for nothing: what was not
 * read yet is read beside and is there at the next drawing.
 */
@Component
public class RecentPast {

    private static final Logger LOG = LoggerFactory.getLogger(RecentPast.class);

    private static final int MOST_TAGS = 2000;
    private static final int MOST_VALUES = 20_000;
    private static final Duration GOOD_FOR = Duration.ofMinutes(3);

    private final Histories histories;
    private final PlantClock clock;
    private final ScheduledExecutorService beside = Threads.pool("recent-past", 1);
    private final Set<TagRef> asked = new HashSet<>();
    private final Map<TagRef, Known> known = new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<TagRef, Known> eldest) {
            return size() > MOST_TAGS;
        }
    };

    /** What was read, from when on and when. */
    private record Known(Instant from, Instant read, List<TagValue> values) {}

    @Autowired
    RecentPast(Histories histories, Engine engine) {
        this(histories, engine.clock());
    }

    RecentPast(Histories histories, PlantClock clock) {
        this.histories = histories;
        this.clock = clock;
    }

    /** The values of a tag before an instant, oldest first, with the one that was there at the beginning; none as long as nothing was read. */
    public List<TagValue> of(TagRef tag, Optional<TagInfo> info, Instant from, Instant until) {
        Instant now = clock.now();
        Known there;
        synchronized (known) {
            there = known.get(tag);
            boolean good = there != null
                    && !there.from().isAfter(from)
                    && !there.read().isBefore(now.minus(GOOD_FOR));
            if (!good && asked.add(tag)) {
                beside.execute(() -> read(tag, info, from));
            }
        }
        if (there == null) {
            return List.of();
        }
        List<TagValue> wanted = new ArrayList<>();
        for (TagValue value : there.values()) {
            if (!value.receiveTime().isBefore(until)) {
                break;
            }
            if (!value.receiveTime().isAfter(from)) {
                wanted.clear();
            }
            wanted.add(value);
        }
        return wanted;
    }

    private void read(TagRef tag, Optional<TagInfo> info, Instant from) {
        Instant now = clock.now();
        List<TagValue> values = new ArrayList<>();
        try {
            if (histories.count(tag, from, now) <= MOST_VALUES) {
                Series series = histories.read(tag, from, now).series();
                for (int i = Math.max(0, series.before(OpcUaTime.toTicks(from)) - 1); i < series.size(); i++) {
                    values.add(PastValues.value(series, i, info));
                }
            }
        } catch (Problem away) {
            LOG.debug("The last minutes of {} cannot be read: {}", tag, away.getMessage());
        } finally {
            synchronized (known) {
                asked.remove(tag);
                known.remove(tag);
                known.put(tag, new Known(from, now, List.copyOf(values)));
            }
        }
    }

    @PreDestroy
    void close() {
        beside.shutdownNow();
    }
}
