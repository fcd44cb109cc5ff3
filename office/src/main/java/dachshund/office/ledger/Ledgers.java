package dachshund.office.ledger;

import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.own.OwnDatabase;
import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.TimeUnit;
import javax.sql.DataSource;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** Brings runs to the ledger as soon as our own database is there, and keeps it within its bounds. */
@Configuration
class Ledgers {

    /** Runs are kept so long. */
    static final Duration KEPT = Duration.ofDays(400);
    /** And so many of them. */
    static final long MOST = 5_000_000;

    private static final Logger LOG = LoggerFactory.getLogger(Ledgers.class);
    private static final int AT_ONCE = 1000;
    private static final long FIRST_NANOS = TimeUnit.MINUTES.toNanos(5);
    private static final long PAUSE_NANOS = TimeUnit.HOURS.toNanos(1);
    private static final Duration STOP = Duration.ofSeconds(2);

    private Worker tidying;
    private boolean begun;

    @Bean
    LedgerTable ledgerTable(DataSource source, OwnDatabase database, Engine engine) {
        LedgerTable table = new LedgerTable(source);
        database.whenReady(() -> engine.ledger().storeIn(table));
        tidying = Threads.start("ledger-tidy", () -> {
            long pause = begun ? tidy(table, engine.clock(), engine.clockDoubt().isPresent()) : FIRST_NANOS;
            begun = true;
            return pause;
        });
        return table;
    }

    /** What is too old, where the clock is believed, or too much, goes in small steps. */
    static long tidy(LedgerTable table, PlantClock clock, boolean doubted) {
        try {
            Instant oldest = clock.now().minus(KEPT);
            long over = table.count() - MOST;
            int gone = over > 0
                    ? table.removeBefore(clock.now(), (int) Math.min(AT_ONCE, over))
                    : doubted ? 0 : table.removeBefore(oldest, AT_ONCE);
            return gone < AT_ONCE ? PAUSE_NANOS : TimeUnit.SECONDS.toNanos(1);
        } catch (RuntimeException away) {
            LOG.debug("The ledger is tidied later: {}", away.getMessage());
            return PAUSE_NANOS;
        }
    }

    @PreDestroy
    void close() {
        if (tidying != null) {
            tidying.close(STOP);
        }
    }
}
