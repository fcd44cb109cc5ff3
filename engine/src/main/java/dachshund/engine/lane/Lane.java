package dachshund.engine.lane;

import dachshund.core.row.Row;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicLong;

/**
 * Recorder times destination: the unit of order. Everything but {@link #held} and the published status belongs to the
 * destination's writer thread.
 */
public final class Lane {

    /** A row read from the journal, with the positions where it begins and ends there and the place it goes to, as text. */
    record Waiting(long position, long next, int design, String place, Row row) {}

    private static final long NOWHERE = -1;

    final String name;
    final String recorder;
    final String destination;
    final AtomicLong held = new AtomicLong();
    final ArrayDeque<Waiting> queue = new ArrayDeque<>();
    /** Everything before it has landed or was set aside. */
    long cursor;
    /** From here on its rows were not read into the queue; -1 where all were. */
    long unreadFrom = NOWHERE;
    /** Whether the next rows may have landed already, because a connection broke or the application started anew. */
    boolean uncertain = true;
    /** The design whose tables were seen to last, and the columns that each of them has lost. */
    private int preparedDesign = -1;

    private final Map<String, Set<String>> prepared = new HashMap<>();
    Instant retryAt = Instant.EPOCH;
    int faultsInARow;
    int refusedInARow;
    private LaneState state = LaneState.ARMED;
    private String sentence = "";
    private Instant since;
    private Instant lastRow = Instant.EPOCH;
    private volatile LaneStatus published;

    Lane(String recorder, String destination, long cursor, Instant now) {
        this.name = name(recorder, destination);
        this.recorder = recorder;
        this.destination = destination;
        this.cursor = cursor;
        this.since = now;
        publish();
    }

    /** Name of the lane of a recorder into a destination. */
    public static String name(String recorder, String destination) {
        return recorder + ":" + destination;
    }

    boolean faulted() {
        return state == LaneState.FAULTED;
    }

    boolean hasUnread() {
        return unreadFrom != NOWHERE;
    }

    void allRead() {
        unreadFrom = NOWHERE;
    }

    boolean prepared(Waiting first) {
        return preparedDesign == first.design() && prepared.containsKey(first.place());
    }

    /** The place of the row was seen to. */
    void prepared(Waiting first, Set<String> lost) {
        if (preparedDesign != first.design()) {
            forgetTables();
            preparedDesign = first.design();
        }
        prepared.put(first.place(), lost);
    }

    /** The tables have to be seen to anew before the next rows. */
    void forgetTables() {
        preparedDesign = -1;
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

    /** The rows at the head that were made under one design for one place, so many at most. */
    List<Waiting> head(int most) {
        List<Waiting> head = new ArrayList<>();
        for (Waiting waiting : queue) {
            if (head.size() == most
                    || !head.isEmpty()
                            && (head.get(0).design() != waiting.design()
                                    || !head.get(0).place().equals(waiting.place()))) {
                break;
            }
            head.add(waiting);
        }
        return head;
    }

    /** The first row is settled, one way or the other. */
    void settleHead() {
        cursor = queue.removeFirst().next();
        held.decrementAndGet();
    }

    /** Where its first unsettled row stands in the journal, or the given place where it has none. */
    long neededFrom(long otherwise) {
        if (!queue.isEmpty()) {
            return queue.getFirst().position();
        }
        return hasUnread() ? unreadFrom : otherwise;
    }

    /** Gives the rows in memory back to the journal, to be read again later. */
    void unread() {
        if (!queue.isEmpty()) {
            unreadFrom = queue.getFirst().position();
            queue.clear();
        }
    }

    void is(LaneState next, String why, Instant now) {
        if (state != next) {
            since = now;
        }
        state = next;
        sentence = why;
        publish();
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

    void publish() {
        published = new LaneStatus(recorder, destination, state, sentence, since, held.get(), lastRow);
    }

    LaneStatus status() {
        LaneStatus last = published;
        return new LaneStatus(
                last.recorder(),
                last.destination(),
                last.state(),
                last.sentence(),
                last.since(),
                Math.max(0, held.get()),
                last.lastRow());
    }
}
