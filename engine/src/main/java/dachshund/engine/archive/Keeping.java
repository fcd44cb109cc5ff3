package dachshund.engine.archive;

import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.Series;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import dachshund.engine.archive.ValueEntry.Value;
import dachshund.engine.journal.Journal;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.BooleanSupplier;

/**
 * One keeping rule at work: hears of each change of its tags, decides what of it is kept, and appends that to the journal at
 * once, on the thread that delivers it. Nothing waits in memory, so an end of the process loses no more than the journal does.
 */
final class Keeping implements TagTable.Watcher {

    /** A clock that is ahead by more is wrong. */
    private static final Duration AHEAD = Duration.ofDays(1);

    /** A block of the archive has to go into a database as a whole. */
    private static final int MOST_LETTERS = 1_000_000;

    private static final long TICKS_PER_DAY = 24L * 3600 * 10_000_000;
    /** Without any change an entry says once in so long that the rule is at work. */
    private static final long SIGN_OF_LIFE_NANOS = 1_000_000_000L;

    private final KeepingRuleDefinition rule;
    private final List<Assigned.Tag> tags;
    private final Map<TagRef, One> byTag = new HashMap<>();
    private final Journal journal;
    private final Journal.Design design;
    private final long run;
    private final PlantClock clock;
    private final BooleanSupplier clockDoubted;
    private final Said said;
    private final long slot;
    private final long began;

    private long offered;
    private long within;
    private long refused;
    private long lastEntry;
    /** Of the whole run, for pages. */
    private Counts sinceStart = Counts.NONE;

    private boolean journalFull;

    /** What is known of one tag; guarded by the rule. */
    private static final class One {
        private final int number;
        private final double deadband;
        private boolean begun;
        private boolean wasAway;
        private long time;
        private Object value;
        private int mark;
        private long slot = Long.MIN_VALUE;
        /** The last value that was passed over since then; its time is where a line from the one before bends. */
        private Value passed;

        private long refused;
        private String why = "";
        /** Since when values did not come to the journal; 0 where all did. */
        private long lostFrom;

        private One(int number, double deadband) {
            this.number = number;
            this.deadband = deadband;
        }
    }

    Keeping(
            KeepingRuleDefinition rule,
            List<Assigned.Tag> tags,
            Journal journal,
            long run,
            PlantClock clock,
            BooleanSupplier clockDoubted,
            Said said) {
        this.rule = rule;
        this.tags = tags;
        this.journal = journal;
        this.design = KeptTags.of(rule, tags).design();
        this.run = run;
        this.clock = clock;
        this.clockDoubted = clockDoubted;
        this.said = said;
        this.began = OpcUaTime.toTicks(clock.now());
        this.lastEntry = clock.nanos() - SIGN_OF_LIFE_NANOS;
        this.slot = rule.how().every().map(period -> period.toNanos() / 100).orElse(0L);
        for (int i = 0; i < tags.size(); i++) {
            byTag.put(
                    tags.get(i).ref(),
                    new One(i, rule.how().deadbandOf(tags.get(i).info().range())));
        }
    }

    KeepingRuleDefinition rule() {
        return rule;
    }

    List<Assigned.Tag> tags() {
        return tags;
    }

    @Override
    public synchronized void changed(List<TaggedValue> changes) {
        List<Value> values = new ArrayList<>(changes.size());
        for (TaggedValue change : changes) {
            One one = byTag.get(change.tag());
            if (one != null && change.value().arrived()) {
                offered++;
                take(one, change.value(), values);
            }
        }
        append(values);
    }

    /** The values of the instant from which on it listens. */
    synchronized void begin(Map<TagRef, TagValue> first) {
        Instant now = clock.now();
        List<Value> values = new ArrayList<>();
        for (Map.Entry<TagRef, TagValue> each : first.entrySet()) {
            TagValue value = each.getValue();
            One one = byTag.get(each.getKey());
            if (one != null && value.arrived()) {
                offered++;
                take(one, value.withQuality(value.quality(), now), values);
            }
        }
        append(values);
    }

    /** From now on nothing more comes of these tags. */
    synchronized void leave(List<TagRef> gone, Gap why) {
        long now = OpcUaTime.toTicks(clock.now());
        List<Value> values = new ArrayList<>();
        for (TagRef tag : gone) {
            One one = byTag.get(tag);
            if (one != null && one.begun) {
                bend(one, values, Long.MAX_VALUE);
                values.add(new Value(one.number, Math.max(now, one.time + 1), Marks.of(why), null));
            }
        }
        append(values);
    }

    /** Says that it is at work, where nothing else has said so for a while. */
    synchronized void signOfLife() {
        if (clock.nanos() - lastEntry >= SIGN_OF_LIFE_NANOS) {
            append(List.of(), true);
        }
    }

