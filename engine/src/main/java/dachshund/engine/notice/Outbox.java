package dachshund.engine.notice;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dachshund.core.notice.Carrier;
import dachshund.core.notice.Carrier.Undelivered;
import dachshund.core.notice.Message;
import dachshund.core.notice.NoticeRule;
import dachshund.core.time.PlantClock;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.SentNotices.Sent;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Messages on their way: in a journal as rows are, a lane for each recipient, so that one who cannot be reached holds up no
 * other, and a mail server that is away for a day loses none. Each is carried at least once; one that was carried when the
 * machine died, before that was known on disk, is carried again with the same id.
 */
public final class Outbox implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Outbox.class);
    private static final ObjectMapper JSON = new ObjectMapper().registerModule(new JavaTimeModule());
    private static final String NAME = "notices";

    static final SegmentJournal.Limits LIMITS = new SegmentJournal.Limits(64L << 20, 64L << 20, 4L << 20, 100);
    /** What is older is not news any more. */
    static final Duration OLDEST = Duration.ofDays(3);
    /** Something that nobody expected is not tried for ever. */
    private static final int UNEXPECTED = 5;

    private static final long FIRST_PAUSE_NANOS = 5_000_000_000L;
    private static final int MOST_DOUBLINGS = 6;
    private static final long LONG_SECONDS = 60;
    private static final long LOOK_NANOS = 200_000_000L;
    private static final long CLOSE_NANOS = 2_000_000_000L;

    private final LocalStore local;
    private final PlantClock clock;
    private final Map<NoticeRule.Way, Carrier> carriers;
    private final long firstPause;
    private final SegmentJournal journal;
    private final Journal.Reader reader;
    private final Map<String, Lane> lanes = new ConcurrentHashMap<>();
    private final ExecutorService carrying = Threads.onDemand("notice");
    private final Worker worker;
    /** Read, and not in its lane yet; of the worker's thread. */
    private Journal.Entry read;

    private volatile boolean closing;

    /** What stands in the journal of one message to one recipient. */
    private record Letter(String rule, NoticeRule.Way way, String to, Message message) {}

    private record Waits(long position, long nth, Letter letter) {}

    /**
     * How one recipient stands.
     *
     * @param waiting  messages that are on their way
     * @param sentence why they have not arrived yet; empty where nothing was tried in vain
     * @param oldest   when the oldest of them was written
     */
    public record State(String rule, String to, int waiting, String sentence, Instant oldest) {}

    private static final class Lane {
        private final Deque<Waits> waits = new ArrayDeque<>();
        private boolean busy;
        private long busySince;
        private int failures;
        private int unexpected;
        private long notBefore = Long.MIN_VALUE;
        private String sentence = "";

        private String words() {
            long seconds = (System.nanoTime() - busySince) / 1_000_000_000L;
            return busy && seconds > LONG_SECONDS
                    ? "It is being sent for " + seconds + " s; the other side neither takes nor refuses it."
                    : sentence;
        }
    }

    public Outbox(Path folder, LocalStore local, PlantClock clock, Map<NoticeRule.Way, Carrier> carriers) {
        this(folder, local, clock, carriers, FIRST_PAUSE_NANOS);
    }

    Outbox(Path folder, LocalStore local, PlantClock clock, Map<NoticeRule.Way, Carrier> carriers, long firstPause) {
        this.local = local;
        this.clock = clock;
        this.carriers = Map.copyOf(carriers);
        this.firstPause = firstPause;
        Map.Entry<String, Long> known = local.journal(NAME);
        this.journal = new SegmentJournal(
                folder,
                LIMITS,
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                () -> {});
        local.knowsJournal(NAME, journal.id());
        journal.lanes().forEach(lane -> journal.atLeast(lane, local.notices().settled(lane)));
        this.reader = journal.read(journal.first());
        this.worker = Threads.start("notices", this::step);
    }

    /**
     * Takes a message for everybody whom the rule names.
     *
     * @return a position; once {@link #durable} is there, no loss of power takes the message away
     * @throws Journal.Full with a sentence, where the disk does not take it
     */
    public long post(NoticeRule rule, Message message) throws Journal.Full {
        try {
            byte[] document = JSON.writeValueAsBytes(rule);
            Journal.Design design = new Journal.Design(HexFormat.fromHexDigitsToLong(hash(document, 16)), document);
            for (String to : rule.recipients()) {
                String lane = rule.id() + "-" + hash(to.getBytes(StandardCharsets.UTF_8), 8);
                journal.atLeast(lane, local.notices().settled(lane));
                journal.append(
                        lane,
                        Journal.Kind.NOTICE,
                        1,
                        design,
                        JSON.writeValueAsBytes(new Letter(rule.name(), rule.way(), to, message)));
            }
            return journal.end();
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    private static String hash(byte[] bytes, int digits) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(bytes))
                    .substring(0, digits);
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** Up to which position everything is on disk for certain. */
    public long durable() {
        return journal.durable();
    }

    private long step() {
        // One that the local disk did not let us look up is looked up again: what was read is not read twice.
        while (read != null || (read = reader.next()) != null) {
            if (read.kind() == Journal.Kind.NOTICE.letter()
                    && read.nth() > local.notices().settled(read.lane())) {
                take(read);
            }
            read = null;
        }
        long needed = reader.position();
        for (Map.Entry<String, Lane> each : lanes.entrySet()) {
            Lane lane = each.getValue();
            synchronized (lane) {
                Waits first = lane.waits.peek();
                if (first == null) {
                    continue;
                }
                needed = Math.min(needed, first.position());
                if (!lane.busy && !closing && System.nanoTime() - lane.notBefore >= 0) {
                    lane.busy = true;
                    lane.busySince = System.nanoTime();
                    carrying.execute(() -> carry(each.getKey(), lane, first));
                }
            }
        }
        journal.release(needed);
        return LOOK_NANOS;
    }

    private void take(Journal.Entry entry) {
        Lane lane = lanes.computeIfAbsent(entry.lane(), name -> new Lane());
        try {
            Letter letter = JSON.readValue(entry.body(), Letter.class);
            synchronized (lane) {
                lane.notBefore = lane.waits.isEmpty() && lane.failures == 0 ? System.nanoTime() : lane.notBefore;
                lane.waits.add(new Waits(entry.position(), entry.nth(), letter));
            }
        } catch (IOException unread) {
            LOG.error("A notice cannot be read back.", unread);
            keep(entry.lane(), entry.nth(), "", "", "", "It could not be read back from disk: " + unread.getMessage());
        }
    }

    private void keep(String lane, long nth, String rule, String to, String subject, String outcome) {
        local.notices().keep(new Sent(clock.now(), rule, to, subject, outcome), lane, nth);
    }

    private void carry(String name, Lane lane, Waits first) {
        Letter letter = first.letter();
        String given = "";
        String later = "";
        boolean expected = true;
        try {
            Carrier carrier = carriers.get(letter.way());
            if (clock.now().isAfter(letter.message().at().plus(OLDEST))) {
                given = "Given up after " + OLDEST.toDays() + " days. " + lane.sentence;
            } else {
                carrier.carry(List.of(letter.to()), letter.message());
                given = "sent";
            }
        } catch (Undelivered problem) {
            if (problem.forGood()) {
                given = problem.getMessage();
            } else {
                later = problem.getMessage();
            }
        } catch (Throwable problem) { // a defect here ends one message, and is said
            expected = false;
            later = "Unexpectedly: " + problem;
            LOG.error("A notice to {} failed in a way that nobody expected.", letter.to(), problem);
        }
        settle(name, lane, first, given, later, expected);
    }

    private void settle(String name, Lane lane, Waits first, String given, String later, boolean expected) {
        Letter letter = first.letter();
        String outcome = given;
        synchronized (lane) {
            lane.unexpected = expected ? 0 : lane.unexpected + 1;
            if (outcome.isEmpty() && lane.unexpected >= UNEXPECTED) {
                outcome = "Given up after " + UNEXPECTED + " tries. " + later;
            }
        }
        boolean known = false;
        try {
            if (!outcome.isEmpty()) {
                keep(
                        name,
                        first.nth(),
                        letter.rule(),
                        letter.to(),
                        letter.message().subject(),
                        outcome);
                known = true;
            }
        } catch (RuntimeException disk) {
            later = "The local disk does not take what became of it: " + disk.getMessage();
        }
        synchronized (lane) {
            if (known) {
                lane.waits.remove(first);
                lane.failures = 0;
                lane.unexpected = 0;
                lane.sentence = "";
                lane.notBefore = System.nanoTime();
            } else {
                lane.sentence = later;
                lane.notBefore = System.nanoTime() + (firstPause << Math.min(lane.failures, MOST_DOUBLINGS));
                lane.failures++;
            }
            lane.busy = false;
        }
    }

    /** Recipients for whom something waits, by rule and recipient. */
    public List<State> waiting() {
        Map<String, State> all = new TreeMap<>();
        lanes.forEach((name, lane) -> {
            synchronized (lane) {
                Waits first = lane.waits.peek();
                if (first != null) {
                    all.put(
                            first.letter().rule() + " " + first.letter().to(),
                            new State(
                                    first.letter().rule(),
                                    first.letter().to(),
                                    lane.waits.size(),
                                    lane.words(),
                                    first.letter().message().at()));
                }
            }
        });
        return List.copyOf(all.values());
    }

    /** What waits is tried now. */
    public void lookAgain() {
        lanes.values().forEach(lane -> {
            synchronized (lane) {
                lane.notBefore = System.nanoTime();
            }
        });
    }

    /** What is being carried has a moment to end; the rest waits on disk. */
    @Override
    public synchronized void close() {
        if (closing) {
            return;
        }
        closing = true;
        worker.close();
        carrying.shutdown();
        try {
            if (!carrying.awaitTermination(CLOSE_NANOS, java.util.concurrent.TimeUnit.NANOSECONDS)) {
                carrying.shutdownNow();
            }
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
        }
        journal.close();
    }
}
