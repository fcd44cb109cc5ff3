package dachshund.engine.lane;

import dachshund.core.destination.StoreProblem;
import dachshund.core.row.Row;
import dachshund.core.time.PlantClock;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.OwnRoom;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import dachshund.engine.said.Said;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.LongSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Recorder times destination: the unit of order. Belongs to the destination's writer thread, or while it is {@link #apart}
 * and being tried to the thread that tries it; counters, what it said and the published status may be read by any.
 */
public final class Lane {

    private static final Logger LOG = LoggerFactory.getLogger(Lane.class);

    /**
     * A row read from the journal, with the positions where it begins and ends there and the place it goes to, as text.
     *
     * @param installation that has made it
     * @param design null where it is discarded; the row too, where nobody can read it
     * @param aside  why it is to be set aside without being written; empty where it is to be written
     */
    record Waiting(
            long position,
            long next,
            long nth,
            String installation,
            LaneDesign design,
            String place,
            Row row,
            String aside) {

        /** The same row, given to another design. */
        Waiting as(LaneDesign other, String otherPlace, Row otherRow) {
            return new Waiting(position, next, nth, installation, other, otherPlace, otherRow, "");
        }

        /** The same row, to be set aside. */
        Waiting notAs(String why) {
            return new Waiting(position, next, nth, installation, design, place, row, why);
        }

        /** Whether both were made by one installation under one design for one place. Asked for every row, so it looks at nothing deep. */
        private boolean goesWith(Waiting other) {
            return aside.isEmpty()
                    && design != null
                    && design.key() == other.design.key()
                    && place.equals(other.place)
                    && installation.equals(other.installation);
        }
    }

    /** A row that its destination has not taken for so long is held, beside the time that it waits for others by design. */
    static final Duration HELD_AFTER = Duration.ofSeconds(5);

    private static final long SECOND = 1_000_000_000L;

    /** So many times that rows were settled and did not land are remembered. */
    private static final int REMEMBERED = 100;

    final String name;
    final String recorder;
    final String destination;
    final Offered.OfLane offered;
    final Deque<Waiting> queue = new ArrayDeque<>();
    private final LongSupplier lastOnDisk;
    private final Said said = new Said();
    private volatile Settled settled;
    /** Everything before this position was read into the queue, or is settled. */
    long readTo;
    /** Rows at its head that are being written just now. */
    int leaving;
    /** The place of the row that was read last. */
    String lastPlace = "";
    /** Whether entries that were passed over stand between {@link #readTo} and where the common reader is. */
    boolean behind;
    /** Room of its own, while it has some. */
    OwnRoom room;

    Journal.Reader roomReader;
    /** Whether all that is in its room was read: what follows stands in the journal. */
    boolean roomRead;
    /** Whether the next rows may have landed already, because a connection broke or the application started anew. */
    boolean uncertain = true;
    /** Whether it is tried by itself, because something stands in its way. */
    boolean apart;
    /** Whether another thread tries it just now. */
    volatile boolean tried;
    /** Its cursor when it was begun to be tried: what was settled since may not be told yet. */
    long triedFrom;
    /** The design whose tables were seen to last, and the columns that each of them has lost. */
    private long preparedDesign;

    private final Map<String, Set<String>> prepared = new HashMap<>();
    /** Whether its next entry cannot be read. */
    boolean blocked;

    String problem = "";
    private final Object deciding = new Object();
    /** What was decided about rows that it holds. */
    volatile Optional<Decision> decision = Optional.empty();
    /** Something else was decided about them just now. */
    volatile boolean decidedAnew;
    /** What was decided waits until it is known which of the rows have landed already. */
    volatile boolean decisionWaits;
    /** Rows that are in memory are to be read again. */
    volatile boolean readAnew;
    /** Its tables have to be seen to anew: the destination has another address. */
    volatile boolean storeChanged;
    /** Why it takes no more rows, in words; empty where it does. */
    volatile String overBound = "";
    /** Not before, by the monotonic clock. */
    volatile long retryAt = Long.MIN_VALUE;

