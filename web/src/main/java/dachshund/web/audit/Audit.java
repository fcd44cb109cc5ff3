package dachshund.web.audit;

import dachshund.core.time.PlantClock;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/** Who did what and when. While our own database is away, entries go to the log alone. */
@Component
public class Audit {

    private static final Logger LOG = LoggerFactory.getLogger(Audit.class);

    /** Characters of a detail. */
    private static final int MOST = 1000;

    private final JdbcClient jdbc;
    private final PlantClock clock;

    /** One entry. */
    public record Entry(Instant at, String who, String what, String detail) {}

    Audit(JdbcClient jdbc, PlantClock clock) {
        this.jdbc = jdbc;
        this.clock = clock;
    }

    /** Notes that somebody did something. */
    public void note(String who, String what, String detail) {
        LOG.info("audit: {}: {}: {}", who, what, detail);
        try {
            jdbc.sql("INSERT INTO audit (at, who, what, detail) VALUES (?, ?, ?, ?)")
                    .params(LocalDateTime.ofInstant(clock.now(), ZoneOffset.UTC), who, what, fitting(detail))
                    .update();
        } catch (DataAccessException away) {
            LOG.warn("The audit entry above is in this log alone: {}", away.getMessage());
        }
    }

    /** As much of a detail as an entry holds. */
    public static String fitting(String detail) {
        return detail.substring(0, Math.min(MOST, detail.length()));
    }

    /** The newest entries, newest first. */
    public List<Entry> newest(int limit) {
        return jdbc.sql("SELECT at, who, what, detail FROM audit ORDER BY id DESC LIMIT ?")
                .param(limit)
                .query((row, n) -> new Entry(
                        row.getObject(1, LocalDateTime.class).toInstant(ZoneOffset.UTC),
                        row.getString(2),
                        row.getString(3),
                        row.getString(4)))
                .list();
    }
}
