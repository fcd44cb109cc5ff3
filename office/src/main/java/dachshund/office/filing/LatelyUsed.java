package dachshund.office.filing;

import dachshund.core.definition.Definition;
import dachshund.core.time.PlantClock;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.own.OwnDatabase;
import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/**
 * What each person opened lately. Kept in our own database a few seconds later; while that is away it is known here, and no page
 * waits for it.
 */
@Component
public class LatelyUsed {

    private static final Logger LOG = LoggerFactory.getLogger(LatelyUsed.class);

    private static final long PAUSE_NANOS = TimeUnit.SECONDS.toNanos(5);
    /** What is older is no longer lately. */
    private static final Duration LATELY = Duration.ofDays(60);

    private static final int MOST_UNWRITTEN = 10_000;

    private final JdbcClient jdbc;
    private final PlantClock clock;
    private final Map<Use, Instant> used = new ConcurrentHashMap<>();
    private final Map<Use, Instant> unwritten = new ConcurrentHashMap<>();
    private final Worker writer;

    private record Use(String person, String thing) {}

    LatelyUsed(JdbcClient jdbc, PlantClock clock, OwnDatabase database) {
        this.jdbc = jdbc;
        this.clock = clock;
        database.whenReady(this::load);
        this.writer = Threads.start("lately-used", this::write);
    }

    private void load() {
        jdbc.sql("DELETE FROM lately_used WHERE used_at < ?")
                .param(LocalDateTime.ofInstant(clock.now().minus(LATELY), ZoneOffset.UTC))
                .update();
        jdbc.sql("SELECT person, definition_id, used_at FROM lately_used").query(row -> {
            used.merge(
                    new Use(row.getString(1), row.getString(2)),
                    row.getObject(3, LocalDateTime.class).toInstant(ZoneOffset.UTC),
                    (a, b) -> a.isAfter(b) ? a : b);
        });
    }

    /** Somebody opened it. */
    public void opened(String person, String thing) {
        Use use = new Use(person, thing);
        used.put(use, clock.now());
        if (unwritten.size() < MOST_UNWRITTEN) {
            unwritten.put(use, clock.now());
        }
    }

    private long write() {
        for (Map.Entry<Use, Instant> each : new HashMap<>(unwritten).entrySet()) {
            try {
                jdbc.sql(
                                "INSERT INTO lately_used (person, definition_id, used_at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE used_at = VALUES(used_at)")
                        .param(each.getKey().person())
                        .param(each.getKey().thing())
                        .param(LocalDateTime.ofInstant(each.getValue(), ZoneOffset.UTC))
                        .update();
                unwritten.remove(each.getKey(), each.getValue());
            } catch (DataAccessException away) {
                // That it is away is said elsewhere; this waits.
                LOG.debug("What was opened lately is written later: {}", away.getMessage());
                return PAUSE_NANOS;
            }
        }
        return PAUSE_NANOS;
    }

    /** What this person opened last first, the others as they are. */
    public <D extends Definition> List<D> first(List<D> things, String person) {
        return things.stream()
                .sorted(Comparator.comparing((D thing) -> used.getOrDefault(new Use(person, thing.id()), Instant.EPOCH))
                        .reversed())
                .toList();
    }

    /** Whether this person opened it lately. */
    public boolean has(String person, String thing) {
        return used.containsKey(new Use(person, thing));
    }

    @PreDestroy
    void close() {
        writer.close(Duration.ofSeconds(2));
    }
}
