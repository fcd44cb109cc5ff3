package dachshund.engine.recorder;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.outcome.Outcome;
import dachshund.core.row.Made;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.RateSchedule;
import dachshund.core.when.When;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.concurrent.atomic.AtomicLong;

/** One recorder at work under one design. Makes a row at each tick and hands it to the lanes. */
public final class RecorderRun {

    static final int STOP_AFTER_REFUSALS = 1000;

    private final RecorderDefinition definition;
    private final RowId identity;
    private final RowMaker maker;
    private final TagTable.Entry[] entries;
    private final List<RateSchedule> schedules;
    private final List<Duration> periods;
    private final List<Target> targets;
    private final AtomicLong sequence;
    private final CounterBook book;
    private final LocalStore local;
    private int refusedInARow;
    private volatile String trouble = "";
    private volatile Duration lateness = Duration.ZERO;

    /** A writer and the number of this recorder's design there. */
    public record Target(String destination, DestinationWriter writer, int design) {
    }

    /**
     * @param identity row id of this recorder in this epoch, of which the sequence does not count
     * @param sequence goes on from the design before
     */
    public RecorderRun(RecorderDefinition definition, RowId identity, AtomicLong sequence, List<Target> targets, TagTable table,
                       ZoneId zone, CounterBook book, LocalStore local) {
        this.definition = definition;
        this.identity = identity;
        this.sequence = sequence;
        this.targets = List.copyOf(targets);
        this.book = book;
        this.local = local;
        this.maker = new RowMaker(definition.layout(), definition.name());
        this.entries = maker.tags().stream().map(tag -> recorded(table, tag)).toArray(TagTable.Entry[]::new);
        this.periods = definition.whens().stream().map(when -> ((When.Every) when).period()).toList();
        this.schedules = periods.stream().map(period -> new RateSchedule(period, zone)).toList();
    }

    private static TagTable.Entry recorded(TagTable table, TagRef tag) {
        TagTable.Entry entry = table.entry(tag);
        entry.recent();
        return entry;
    }

    public RecorderDefinition definition() {
        return definition;
    }

    /** Why rows are not being taken, in words; empty where they are. */
    public String trouble() {
        return trouble;
    }

    /** How late the last tick was served. */
    public Duration lateness() {
        return lateness;
    }

    /** The first tick of any of its Whens after the instant. */
    Instant next(Instant after) {
        Instant first = Instant.MAX;
        for (RateSchedule schedule : schedules) {
            Instant next = schedule.next(after);
            first = next.isBefore(first) ? next : first;
        }
        return first;
    }

    /** A tick later than this is skipped: one period of its fastest When. */
    Duration longestDelay() {
        return periods.stream().min(Duration::compareTo).orElse(Duration.ZERO);
    }

    /** The tick was more than a period late: no row is written under a past time with present values. */
    void skip(Instant tick) {
        book.due(definition.id(), tick, targets.size());
        book.count(definition.id(), tick, Outcome.SKIPPED, targets.size());
    }

    /**
     * Makes the row of a tick. Called by one thread at a time.
     *
     * @return false where it has refused so many rows in a row that it should stop itself
     */
    public boolean fire(Instant tick, Instant now) {
        lateness = Duration.between(tick, now);
        book.due(definition.id(), tick, targets.size());
        TagValue[] values = new TagValue[entries.length];
        for (int i = 0; i < values.length; i++) {
            values[i] = entries[i].value();
        }
        Made made = maker.make(identity.withSequence(sequence.incrementAndGet()), tick, values);
        if (made instanceof Made.Whole whole) {
            refusedInARow = 0;
            targets.forEach(target -> hand(target, whole));
        } else if (made instanceof Made.Skipped) {
            book.count(definition.id(), tick, Outcome.SKIPPED, targets.size());
        } else if (made instanceof Made.Refused refused) {
            for (Target target : targets) {
                local.setAside(definition.id(), target.destination(), refused.id().toString(), tick, refused.values(), refused.reason(), now);
            }
            book.count(definition.id(), tick, Outcome.SET_ASIDE, targets.size());
            refusedInARow++;
        }
        return refusedInARow < STOP_AFTER_REFUSALS;
    }

    private void hand(Target target, Made.Whole whole) {
        try {
            target.writer().take(target.design(), whole.row());
            trouble = "";
        } catch (Journal.Full full) {
            trouble = full.getMessage();
            book.count(definition.id(), whole.row().recordTime(), Outcome.REFUSED, 1);
        }
    }
}