    int faultsInARow;
    int refusedInARow;
    /** How often its first row failed for a reason that nobody knows. */
    int unknownInARow;

    /** The row that was at its head when that was asked last, and since when. */
    private long headNth = -1;

    private long headSince;

    private LaneState state = LaneState.ARMED;
    private String sentence = "";
    private Instant since;
    private volatile Instant lastRow = Instant.EPOCH;
    private volatile Published published;
    /** At some moments of the last seconds, oldest first: when, the number of the last entry, that of the last one settled. */
    private final Deque<long[]> marks = new ArrayDeque<>();

    private volatile long heldAfter = HELD_AFTER.toNanos();
    private volatile Instant oldestWaiting = Instant.MAX;

    private final Deque<NotLanded> notLanded = new ArrayDeque<>();

    /** Rows from one running number to another, and why they are in no table. */
    private record NotLanded(long from, long to, String why) {}

    private record Published(LaneState state, String sentence, Instant since) {}

    Lane(String recorder, String destination, Settled settled, Offered.OfLane offered, Journal journal, Instant now) {
        this.name = name(recorder, destination);
        this.recorder = recorder;
        this.destination = destination;
        this.settled = settled;
        this.readTo = settled.position();
        this.offered = offered;
        this.lastOnDisk = journal.lastOf(recorder);
        this.since = now;
        publish();
    }

    /** Name of the lane of a recorder into a destination. */
    public static String name(String recorder, String destination) {
        return recorder + ":" + destination;
    }

    Settled settled() {
        return settled;
    }

    /** Everything before it has landed or was set aside. */
    long cursor() {
        return settled.position();
    }

    /** Somebody decides about its rows. How far it is is kept first: what an earlier decision did to rows is not asked again. */
    void decide(Decision anew, LocalStore local) {
        synchronized (deciding) {
            local.settle(Map.of(name, settled));
            local.decide(name, anew.asKept());
            decision = Optional.of(anew);
            decidedAnew = true;
        }
    }

    /** What was decided holds from now on, for all that is not settled: that is noted, and rows are read again. */
    void carryOut(LocalStore local) {
        synchronized (deciding) {
            if (!decisionWaits || decidedAnew) {
                return;
            }
            Optional<Decision> begun = decision.map(of -> of.begun() ? of : of.from(settled.nth() + 1));
            begun.filter(of -> !decision.get().begun()).ifPresent(of -> local.decide(name, of.asKept()));
            decision = begun;
            decisionWaits = false;
            readAnew = true;
        }
    }

    boolean faulted() {
        return state == LaneState.FAULTED;
    }

    Said said() {
        return said;
    }

    /** Rows on disk that are not settled. */
    long waiting() {
        return Math.max(0, lastOnDisk.getAsLong() - settled.nth());
    }

    /** Whether its next rows stand in room of its own. */
    boolean readsRoom() {
        return room != null && !roomRead;
    }

    /** Running number of the last row that was read into the queue, or settled. */
    long lastQueued() {
        return queue.isEmpty() ? settled.nth() : queue.getLast().nth();
    }

    /** Rows on disk that were not read into the queue. */
    long unread() {
        return lastOnDisk.getAsLong() - lastQueued();
    }

    boolean prepared(Waiting first) {
        return preparedDesign == first.design().key() && prepared.containsKey(first.place());
    }

    /** The place of the row was seen to. */
    void prepared(Waiting first, Set<String> lost) {
        if (preparedDesign != first.design().key()) {
            forgetTables();
            preparedDesign = first.design().key();
        }
        prepared.put(first.place(), lost);
    }

    /** The tables have to be seen to anew before the next rows. */
    void forgetTables() {
        preparedDesign = 0;
        prepared.clear();
    }

    /** Columns that a table has lost. */
    Set<String> leftOut(String place) {
        return prepared.getOrDefault(place, Set.of());
    }

    /** Columns that any of its tables has lost. */
    Set<String> leftOut() {
        Set<String> all = new TreeSet<>();
        prepared.values().forEach(all::addAll);
        return all;
    }

