package dachshund.engine.lane;

import dachshund.core.time.PlantClock;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.OwnRoom;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The lanes of one destination, each opened as the last end left it: from the journal, the local store and what was offered. */
final class Lanes {

    private static final Logger LOG = LoggerFactory.getLogger(Lanes.class);

    private final String destination;
    private final String destinationName;
    private final SegmentJournal journal;
    private final Offered offered;
    private final LocalStore local;
    private final PlantClock clock;
    private final Said said;
    private final Consumer<Lane> moved;
    private final Map<String, Lane> lanes = new ConcurrentHashMap<>();

    /**
     * @param said  of the destination
     * @param moved told of a lane whose account is another one now than on disk
     */
    Lanes(
            String destination,
            String destinationName,
            SegmentJournal journal,
            Offered offered,
            LocalStore local,
            PlantClock clock,
            Said said,
            Consumer<Lane> moved) {
        this.destination = destination;
        this.destinationName = destinationName;
        this.journal = journal;
        this.offered = offered;
        this.local = local;
        this.clock = clock;
        this.said = said;
        this.moved = moved;
    }

    /** Says what was found on disk, and counts what is missing. */
    void openKnown() {
        String sentence =
                switch (journal.opened()) {
                    case NEW, SAME -> "";
                    case OLDER ->
                        "The journal of " + destinationName
                                + " ends before rows that had landed: an older copy, or its end is lost. What was in it in between is counted as lost; new rows are not affected.";
                    case UNKNOWN ->
                        "The local store knows nothing of the journal of " + destinationName
                                + ": rows in it are looked up in their tables before they are sent.";
                    case LOST ->
                        "The journal of " + destinationName
                                + " is lost. Rows that were in it are counted as lost; new rows are not affected.";
                };
        if (!sentence.isEmpty()) {
            LOG.error(sentence);
            said.note(clock.now(), sentence);
        }
        local.laneNames(destination).forEach(this::of);
        journal.lanes().forEach(this::of);
        OwnRoom.lanes(journal).forEach(this::of);
        local.knowsJournal(destination, journal.id());
    }

    /** The lane of a recorder, opened if it is new. */
    Lane of(String recorder) {
        Lane known = lanes.get(recorder);
        return known != null ? known : lanes.computeIfAbsent(recorder, this::open);
    }

    Optional<Lane> find(String recorder) {
        return Optional.ofNullable(lanes.get(recorder));
    }

    Collection<Lane> all() {
        return lanes.values();
    }

    /** What was decided in an earlier run; nothing where that cannot be read, for rows then keep their own design. */
    private Optional<Decision> decision(Lane lane, LocalStore.Decided kept) {
        try {
            return Optional.of(Decision.read(kept));
        } catch (RuntimeException unreadable) {
            String sentence = "What was decided about held rows cannot be read, so they keep their own design: "
                    + Threads.words(unreadable);
            LOG.error("{} into {}: {}", lane.recorder, destinationName, sentence);
            lane.said().note(clock.now(), sentence);
            return Optional.empty();
        }
    }

    /** It was decided about rows that were on disk then. Where some of them are gone, rows to come have their numbers. */
    private LocalStore.Decided upToHere(Lane lane, LocalStore.Decided kept) {
        long last = journal.last(lane.recorder);
        if (kept.upTo() <= last) {
            return kept;
        }
        LocalStore.Decided here = new LocalStore.Decided(kept.from(), last, kept.design(), kept.zone());
        try {
            local.decide(lane.name, here);
        } catch (RuntimeException unnoted) {
            LOG.error(
                    "{} into {}: that a decision about held rows ends at row {} could not be noted",
                    lane.recorder,
                    destinationName,
                    last,
                    unnoted);
            lane.said()
                    .note(
                            clock.now(),
                            "Some of the rows that a decision was made about are gone, and the local disk did not note it: look at what is discarded after the next start ("
                                    + Threads.words(unnoted) + ").");
        }
        return here;
    }

    /** A lane as the last end left it: what was offered and is neither settled nor on disk is lost. */
    private Lane open(String recorder) {
        Offered.OfLane counts = offered.of(recorder);
        Settled known = local.settled(Lane.name(recorder, destination));
        OwnRoom room = OwnRoom.of(journal, recorder);
        journal.atLeast(recorder, Math.max(known.nth(), room.lastNth()));
        if (!known.journal().equals(journal.id())) {
            // Of another journal nothing is settled here; where nothing was known, what came before it was settled by
            // somebody.
            boolean anew = known.journal().isEmpty();
            // A journal that gave nothing back yet has all there ever was, but what its disk altered.
            // Where the local store has not been lost, what is missing was in the stretch that was altered, or that a
            // loss
            // of power took from between others.
            boolean altered = journal.opened() == SegmentJournal.Opened.SAME
                    && !journal.damage().isEmpty();
            boolean whole = (journal.first() == 0 || altered) && room.isEmpty();
            List<Journal.Stretch> stretches = journal.stretches(recorder);
            long first = !room.isEmpty()
                    ? room.firstNth()
                    : stretches.isEmpty() ? 0 : stretches.get(0).nth();
            long last = Math.max(known.nth(), first - 1);
            long gap = last - known.nth();
            known = known.in(journal.id(), 0, last, anew && whole ? 0 : gap, anew && whole ? gap : 0);
        }
        long missing = counts.offered() - counts.refused() - counts.aside() - known.lost() - journal.last(recorder);
        if (missing > 0) {
            known = known.withLost(missing);
        }
        counts.atLeast(journal.last(recorder) + counts.refused() + counts.aside() + known.lost());
        Lane lane = new Lane(recorder, destination, known, counts, journal, clock.now());
        lane.decision = local.decided(lane.name).flatMap(kept -> decision(lane, upToHere(lane, kept)));
        lane.decisionWaits = lane.decision.filter(kept -> !kept.begun()).isPresent();
        if (!room.isEmpty() && lane.waiting() > 0) {
            lane.room = room;
            lane.behind = true;
        } else {
            room.release(Long.MAX_VALUE);
        }
        if (missing > 0) {
            String sentence = missing + " rows were offered before the last end and are not on disk: lost.";
            LOG.error("{} into {}: {}", recorder, destinationName, sentence);
            lane.said().note(clock.now(), sentence);
            moved.accept(lane);
        }
        return lane;
    }
}
