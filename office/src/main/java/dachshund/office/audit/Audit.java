package dachshund.office.audit;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.audit.AuditChain;
import dachshund.core.secret.SecretBox;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.local.LocalStore.LocalStoreFailed;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.links.jdbc.JdbcProblems;
import dachshund.office.audit.AuditTable.Deed;
import dachshund.office.own.OwnDatabase;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import javax.sql.DataSource;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Who did what and when, and what they tried. While our own database is away, entries wait on the local disk and are brought
 * in when it answers; each is there once. Entries are a chain ({@link AuditChain}), whose end is kept on the local disk as
 * well: it is walked along at the start, once a day and when somebody asks.
 */
@Component
public class Audit {

    private static final Logger LOG = LoggerFactory.getLogger(Audit.class);
    private static final ObjectMapper JSON = new ObjectMapper();

    /** Its name in the local store: number and checksum of the last entry. */
    public static final String HEAD = "audit head";

    /** What waits is of this kind. */
    public static final String WAITS = "audit";

    private static final int MOST_WAITING = 10_000;
    private static final int AT_ONCE = 200;
    private static final int MOST_REFUSALS = 5;
    private static final int LONGEST_ANSWER_MILLIS = 5000;
    private static final Duration CALM = Duration.ofMinutes(10);
    private static final int CALMED = 1000;
    private static final Duration MINUTE = Duration.ofMinutes(1);
    private static final int TRIED_A_MINUTE = 100;
    private static final Duration BETWEEN_WALKS = Duration.ofDays(1);