    /**
     * The rows at the head that were made by one installation under one design for one place.
     *
     * @param most so many of them at most
     * @param span over so many bytes of the journal at most
     */
    List<Waiting> head(int most, long span) {
        List<Waiting> head = new ArrayList<>();
        for (Waiting waiting : queue) {
            if (head.size() == most
                    || !head.isEmpty()
                            && (!waiting.goesWith(head.get(0))
                                    || waiting.next() - head.get(0).position() > span)) {
                break;
            }
            head.add(waiting);
        }
        return head;
    }

    /** How many nanoseconds its first row has been seen to be the first. */
    long headFor(long nanos) {
        if (queue.getFirst().nth() != headNth) {
            headNth = queue.getFirst().nth();
            headSince = nanos;
        }
        return nanos - headSince;
    }

    /** So many rows at the head are settled, one way or the other. */
    void settleHead(int rows, Settled.As as) {
        Waiting last = null;
        for (int i = 0; i < rows; i++) {
            last = queue.removeFirst();
        }
        if (last != null) {
            long before = last.nth() - rows;
            if (before > settled.nth()) {
                notLanded(settled.nth() + 1, before, "It was altered on the local disk, and is counted as damaged.");
            }
            if (as == Settled.As.DISCARDED) {
                notLanded(before + 1, last.nth(), "It was discarded by a person.");
            }
            settled = settled.and(last.next(), last.nth(), rows, as);
            unknownInARow = 0;
        }
    }

    private void notLanded(long from, long to, String why) {
        synchronized (notLanded) {
            notLanded.addLast(new NotLanded(from, to, why));
            while (notLanded.size() > REMEMBERED) {
                notLanded.removeFirst();
            }
        }
    }

    /** Why a settled row is neither in its table nor set aside; empty where it is, or not known any more. */
    String notLanded(long nth) {
        synchronized (notLanded) {
            return notLanded.stream()
                    .filter(each -> each.from() <= nth && nth <= each.to())
                    .map(NotLanded::why)
                    .findFirst()
                    .orElse("");
        }
    }

    /** How far it will be when the row at its head is set aside. */
    Settled withHeadAside() {
        Waiting head = queue.getFirst();
        return settled.and(head.next(), head.nth(), 1, Settled.As.ASIDE);
    }

    /** The rows up to a running number were altered on the local disk. */
    void altered(long upTo) {
        notLanded(settled.nth() + 1, upTo, "It was altered on the local disk, and is counted as damaged.");
        settled = settled.and(settled.position(), upTo, 0, Settled.As.LANDED);
    }

    /** Takes note of how many rows there are now, to know later which of them are old, and of the oldest. */
    void mark(long nanos, Duration patience) {
        oldestWaiting = oldest();
        heldAfter = HELD_AFTER.plus(patience).toNanos();
        synchronized (marks) {
            long[] newest = marks.peekLast();
            if (newest == null || nanos - newest[0] >= SECOND) {
                marks.addLast(new long[] {nanos, lastOnDisk.getAsLong(), settled.nth()});
            }
            while (marks.size() > 1
                    && nanos - marks.stream().skip(1).findFirst().orElseThrow()[0] >= heldAfter) {
                marks.removeFirst();
            }
        }
    }

    /** Rows that have been on disk for longer than {@link #HELD_AFTER}, or all where the destination is away. */
    private long held(long nanos, long waiting, LaneState now) {
        if (now == LaneState.HOLDING || now == LaneState.FAULTED) {
            return waiting;
        }
        synchronized (marks) {
            long[] oldest = marks.peekFirst();
            return oldest == null || nanos - oldest[0] < heldAfter
                    ? 0
                    : Math.max(0, Math.min(waiting, oldest[1] - settled.nth()));
        }
    }

    /** By how many rows a second there are fewer that wait, as of the last seconds; below zero where there are more. */
    private double shrinks(long nanos) {
        synchronized (marks) {
            long[] oldest = marks.peekFirst();
            return oldest == null || nanos - oldest[0] < SECOND
                    ? 0
                    : (settled.nth() - oldest[2] - (lastOnDisk.getAsLong() - oldest[1]))
                            * (double) SECOND
                            / (nanos - oldest[0]);
        }
    }

