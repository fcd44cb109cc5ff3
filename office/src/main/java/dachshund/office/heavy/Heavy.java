package dachshund.office.heavy;

import dachshund.links.heavy.JoinJob;
import dachshund.office.own.DachshundSettings;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * What takes much memory or native code is done in a process of its own, which is killed where it takes too much of either
 * memory or time, and begun again for the next work. Recording knows nothing of it.
 */
@Component
public class Heavy {

    private static final Logger LOG = LoggerFactory.getLogger(Heavy.class);

    private final Path folder;
    private final Limits limits;
    /** One work at a time; whoever came first is first. */
    private final Semaphore turn = new Semaphore(1, true);

    private SecondProcess process;

    /**
     * @param memory  resident bytes at which it is killed
     * @param silence for so long it may work at one step
     * @param patience for so long somebody waits for their turn
     */
    public record Limits(long memory, Duration silence, Duration patience) {

        static final Limits USUAL = new Limits(900_000_000L, Duration.ofMinutes(10), Duration.ofSeconds(20));
    }

    /** It could not be done; the message is a sentence for a person. */
    public static final class Unable extends IOException {
        private static final long serialVersionUID = 1;

        Unable(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    @Autowired
    Heavy(DachshundSettings settings) {
        this(settings.var().resolve("heavy"), Limits.USUAL);
    }

    public Heavy(Path folder, Limits limits) {
        this.folder = folder;
        this.limits = limits;
        remains();
    }

    /** A process that was killed may have left half a file. */
    private void remains() {
        if (!Files.isDirectory(folder)) {
            return;
        }
        try (Stream<Path> left = Files.walk(folder)) {
            for (Path each : left.sorted(java.util.Comparator.reverseOrder()).toList()) {
                if (!each.equals(folder)) {
                    Files.deleteIfExists(each);
                }
            }
        } catch (IOException cannot) {
            LOG.warn("What was left in {} could not be removed: {}", folder, cannot.getMessage());
        }
    }

    /**
     * Begins a Parquet file; whoever begins it closes it.
     *
     * @param columns names, in the order of the cells
     * @throws Unable where another one takes too long, or no second process can be had
     */
    public HeavyParquet parquet(List<String> columns) throws IOException {
        SecondProcess mine = begin(limits.patience());
        boolean begun = false;
        try {
            HeavyParquet parquet = new HeavyParquet(
                    mine, columns, folder.resolve(Long.toHexString(System.nanoTime()) + ".parquet"), turn::release);
            begun = true;
            return parquet;
        } finally {
            if (!begun) {
                turn.release();
            }
        }
    }

    /**
     * Begins one query over several tables of rows; whoever begins it closes it.
     *
     * @param zone  of times that say none
     * @param sql   of DuckDB, with question marks for values
     * @param limit for so long it may take from now on, all together; it is broken off then
     * @param most  no more rows than these come of it
     * @throws Unable where another work takes too long, or no second process can be had
     */
    public HeavyJoin join(ZoneId zone, String sql, Duration limit, long most) throws IOException {
        long until = System.nanoTime() + limit.toNanos();
        SecondProcess mine = begin(limit.compareTo(limits.patience()) < 0 ? limit : limits.patience());
        boolean begun = false;
        try {
            HeavyJoin join =
                    new HeavyJoin(mine, new JoinJob(folder.toString(), zone.getId(), sql, most), until, turn::release);
            begun = true;
            return join;
        } finally {
            if (!begun) {
                turn.release();
            }
        }
    }

    /** The process, for whoever has their turn now. */
    private SecondProcess begin(Duration patience) throws IOException {
        try {
            if (!turn.tryAcquire(patience.toMillis(), TimeUnit.MILLISECONDS)) {
                throw new Unable(
                        "The second process is at other work, and does one at a time. Try again in a while.", null);
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new Unable("It was broken off.", interrupted);
        }
        boolean ready = false;
        try {
            Files.createDirectories(folder);
            if (process == null || !process.alive()) {
                process = new SecondProcess(folder, limits);
            }
            ready = true;
            return process;
        } finally {
            if (!ready) {
                turn.release();
            }
        }
    }

    @PreDestroy
    public void close() {
        SecondProcess now = process;
        if (now != null) {
            now.kill("The application is stopped.");
        }
    }
}
