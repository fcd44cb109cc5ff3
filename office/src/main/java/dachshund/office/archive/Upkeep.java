package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.KeptFor;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.said.Said;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.archive.BlockTable.Extent;
import dachshund.office.archive.BlockTable.Pieces;
import dachshund.office.own.OwnDatabase;
import java.time.Duration;
import java.time.LocalTime;
import java.util.List;
import java.util.Map;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Looks after the archive in small steps, each a transaction of its own: pieces of a span are put together, what is older than
 * its rule says is removed in the small hours, and it is known how much there is. It pauses between steps, so that recording
 * and pages come first.
 */
@Component
public class Upkeep {

    /** A span that is over is put together when nothing of it is likely to come any more. */
    private static final Duration SETTLES = Duration.ofMinutes(10);
    /** Of the span that goes on, so many pieces are put together: an hour of them. */
    private static final int MANY = 60;

    private static final int STEPS = 50;
    private static final int SEVERAL = 3;
    private static final int REMOVED_AT_ONCE = 200;
    private static final long BETWEEN_NANOS = 20_000_000_000L;
    private static final long SOON_NANOS = 200_000_000L;
    private static final long AFTER_TROUBLE_NANOS = 30_000_000_000L;
    private static final LocalTime FROM = LocalTime.of(1, 0);
    private static final LocalTime UNTIL = LocalTime.of(5, 0);
    private static final String REMOVED = "archive removed";
    private static final Duration STOP = Duration.ofSeconds(1);
    /** Looking how much there is takes no more than so small a part of the time. */
    private static final int PART = 50;

    private final BlockTable table;
    private final OldBlocks old;
    private final Engine engine;
    private final PlantClock clock;
    private final OwnDatabase database;
    private final Said said = new Said();
    private volatile Map<Long, Extent> extents = Map.of();
    private long lookAgain;
    private Worker worker;

    Upkeep(BlockTable table, OldBlocks old, Engine engine, PlantClock clock, OwnDatabase database) {
        this.table = table;
        this.old = old;
        this.engine = engine;
        this.clock = clock;
        this.database = database;
        this.lookAgain = clock.nanos();
    }

    /** From now on values are stored, and looked after. */
    public synchronized void begin() {
        engine.archive().storeIn(table);
        if (worker == null) {
            worker = Threads.start("archive-upkeep", this::step);
        }
    }

    private long step() {
        if (!database.answers()) {
            return AFTER_TROUBLE_NANOS / 10;
        }
        try {
            boolean more = putTogether();
            more |= removeOld();
            if (clock.nanos() - lookAgain >= 0) {
                long begun = clock.nanos();
                look();
                lookAgain = clock.nanos() + Math.max(BETWEEN_NANOS / 2, PART * (clock.nanos() - begun));
            }
            return more ? SOON_NANOS : BETWEEN_NANOS;
        } catch (Problem problem) {
            said.note(clock.now(), problem.getMessage());
            return AFTER_TROUBLE_NANOS;
        } catch (RuntimeException | Error defect) {
            Threads.report(defect);
            said.note(clock.now(), "Looking after the archive broke off unexpectedly: " + Threads.words(defect));
            return AFTER_TROUBLE_NANOS;
        }
    }

    /** Looks how much there is. */
    public void look() throws Problem {
        extents = table.extents();
    }

    /** Puts pieces together where that is due; whether there may be more. */
    public boolean putTogether() throws Problem {
        long over = ArchiveStore.spanOf(OpcUaTime.toTicks(clock.now().minus(SETTLES)));
        List<Pieces> all = table.inPieces(over, MANY, STEPS);
        Problem last = null;
        int failed = 0;
        for (Pieces each : all) {
            try {
                table.putTogether(each.tag(), each.span(), OpcUaTime.toTicks(clock.now()));
            } catch (Problem problem) {
                // One that cannot be put together keeps no other from it; several are the database's trouble.
                last = problem;
                if (++failed == SEVERAL) {
                    throw problem;
                }
            }
        }
        if (last != null) {
            said.note(clock.now(), last.getMessage());
        }
        return all.size() == STEPS;
    }

    /** Once a day in the small hours, where the clock is believed; what could not be looked at then is looked at in the next night. */
    boolean removeOld() throws Problem {
        var now = clock.now().atZone(engine.zone());
        String today = now.toLocalDate().toString();
        if (now.toLocalTime().isBefore(FROM)
                || now.toLocalTime().isAfter(UNTIL)
                || engine.local().remembered(REMOVED).filter(today::equals).isPresent()
                || engine.clockDoubt().isPresent()) {
            return false;
        }
        boolean more = removeNow();
        if (!more) {
            engine.local().remember(REMOVED, today);
        }
        return more;
    }

    /** Removes some of what is older than it is kept for; whether there may be more. */
    public boolean removeNow() throws Problem {
        boolean more = false;
        long blocks = 0;
        long left = 0;
        for (Map.Entry<Long, KeptFor> each : old.lasting().entrySet()) {
            KeptFor lasting = each.getValue();
            if (lasting.summaries() > 0) {
                int some = old.summarizeBefore(each.getKey(), before(lasting.days()), REMOVED_AT_ONCE);
                left += some;
                more |= some == REMOVED_AT_ONCE;
            }
            int removed = old.removeBefore(
                    each.getKey(), before(Math.max(lasting.days(), lasting.summaries())), REMOVED_AT_ONCE);
            blocks += removed;
            more |= removed == REMOVED_AT_ONCE;
        }
        if (blocks > 0) {
            said.note(
                    clock.now(),
                    blocks + " blocks of values were removed: they were older than their rules keep them.");
        }
        if (left > 0) {
            said.note(
                    clock.now(),
                    "Of " + left + " blocks of values summaries are left: their rules keep values no longer.");
        }
        return more;
    }

    private long before(int days) {
        return OpcUaTime.toTicks(clock.now().minus(Duration.ofDays(days)));
    }

    /** How much there is of each tag, by its number in the archive; as of a moment ago. */
    public Map<Long, Extent> extents() {
        return extents;
    }

    /** What it said lately, newest first. */
    public List<Said.Line> said() {
        return said.lines();
    }

    @EventListener(ContextClosedEvent.class)
    synchronized void end() {
        if (worker != null) {
            worker.close(STOP);
        }
    }
}