    void is(LaneState next, String why, Instant now) {
        if (state != next) {
            since = now;
            said.note(now, next.words() + (why.isEmpty() ? "." : ": " + why));
        } else if (!why.equals(sentence)) {
            said.note(now, why);
        }
        state = next;
        sentence = why;
        publish();
    }

    /**
     * Rows wait.
     *
     * @param more said beside the reason, but not noted each time
     */
    void holds(String why, String more, Instant now) {
        if (state != LaneState.HOLDING) {
            since = now;
        }
        said.note(now, LaneState.HOLDING.words() + ": " + why);
        state = LaneState.HOLDING;
        sentence = why + more;
        publish();
    }

    /** Something stands in the way of this lane alone: another's use passes by itself, all else has to be mended. */
    void trouble(StoreProblem problem, PlantClock clock) {
        boolean away = problem.kind() == StoreProblem.Kind.AWAY;
        if (!away && problem.kind() != StoreProblem.Kind.BUSY && problem.kind() != StoreProblem.Kind.CLASHED) {
            fault(problem.getMessage(), clock);
            return;
        }
        apart = true;
        retryAt = clock.nanos() + Pause.nanosAfter(faultsInARow++);
        holds(
                problem.getMessage(),
                away
                        ? " Rows are safe on disk and will be sent when it is back."
                        : " Rows are safe on disk and will be written when it is free.",
                clock.now());
    }

    /** It is tried by itself until somebody has mended what is wrong. */
    void fault(String why, PlantClock clock) {
        if (!faulted()) {
            LOG.warn("{}: {}", name, why);
        }
        forgetTables();
        uncertain = true;
        refusedInARow = 0;
        apart = true;
        retryAt = clock.nanos() + Pause.nanosAfter(faultsInARow++);
        is(LaneState.FAULTED, why, clock.now());
    }

    /** Rows of it were written: it goes on with the others. */
    void wrote(Instant now) {
        faultsInARow = 0;
        apart = false;
        retryAt = Long.MIN_VALUE;
        is(LaneState.RECORDING, lostWords(), now);
    }

    /** Which columns its tables have lost, in a sentence. */
    String lostWords() {
        Set<String> lost = leftOut();
        return lost.isEmpty() ? "" : "The table has lost " + String.join(", ", lost) + "; left out from now on.";
    }

    /** Record time of its oldest row in memory; the end of time where there is none. */
    Instant oldest() {
        Waiting first = tried ? null : queue.peekFirst();
        return first == null || first.row() == null ? Instant.MAX : first.row().recordTime();
    }

    /** Its destination answers again. */
    void back(Instant now) {
        if (state == LaneState.HOLDING) {
            is(lastRow.equals(Instant.EPOCH) ? LaneState.ARMED : LaneState.RECORDING, "", now);
        }
    }

    void rowLanded(Instant recordTime) {
        lastRow = recordTime;
    }

    private void publish() {
        published = new Published(state, sentence, since);
    }

    Account account() {
        Settled now = settled;
        long refused = offered.refused();
        long all = offered.offered();
        long waiting = Math.max(0, lastOnDisk.getAsLong() - now.nth());
        return new Account(
                all,
                refused,
                now.lost(),
                now.landed(),
                now.aside() + offered.aside(),
                now.discarded(),
                now.damaged(),
                now.before(),
                waiting);
    }

    LaneStatus status(long nanos) {
        Published last = published;
        long waiting = waiting();
        long held = held(nanos, waiting, last.state());
        return new LaneStatus(
                recorder,
                destination,
                last.state(),
                last.sentence(),
                waiting == 0 || oldestWaiting.equals(Instant.MAX) ? last.since() : oldestWaiting,
                held,
                waiting - held,
                shrinks(nanos),
                lastRow,
                account());
    }

    /** Its next entry cannot be read: it stands until that is mended. */
    void blocked(String why) {
        blocked = true;
        apart = true;
        problem = why;
    }

    /** Takes over what was found at opening. */
    void settled(Settled found) {
        settled = found;
        readTo = Math.max(readTo, found.position());
    }
}
