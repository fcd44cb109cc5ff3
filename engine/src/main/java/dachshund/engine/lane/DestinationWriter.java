package dachshund.engine.lane;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.row.Row;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.function.Consumer;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Takes rows of one destination from its journal to its tables, lane by lane in order. {@link #take} may be called from
 * any thread; {@link #step} belongs to one.
 * <p>
 * Healthy lanes are written together. A lane in whose way something stands is tried by itself, on another thread and
 * connection, so that the others do not stand meanwhile. Whatever a store throws ends in a state and a sentence.
 */
public final class DestinationWriter implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(DestinationWriter.class);
    private static final long IDLE_NANOS = 200_000_000L;
    /** So often for stores that can tell of rows that landed long ago: what is not kept yet is looked up after a crash. */
    private static final Duration CURSORS_EVERY = Duration.ofMillis(100);
    /** At a stop the ledger and the local disk are waited for so long. */
    private static final Duration TELL_AT_MOST = Duration.ofSeconds(1);

    private static final long LOOK_NANOS = 1_000_000_000L;

    private final String destinationName;
    private final SegmentJournal journal;
    private final Offered offered;
    private final LocalStore local;
    private final PlantClock clock;
    private final Lanes lanes;
    private final LaneFeed feed;
    private final LaneWork work;
    private final Cursors cursors;
    private final Landings landings;
    private final Said said = new Said();
    private final Queue<Runnable> questions = new ConcurrentLinkedQueue<>();
    private volatile RowStore store;
    private volatile Batching batching;
    private final ExecutorService keeper;
    private final Map<Long, byte[]> designsToKeep = new ConcurrentHashMap<>();
    private final Trials trials;
    private final Together together;
    private final List<RowStore> left = new ArrayList<>();
    private RowStore inUse;
    private volatile int awayInARow;
    /** What is wrong with the disk that keeps how far the rows are; empty where nothing is. */
    private volatile String localTrouble = "";
    /** Why a step failed as a whole; empty where the last one did not. */
    private volatile String failing = "";

    private long lookedAt;
    private long awaySince;
    private volatile long retryAt = Long.MIN_VALUE;

    public DestinationWriter(
            String destination,
            String destinationName,
            SegmentJournal journal,
            Offered offered,
            RowStore store,
            Batching batching,
            LocalStore local,
            CounterBook book,
            PlantClock clock) {
        Hands hands = journal.hands(); // beside the one that calls step

        this.destinationName = destinationName;
        this.journal = journal;
        this.offered = offered;
        this.store = store;
        this.inUse = store;
        this.batching = batching;
        this.local = local;
        this.clock = clock;
        this.keeper = hands.few("cursors-" + destination, 1);
        this.cursors = new Cursors(local, clock, keeper);
        this.landings = new Landings(destinationName, local, clock, hands.few("landed-" + destination, 1));
        this.lanes = new Lanes(
                destination,
                destinationName,
                journal,
                offered,
                local,
                clock,
                said,
                lane -> cursors.moved(lane.name, lane.settled()));
        this.feed = new LaneFeed(
                journal, local, () -> this.batching, lanes::of, lanes::all, lane -> cursors.keeps(lane.name));
        this.work = new LaneWork(
                destination,
                new TableKeeper(destinationName, local),
                local,
                book,
                clock,
                () -> this.batching,
                journal.end(),
                this::settled,
                landings);
        this.trials = new Trials(destination, hands, clock, this::beforeCompared, this::tryHead);
        this.together =
                new Together(destination, hands, feed, work, clock, said, () -> trials.free(inUse), this::answered);
        lanes.openKnown();
    }

    /** Somebody hears from now on, now and then, of the rows that have landed; on a thread of its own. */
    public void tellLanded(Consumer<Landed> to) {
        landings.tell(to, lanes.all());
    }

    /** A recorder's design with its one Where for this destination, as rows are journalled under it. */
    public LaneDesign design(RecorderDefinition recorder) {
        LaneDesign design = LaneDesign.of(recorder);
        feed.know(design);
        LocalDate day = LocalDate.ofInstant(clock.now(), ZoneOffset.UTC);
        if (!local.designs().knows(design.key(), day)) {
            designsToKeep.put(design.key(), design.asEntry().document());
            keeper.execute(this::keepDesigns);
        }
        lanes.of(recorder.id());
        return design;
    }

    /**
     * Designs that were put to work are in the local store when this returns: a loss of power may take one from the journal
     * and leave the rows behind it.
     */
    public synchronized void keepDesigns() {
        Map<Long, byte[]> next = Map.copyOf(designsToKeep);
        if (!next.isEmpty()) {
            local.designs().keep(next, LocalDate.ofInstant(clock.now(), ZoneOffset.UTC));
            designsToKeep.keySet().removeAll(next.keySet());
        }
    }

    /**
     * Puts a row on disk for this destination. It is counted as offered before anything can fail.
     *
     * @param place the table or file it goes to, as {@link Place#text}
     */
    public void take(LaneDesign design, Row row, String place) throws Journal.Full {
        Lane lane = lanes.of(row.id().recorder());
        lane.offered.offer();
        boolean taken = false;
        try {
            bounded(lane);
            journal.append(
                    lane.recorder,
                    Journal.Kind.ROW,
                    RowCodec.VERSION,
                    design.asEntry(),
                    RowCodec.write(design.key(), place, row));
            taken = true;
        } finally {
            if (!taken) {
                lane.offered.refuse();
            }
        }
    }

    /**
     * A row of the recorder did not fit its layout.
     *
     * @param kept whether it is set aside; false where it could not be
     */
    public void didNotFit(String recorder, boolean kept) {
        Lane lane = lanes.of(recorder);
        lane.offered.offer();
        if (kept) {
            lane.offered.setAside();
        } else {
            lane.offered.refuse();
        }
    }

    /** Puts a row on disk for the one place that its design names. */
    public void take(LaneDesign design, Row row) throws Journal.Full {
        take(design, row, design.place());
    }

    private void bounded(Lane lane) throws Journal.Full {
        if (!lane.overBound.isEmpty()) {
            throw new Journal.Full(lane.overBound);
        }
    }

    /** Sends what follows to another address of the same destination. */
    public void replaceStore(RowStore next, Batching nextBatching) {
        store = next;
        batching = nextBatching;
    }

    public List<LaneStatus> status() {
        return lanes.all().stream().map(lane -> lane.status(clock.nanos())).toList();
    }

    public Optional<LaneStatus> status(String recorder) {
        return lanes.find(recorder).map(lane -> lane.status(clock.nanos()));
    }

    /** What the lane of a recorder said lately, newest first. */
    public List<Said.Line> said(String recorder) {
        return lanes.find(recorder).map(lane -> lane.said().lines()).orElse(List.of());
    }

    /** What the destination as a whole said lately, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    /** What is wrong with the journal, the local disk or the writing as a whole, in sentences. */
    public List<String> journalRemarks() {
        List<String> remarks = new ArrayList<>(journal.damage());
        if (!journal.remark().isEmpty()) {
            remarks.add(journal.remark());
        }
        if (!localTrouble.isEmpty()) {
            remarks.add(localTrouble);
        }
        if (!failing.isEmpty()) {
            remarks.add(failing);
        }
        return remarks;
    }

    /** Whether it did not answer when it was last asked. */
    public boolean away() {
        return awayInARow > 0;
    }

    /** Rows on disk that have not landed, all lanes together. */
    public long waiting() {
        long waiting = 0;
        for (Lane lane : lanes.all()) {
            waiting += lane.waiting();
        }
        return waiting;
    }

    /** Of these, the ones that the destination should have taken by now. */
    public long held() {
        return status().stream().mapToLong(LaneStatus::held).sum();
    }

    /**
     * Rows that a recorder's lane holds, in order, as they were made.
     *
     * @param after only such of a higher running number
     * @return done by the writer's thread between two steps
     */
    public CompletableFuture<List<HeldRow>> held(String recorder, long after, int most) {
        CompletableFuture<List<HeldRow>> answer = new CompletableFuture<>();
        questions.add(() -> {
            try {
                answer.complete(lanes.find(recorder)
                        .map(lane -> feed.held(lane, after, most))
                        .orElse(List.of()));
            } catch (RuntimeException | Error thrown) {
                answer.completeExceptionally(thrown);
            }
        });
        return answer;
    }

    /** Running number of the last row of a recorder that was put on disk. */
    public long last(String recorder) {
        return journal.last(recorder);
    }

    /** Running number of the last row of a recorder that has landed or was set aside, discarded or lost, as all before it. */
    public long settled(String recorder) {
        return lanes.find(recorder).map(lane -> lane.settled().nth()).orElse(0L);
    }

    /** Why a row of a recorder that is settled is neither in its table nor set aside; empty where it is, or not known any more. */
    public String notLanded(String recorder, long nth) {
        return lanes.find(recorder).map(lane -> lane.notLanded(nth)).orElse("");
    }

    /** Position in the journal behind all that was taken. */
    public long end() {
        return journal.end();
    }

    /** Position in the journal up to which a loss of power takes nothing. */
    public long durable() {
        return journal.durable();
    }

    /** The rows of a recorder that are on disk, up to one of them, are never written. */
    public void discard(String recorder, long upTo) {
        decide(recorder, Decision.discarding(upTo), "Rows that were held are discarded.");
    }

    /**
     * The rows of a recorder that are on disk, up to one of them, are written as another design would have made them.
     *
     * @param zone plant time
     */
    public void give(String recorder, long upTo, RecorderDefinition design, ZoneId zone) {
        decide(
                recorder,
                Decision.giving(upTo, LaneDesign.of(design), zone),
                "Rows that were held are given to another design.");
    }

    private void decide(String recorder, Decision decision, String said) {
        Lane lane = lanes.of(recorder);
        lane.decide(decision, local);
        lane.retryAt = Long.MIN_VALUE;
        lane.said().note(clock.now(), said);
    }

    /** Every lane in trouble is tried at the next step, however long it was to wait. */
    public void lookAgain() {
        lanes.all().forEach(lane -> lane.retryAt = Long.MIN_VALUE);
        retryAt = Long.MIN_VALUE;
    }

    /** Sends what is ready. Returns how many nanoseconds to wait before the next step, 0 where there is more to do. */
    public long step() {
        long nanos = clock.nanos();
        takeStoreInUse();
        for (Runnable question = questions.poll(); question != null; question = questions.poll()) {
            question.run();
        }
        if (nanos - lookedAt >= LOOK_NANOS || lookedAt == 0) {
            lookedAt = nanos;
            lookAtAll(nanos);
        }
        if (trials.answeredSince()) {
            answered();
        }
        if (awayInARow > 0 && nanos < retryAt) {
            return IDLE_NANOS;
        }
        try {
            feed.fill();
            for (Lane lane : feed.passOverAltered()) {
                lane.said()
                        .note(
                                clock.now(),
                                "Rows at the end of what was on disk were altered there, and are counted as damaged.");
                settled(lane, 0);
            }
            boolean more = knownOnDisk() && send(nanos);
            failing = "";
            return more ? 0 : IDLE_NANOS;
        } catch (StoreProblem away) {
            hold(away.getMessage());
            return IDLE_NANOS;
        } catch (RuntimeException | Error unknown) {
            // What is one lane's is dealt with there; this is the store or the writer itself.
            failing = "Writing fails for a reason that is not known here, and is tried again each second: "
                    + Threads.words(unknown);
            LOG.error("{}: {}", destinationName, failing, unknown);
            said.note(clock.now(), failing);
            return LOOK_NANOS;
        } finally {
            keepCursors();
        }
    }

    private void takeStoreInUse() {
        if (inUse != store) {
            left.add(inUse);
            inUse = store;
            lanes.all().forEach(lane -> lane.storeChanged = true);
            lookAgain();
        }
        if (!left.isEmpty() && lanes.all().stream().noneMatch(lane -> lane.tried)) {
            left.forEach(RowStore::close);
            left.clear();
        }
    }

    private boolean send(long nanos) throws StoreProblem {
        Map<String, List<Lane>> ready = new LinkedHashMap<>();
        List<Lane> inTrouble = new ArrayList<>();
        for (Lane lane : lanes.all()) {
            if (lane.tried) {
                continue;
            }
            if (lane.storeChanged) {
                lane.forgetTables();
                lane.storeChanged = false;
            }
            if (lane.decidedAnew) {
                lane.decidedAnew = false;
                lane.decisionWaits = true;
                lane.readAnew = true;
            }
            if (lane.readAnew) {
                lane.readAnew = false;
                feed.readAgain(lane);
            }
            feed.shorten(lane);
            if (lane.blocked && lane.queue.isEmpty()) {
                blocked(lane, nanos);
            } else if (nanos >= lane.retryAt) {
                if (lane.apart) {
                    inTrouble.add(lane);
                } else if (sure(lane)) {
                    ready.computeIfAbsent(
                                    Place.read(lane.queue.getFirst().place()).database(), database -> new ArrayList<>())
                            .add(lane);
                }
            }
        }
        inTrouble.removeIf(lane -> lane.queue.isEmpty());
        trials.begin(inUse, inTrouble);
        for (Map.Entry<String, List<Lane>> each : ready.entrySet()) {
            together.send(inUse, each.getKey(), each.getValue());
        }
        return !ready.isEmpty();
    }

    private boolean sure(Lane lane) throws StoreProblem {
        beforeCompared(lane);
        return together.sure(inUse, lane);
    }

    /** What may have landed in a file unknown to us is compared with all that one batch may have held. */
    private void beforeCompared(Lane lane) {
        if (lane.uncertain && !inUse.tellsOfAll() && (lane.decisionWaits || work.ripe(lane))) {
            feed.lengthen(lane);
        }
    }

    /** Its next entry cannot be read: it is looked at again now and then. */
    private void blocked(Lane lane, long nanos) {
        if (!lane.faulted()) {
            lane.fault(lane.problem, clock);
        } else if (nanos >= lane.retryAt) {
            lane.blocked = false;
            lane.retryAt = nanos + Pause.nanosAfter(lane.faultsInARow++);
        }
    }

    /** The head of a lane in trouble, on the thread that has the lane just now. */
    private boolean tryHead(RowStore there, Lane lane) throws StoreProblem {
        boolean sends = work.sure(there, lane);
        if (sends) {
            work.sendRows(there, lane, work.head(there, lane));
        }
        if (sends || lane.queue.isEmpty()) {
            lane.wrote(clock.now());
        }
        return sends;
    }

    private void settled(Lane lane, int rows) {
        feed.settled(rows);
        cursors.moved(lane.name, lane.settled());
    }

    private void answered() {
        if (awayInARow > 0) {
            LOG.info("{} is back.", destinationName);
            said.note(clock.now(), destinationName + " is back.");
            lanes.all().stream().filter(lane -> !lane.tried).forEach(lane -> lane.back(clock.now()));
        }
        awayInARow = 0;
    }

    /** The destination is away: every lane with rows waits. */
    private void hold(String why) {
        long nanos = clock.nanos();
        if (awayInARow == 0) {
            awaySince = nanos;
            LOG.warn("{} is away: {}", destinationName, why);
        }
        said.note(clock.now(), why);
        retryAt = nanos + Pause.nanosAfter(awayInARow);
        awayInARow = awayInARow + 1;
        String away = PeriodText.roughly(Duration.ofNanos(nanos - awaySince));
        for (Lane lane : lanes.all()) {
            if (lane.tried) {
                continue;
            }
            lane.uncertain = true;
            if (!lane.faulted()) {
                lane.holds(
                        why,
                        " Away for " + away + "; rows are safe on disk and will be sent when it is back.",
                        clock.now());
            }
        }
    }

    /**
     * How far the lanes are goes to the local disk while the next rows are sent. The journal gives back only what is settled
     * there.
     */
    private void keepCursors() {
        String clearing = "";
        long needed = 0;
        try {
            needed = feed.needed();
        } catch (RuntimeException | Error cannot) {
            // How far the lanes are is kept all the same; the journal gives nothing back meanwhile.
            clearing = "The journal cannot be cleared: " + Threads.words(cannot);
        }
        Duration pause = inUse.tellsOfAll() && !journal.fills() ? CURSORS_EVERY : Duration.ZERO;
        journal.release(cursors.keep(needed, pause));
        localTrouble(clearing.isEmpty() ? cursors.trouble() : clearing);
    }

    private void localTrouble(String now) {
        if (!now.isEmpty() && !now.equals(localTrouble)) {
            LOG.error("{}: {}", destinationName, now);
            said.note(clock.now(), now);
        }
        localTrouble = now;
    }

    /** A store that can tell of its last batch only gets no other before that one is known to have landed. */
    private boolean knownOnDisk() {
        if (inUse.tellsOfAll()
                || cursors.kept(Cursors.LATE) && cursors.trouble().isEmpty()) {
            return true;
        }
        lanes.all().stream()
                .filter(lane -> !lane.tried && !lane.faulted() && lane.waiting() > 0)
                .forEach(lane -> lane.holds(
                        cursors.trouble(), " Rows wait until it is known which of them have landed.", clock.now()));
        return false;
    }

    /** Once a second for every lane: which rows are old, and whether more may wait. */
    private void lookAtAll(long nanos) {
        landings.look(nanos);
        Batching bounds = batching;
        for (Lane lane : lanes.all()) {
            lane.mark(nanos, bounds.patience());
            lane.overBound = bounds.full(
                    lane.waiting(),
                    lane.oldest(),
                    lane.room == null || lane.tried ? 0 : lane.room.bytes(),
                    clock.now());
        }
    }

    @Override
    public void close() {
        close(true);
    }

    /** @param ended whether {@link #step} has ended; where it hangs, how far the lanes are is found out at the next start */
    public void close(boolean ended) {
        try {
            if (!trials.close()) {
                LOG.warn(
                        "{}: a lane was still being tried at the stop; its rows are looked up at the next start.",
                        destinationName);
            }
            if (ended) {
                cursors.kept(Cursors.LATE);
                cursors.keep(0, Duration.ZERO);
                if (!cursors.kept(Cursors.LATE)) {
                    LOG.error("{}: {} Rows are looked up at the next start.", destinationName, cursors.trouble());
                }
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
        together.close();
        keeper.shutdown();
        try {
            if (!landings.close(TELL_AT_MOST)) {
                LOG.warn("{}: not all rows that have landed could be told of at the stop.", destinationName);
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
        }
        journal.close();
        offered.close();
        left.forEach(RowStore::close);
        store.close();
    }
}
