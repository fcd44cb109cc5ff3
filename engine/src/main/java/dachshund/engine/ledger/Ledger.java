package dachshund.engine.ledger;

import dachshund.core.ledger.LedgerStore;
import dachshund.core.ledger.Noted;
import dachshund.core.ledger.Run;
import dachshund.core.time.PlantClock;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Runs on their way to where they are kept: through a journal, so that an outage there loses none. It decides nothing, and what it
 * cannot take is counted and holds up nobody. Safe for many threads.
 */
public final class Ledger implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Ledger.class);
    private static final String NAME = "ledger";
    private static final String LANE = "runs";
    private static final String SETTLED = "ledger settled";
    private static final int VERSION = 1;
    private static final int AT_ONCE = 500;
    private static final long LOOK_NANOS = 200_000_000L;
    private static final long GATHER_NANOS = 1_000_000_000L;
    private static final long PAUSE_NANOS = 2_000_000_000L;
    private static final Duration STOP = Duration.ofSeconds(1);
    /** One that is refused so often while others are taken goes to a file. */
    private static final int REFUSED_OFTEN = 3;

    private static final Journal.Design DESIGN =
            new Journal.Design(1, "{\"is\":\"ledger\"}".getBytes(StandardCharsets.UTF_8));

    private final SegmentJournal journal;
    private final Journal.Reader reader;
    private final LocalStore local;
    private final PlantClock clock;
    private final Path refused;
    private final Worker worker;
    private final Said said = new Said();
    private final AtomicLong lost = new AtomicLong();
    private final AtomicLong refusals = new AtomicLong();
    private volatile Optional<LedgerStore> store = Optional.empty();
    private volatile String trouble = "";
    private final List<Journal.Entry> read = new ArrayList<>();
    private int again;

    public Ledger(Path folder, SegmentJournal.Limits limits, LocalStore local, PlantClock clock) {
        this.local = local;
        this.clock = clock;
        this.refused = folder.resolve("refused.jsonl");
        Map.Entry<String, Long> known = local.journal(NAME);
        this.journal = new SegmentJournal(
                folder,
                limits,
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                () -> {});
        local.knowsJournal(NAME, journal.id());
        journal.atLeast(LANE, settled());
        this.reader = journal.read(journal.first());
        this.worker = Threads.start(NAME, this::step);
    }

    private long settled() {
        return local.remembered(SETTLED).map(Long::parseLong).orElse(0L);
    }

    /** From now on runs are kept there. */
    public void storeIn(LedgerStore where) {
        store = Optional.of(where);
    }

    /** Takes a run. It never throws, and never waits for where runs are kept. */
    public void note(Run run) {
        try {
            journal.append(
                    LANE,
                    Journal.Kind.RUN,
                    VERSION,
                    DESIGN,
                    RunDocument.write(run).getBytes(StandardCharsets.UTF_8));
        } catch (Journal.Full | RuntimeException no) {
            lost.incrementAndGet();
            said.note(clock.now(), "A run could not be put on disk for the ledger: " + no.getMessage());
            LOG.error("A run is not in the ledger: {}", RunDocument.write(run), no);
        }
    }

    private long step() {
        if (store.isEmpty()) {
            return LOOK_NANOS;
        }
        long settled = settled();
        for (Journal.Entry next; read.size() < AT_ONCE && (next = reader.next()) != null; ) {
            if (next.kind() == Journal.Kind.RUN.letter() && next.nth() > settled) {
                read.add(next);
            }
        }
        if (read.isEmpty()) {
            return LOOK_NANOS;
        }
        boolean full = read.size() >= AT_ONCE;
        try {
            give(again == 0 ? read : read.subList(0, 1));
            again = again == 0 || read.isEmpty() ? 0 : again;
            if (!trouble.isEmpty()) {
                said.note(clock.now(), "Runs are taken again.");
                trouble = "";
            }
            // That it is settled is forced to disk: not more often than needed, since runs come to the same disk.
            return full || !read.isEmpty() ? 0 : GATHER_NANOS;
        } catch (RuntimeException no) {
            again++;
            String why = no.getMessage() == null ? Threads.words(no) : no.getMessage();
            if (!why.equals(trouble)) {
                said.note(clock.now(), "Runs wait on disk for the ledger: " + why);
            }
            trouble = why;
            return again > REFUSED_OFTEN && passOver(why) ? 0 : PAUSE_NANOS;
        }
    }

    private void give(List<Journal.Entry> these) {
        List<Noted> runs = new ArrayList<>();
        for (Journal.Entry each : these) {
            try {
                runs.add(RunDocument.noted(new String(each.body(), StandardCharsets.UTF_8)));
            } catch (IllegalArgumentException unreadable) {
                keepAside(each, unreadable.getMessage());
            }
        }
        store.orElseThrow().take(runs);
        done(these);
    }

    private void done(List<Journal.Entry> these) {
        Journal.Entry end = these.get(these.size() - 1);
        local.remember(SETTLED, Long.toString(end.nth()));
        these.clear();
        journal.release(read.isEmpty() ? end.next() : read.get(0).position());
        if (read.isEmpty()) {
            again = 0;
        }
    }

    /** Where the store takes nothing at all it is away, and everything waits; else the first one is put aside. */
    private boolean passOver(String why) {
        try {
            store.orElseThrow().take(List.of());
        } catch (RuntimeException away) {
            return false;
        }
        keepAside(read.get(0), why);
        done(read.subList(0, 1));
        again = 1;
        return true;
    }

    private void keepAside(Journal.Entry entry, String why) {
        refusals.incrementAndGet();
        LOG.error("A run was refused by the ledger and stands in {}: {}", refused, why);
        try {
            Files.writeString(
                    refused,
                    new String(entry.body(), StandardCharsets.UTF_8) + "\n",
                    StandardOpenOption.CREATE,
                    StandardOpenOption.APPEND);
        } catch (IOException cannot) {
            LOG.error("Nor could it be put there.", cannot);
        }
    }

    /** Why runs wait, in a sentence; empty where they do not. */
    public String trouble() {
        return trouble;
    }

    /** Runs since the start that are not in the ledger: the disk did not take them, or they stand in a file. */
    public long missing() {
        return lost.get() + refusals.get();
    }

    /** Runs on disk that are not kept yet. */
    public long waiting() {
        return journal.last(LANE) - settled();
    }

    public List<Said.Line> said() {
        return said.lines();
    }

    @Override
    public void close() {
        worker.close(STOP);
        journal.close();
    }
}