    private void take(One one, TagValue value, List<Value> values) {
        boolean away = value.quality().equals(Quality.AWAY);
        Object kept = Series.kept(value.value());
        int mark = Marks.of(value.quality(), kept != null);
        long received = OpcUaTime.toTicks(value.receiveTime());
        long time = received;
        if (!away) {
            long source = ticks(value.sourceTime());
            // A source that gives no time, and one that tells anew what it told before it, or we, were away.
            boolean old = source <= 0 || (!one.begun || one.wasAway) && source <= Math.max(one.time, began);
            time = old ? received : source;
        }
        String wrong = kept instanceof String text && text.length() > MOST_LETTERS
                ? "a text of " + text.length() + " letters; the archive keeps none of more than " + MOST_LETTERS + "."
                : wrong(time, received);
        if (!wrong.isEmpty()) {
            refused++;
            one.refused++;
            if (one.why.isEmpty()) {
                said.note(clock.now(), tags.get(one.number).info().fullName() + ": " + wrong);
            }
            one.why = wrong;
            return;
        }
        Value next = new Value(one.number, time, mark, kept);
        if (one.begun && passedOver(one, next)) {
            within++;
            if (time > one.time) {
                one.passed = next;
            }
            return;
        }
        if (one.lostFrom > 0) {
            values.add(new Value(one.number, one.lostFrom, Marks.of(Gap.REFUSED), null));
            one.lostFrom = 0;
        }
        if (one.begun && time < one.time) {
            values.add(next); // late: it lands where it belongs, and what is known of the newest stays
            return;
        }
        bend(one, values, time);
        one.begun = true;
        one.wasAway = away;
        one.time = time;
        one.value = kept;
        one.mark = mark;
        one.slot = slot > 0 ? Math.floorDiv(time, slot) : 0;
        values.add(next);
    }

    /** What was passed over last is kept where it is not at the end of a rate: a line from the value before bends there. */
    private void bend(One one, List<Value> values, long before) {
        if (one.passed != null && slot == 0 && one.passed.time() < before) {
            values.add(one.passed);
            within--;
        }
        one.passed = null;
    }

    private boolean passedOver(One one, Value next) {
        if (next.time() < one.time || next.mark() != one.mark) {
            return false;
        }
        if (slot > 0) {
            return Math.floorDiv(next.time(), slot) == one.slot;
        }
        if (next.value() instanceof Number is && one.value instanceof Number was && one.deadband > 0) {
            return Math.abs(is.doubleValue() - was.doubleValue()) <= one.deadband;
        }
        return Objects.equals(next.value(), one.value);
    }

    private String wrong(long time, long received) {
        if (clockDoubted.getAsBoolean()) {
            return ""; // against what no clock of ours can say
        }
        if (time - received > AHEAD.toNanos() / 100) {
            return "its source's clock is more than a day ahead; such values are not kept. Set that clock.";
        }
        if (rule.days() > 0 && received - time > rule.days() * TICKS_PER_DAY) {
            return "its source says that the value is older than this rule keeps values (" + rule.days() + " days"
                    + "); such values are not kept.";
        }
        return "";
    }

    private static long ticks(Instant time) {
        try {
            return OpcUaTime.toTicks(time);
        } catch (ArithmeticException farAway) {
            return 0;
        }
    }

    private void append(List<Value> values) {
        append(values, false);
    }

    private void append(List<Value> values, boolean anyway) {
        long now = OpcUaTime.toTicks(clock.now());
        if (values.isEmpty() && !anyway && clock.nanos() - lastEntry < SIGN_OF_LIFE_NANOS) {
            return;
        }
        Counts counts = new Counts(offered, 0, 0, within, refused);
        ValueEntry entry = new ValueEntry(design.key(), run, now, counts, values);
        try {
            journal.append(rule.id(), Journal.Kind.VALUES, ValueEntry.VERSION, design, entry.write());
            lastEntry = clock.nanos();
            offered = 0;
            within = 0;
            refused = 0;
            journalFull = false;
            sinceStart =
                    sinceStart.plus(new Counts(counts.offered(), real(values), 0, counts.within(), counts.refused()));
        } catch (Journal.Full full) {
            // What was decided stands in no journal: its tags begin anew, and there is a gap.
            for (Value value : values) {
                lost(value, now, full.getMessage());
            }
            if (!journalFull) {
                said.note(clock.now(), full.getMessage());
            }
            journalFull = true;
        }
    }

    private void lost(Value value, long now, String why) {
        One one = byTag.get(tags.get(value.tag()).ref());
        one.begun = false;
        one.why = why;
        if (Marks.isGap(value.mark())) {
            one.lostFrom = value.time();
        } else {
            refused++;
            one.refused++;
            one.lostFrom = one.lostFrom == 0 ? now : one.lostFrom;
        }
    }

    /** How many of them are values and no gaps. */
    static long real(List<Value> values) {
        return values.stream().filter(value -> !Marks.isGap(value.mark())).count();
    }

    /** What became of values since it began. */
    synchronized Counts counts() {
        return sinceStart.plus(new Counts(offered, 0, 0, within, refused));
    }

    /** Of how many tags values were refused since it began. */
    synchronized long refusedTags() {
        return byTag.values().stream().filter(one -> one.refused > 0).count();
    }
}