    private final DataSource dataSource;
    private final PlantClock clock;
    private final OwnDatabase database;
    private final Engine engine;
    private final AuditTable table;
    private final Map<String, Long> calmed = new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
            return size() > CALMED;
        }
    };
    private long minuteBegan = System.nanoTime();
    private int inMinute;
    private int waiting;
    private String refused = "";
    private int refusals;
    private volatile long inLogAlone;
    private volatile Checked checked = new Checked(Instant.EPOCH, 0, 0, "");
    private Worker walker;

    /**
     * What the last walk along the chain found.
     *
     * @param at         when; {@link Instant#EPOCH} before the first
     * @param entries    that were looked at
     * @param withoutKey of these, made while the key was lost
     * @param broken     what is not whole, in a sentence; empty where all is
     */
    public record Checked(Instant at, long entries, long withoutKey, String broken) {}

    Audit(DataSource dataSource, PlantClock clock, OwnDatabase database, SecretBox secrets, Engine engine) {
        this.dataSource = dataSource;
        this.clock = clock;
        this.database = database;
        this.engine = engine;
        this.table = new AuditTable(secrets);
        this.waiting = engine.local().waiting().count(WAITS);
        database.wheneverItAnswers(this::bringIn);
        database.whenReady(() -> walker = Threads.start("audit-walk", () -> {
            check();
            return BETWEEN_WALKS.toNanos();
        }));
    }

    /** Notes that somebody did something. */
    public synchronized void note(String who, String what, String detail) {
        LOG.info("audit: {}: {}: {}", who, what, detail);
        Deed deed = new Deed(mark(), clock.now(), who, what, detail);
        if (waiting > 0 || !database.answers() || !stored(deed)) {
            keep(deed);
        }
    }

    /** Notes what may be tried over and over: the same again within ten minutes is not noted again. */
    public void noteOnce(String who, String what, String detail) {
        synchronized (calmed) {
            String key = who + "\n" + what + "\n" + detail;
            Long last = calmed.get(key);
            if (last != null && System.nanoTime() - last < CALM.toNanos()) {
                return;
            }
            calmed.remove(key);
            calmed.put(key, System.nanoTime());
        }
        note(who, what, detail);
    }

    /** Notes what anybody may try without a sign-in: so many in a minute are listed singly, and of the rest that there were more. */
    public void noteTried(String who, String what, String detail) {
        int nth;
        synchronized (calmed) {
            if (System.nanoTime() - minuteBegan > MINUTE.toNanos()) {
                minuteBegan = System.nanoTime();
                inMinute = 0;
            }
            inMinute++;
            nth = inMinute;
        }
        if (nth <= TRIED_A_MINUTE) {
            note(who, what, detail);
        } else if (nth == TRIED_A_MINUTE + 1) {
            note("dachshund", "does not list all attempts", "there are more than " + TRIED_A_MINUTE + " a minute");
        }
    }

    /** Tells an entry from all others. */
    public static String mark() {
        return UUID.randomUUID().toString().replace("-", "");
    }

    private boolean stored(Deed deed) {
        try {
            store(deed);
            return true;
        } catch (SQLException | LocalStoreFailed away) {
            LOG.warn("An entry of the audit waits: {}", away.getMessage());
            return false;
        }
    }

    private void store(Deed deed) throws SQLException {
        try (Connection connection = connection()) {
            String kept = engine.local().remembered(HEAD).orElse("");
            String missing = AuditTable.missing(connection, kept);
            if (!missing.isEmpty()) {
                // Noted before the end is known anew: what was cut off would not be missed afterwards.
                LOG.error("The audit is not whole: {}", missing);
                table.append(
                        connection,
                        new Deed(mark(), clock.now(), "dachshund", "found the audit altered", missing),
                        kept);
                checked = new Checked(clock.now(), checked.entries(), checked.withoutKey(), missing);
            }
            String head = table.append(connection, deed, kept).text();
            try {
                engine.local().remember(HEAD, head);
            } catch (LocalStoreFailed disk) {
                // It is in the table. The end that is known locally stays an earlier one, which is there as well.
                LOG.warn("The end of the audit is not kept locally: {}", disk.getMessage());
            }
        }
    }

    private Connection connection() throws SQLException {
        Connection connection = dataSource.getConnection();
        connection.setNetworkTimeout(Runnable::run, LONGEST_ANSWER_MILLIS);
        return connection;
    }

    private void keep(Deed deed) {
        try {
            if (waiting >= MOST_WAITING) {
                throw new IllegalStateException(MOST_WAITING + " entries wait already");
            }
            engine.local().waiting().add(WAITS, deed.mark(), text(deed));
            waiting++;
        } catch (IllegalStateException | LocalStoreFailed cannot) {
            inLogAlone++;
            LOG.error("The entry of the audit above is in this log alone: {}", cannot.getMessage());
        }
    }

    /** A deed as it waits. */
    public static String text(Deed deed) {
        try {
            return JSON.writeValueAsString(
                    List.of(Long.toString(deed.at().toEpochMilli()), deed.who(), deed.what(), deed.detail()));
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    private static Deed deed(String mark, String text) {
        try {
            String[] parts = JSON.readValue(text, String[].class);
            return new Deed(mark, Instant.ofEpochMilli(Long.parseLong(parts[0])), parts[1], parts[2], parts[3]);
        } catch (JsonProcessingException | NumberFormatException | ArrayIndexOutOfBoundsException strange) {
            return new Deed(mark, Instant.EPOCH, "unknown", "an entry that cannot be read", text);
        }
    }

    /** Brings in what waits, some at a time. */
    synchronized void bringIn() {
        for (Map.Entry<String, String> each :
                engine.local().waiting().first(WAITS, AT_ONCE).entrySet()) {
            Deed deed = deed(each.getKey(), each.getValue());
            try {
                store(deed);
            } catch (SQLException problem) {
                LOG.warn("An entry of the audit waits: {}", problem.getMessage());
                if (JdbcProblems.ofConnection(problem) || !refusedForGood(deed)) {
                    return;
                }
                LOG.error("audit, refused by our own database: {}: {}: {}", deed.who(), deed.what(), deed.detail());
                if (!stored(instead(deed, problem))) {
                    return;
                }
            }
            engine.local().waiting().remove(each.getKey());
        }
        waiting = engine.local().waiting().count(WAITS); // a backup adds entries from beside the application
    }

    /** One that is refused so many times for what it is must not hold up those behind it. */
    private boolean refusedForGood(Deed deed) {
        refusals = deed.mark().equals(refused) ? refusals + 1 : 1;
        refused = deed.mark();
        return refusals >= MOST_REFUSALS;
    }

    /** What stands in the audit in place of one that our own database does not take. It has the same mark: it is there once. */
    private static Deed instead(Deed deed, SQLException problem) {
        return new Deed(
                deed.mark(),
                deed.at(),
                "dachshund",
                "could not store an entry",
                "It is in the log. Our own database said: " + problem.getMessage());
    }

    /** How many wait for our own database. */
    public synchronized int waiting() {
        return waiting;
    }

    /** How many since the start are in the log alone, since neither our own database nor the local disk took them. */
    public long inLogAlone() {
        return inLogAlone;
    }

    /** Walks along the chain now. */
    public Checked check() {
        try (Connection connection = dataSource.getConnection()) {
            if (engine.local().remembered(HEAD).isEmpty() && AuditTable.notBegun(connection)) {
                note("dachshund", "began the chain of the audit", "entries of before are numbered and summed");
            }
            String kept = engine.local().remembered(HEAD).orElse("");
            AuditChain.Walk walk = table.walk(connection);
            String broken = walk.broken().isEmpty() ? AuditTable.missing(connection, kept) : walk.broken();
            checked = new Checked(clock.now(), walk.entries(), walk.withoutKey(), broken);
            if (!broken.isEmpty()) {
                LOG.error("The audit is not whole: {}", broken);
            }
        } catch (SQLException away) {
            LOG.warn("The audit could not be walked along: {}", away.getMessage());
        }
        return checked;
    }

    /** What the last walk along the chain found. */
    public Checked checked() {
        return checked;
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        if (walker != null) {
            walker.close();
        }
    }
}
