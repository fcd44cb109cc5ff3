package dachshund.engine.when;

import dachshund.core.row.Snapshot;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.time.PlantClock;
import dachshund.core.when.Firing;
import dachshund.core.when.WhenGroup;
import dachshund.engine.said.Said;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;

/**
 * Whens and a gate at work: hears of changes, is woken at its times, and drives one action. The thread that delivers a
 * change only takes the values and hands them on; everything else happens on the action's own strand, in order. Whatever is
 * thrown there is said and counted, and the next change finds it ready.
 */
public final class WhenRun implements TagTable.Watcher {

    private final String id;
    private final WhenGroup whens;
    private final Set<TagRef> watched;
    private final TagTable table;
    private final TagTable.Entry[] reads;
    private final Action action;
    private final ActionPool.Strand strand;
    private final PlantClock clock;
    private final Said said;
    private volatile Consumer<WhenRun> toldNext = run -> {};
    private volatile Instant next = Instant.MAX;
    private volatile boolean open = true;
    private volatile String trouble = "";
    private volatile boolean ended;
    private boolean atTime;

    /**
     * @param id    of what is driven; runs of one id share a strand and follow each other
     * @param reads tags whose values the action gets
     * @param said  where it says what goes wrong
     */
    public WhenRun(
            String id,
            WhenGroup whens,
            List<TagRef> reads,
            TagTable table,
            Action action,
            ActionPool.Strand strand,
            PlantClock clock,
            Said said) {
        this.id = id;
        this.whens = whens;
        this.watched = whens.tags();
        this.table = table;
        this.reads = reads.stream().map(tag -> recorded(table, tag)).toArray(TagTable.Entry[]::new);
        this.action = action;
        this.strand = strand;
        this.clock = clock;
        this.said = said;
    }

    private static TagTable.Entry recorded(TagTable table, TagRef tag) {
        TagTable.Entry entry = table.entry(tag);
        entry.recent();
        return entry;
    }

    public String id() {
        return id;
    }

    /** Why it does not fire as it should, in words; empty where it does. */
    public String trouble() {
        return trouble;
    }

    /** How long the present step has been running, and how many wait. */
    public ActionPool.Strand strand() {
        return strand;
    }

    /**
     * Begins to listen, in the place of another run of the same id, at one instant: every change is seen by one of them.
     *
     * @param told told, on the strand, when {@link #next} has changed
     */
    void begin(Instant now, Optional<WhenRun> before, Consumer<WhenRun> told) {
        toldNext = told;
        watched.forEach(tag -> table.entry(tag).recent());
        // The first look is handed on while nothing can change in between.
        table.replace(
                before.map(run -> run.watched).orElse(Set.of()),
                before.orElse(null),
                watched,
                this,
                values -> strand.submit(0, guarded(() -> {
                    Map<TagRef, TagValue> first = new HashMap<>(values);
                    whens.begin(tag -> first.getOrDefault(tag, TagValue.NONE), now);
                })));
    }

    /** Listens no more; what it has heard is still carried out. */
    void end() {
        table.unwatch(watched, this);
    }

    /** What is left of it is not carried out any more. */
    void forget() {
        ended = true;
    }

    /** When it wants to be woken; as of the last step that is done. */
    Instant next() {
        return next;
    }

    /** When something was to be done that is not done yet; the end of time where nothing is due. */
    public Instant dueAt() {
        return next;
    }

    /** Whether its gate let rows through at the last step. */
    public boolean open() {
        return open;
    }

    /** Does what is due at the instant, and says afterwards when it wants to be woken again. */
    void time(Instant now) {
        submit(0, () -> {
            for (Firing firing : whens.time(now)) {
                carryOut(firing, snapshot(firing), now);
            }
            atTime = true;
        });
    }

    void clockSetBack(Instant now) {
        submit(0, () -> {
            whens.clockSetBack(now);
            atTime = true;
        });
    }

    @Override
    public void changed(List<TaggedValue> changes) {
        Instant now = clock.now();
        TagValue[] values = values();
        TagValue[] good = lastGood(values);
        if (!strand.submit(1 + values.length, new Change(changes, now, values, good))) {
            action.overrun(now);
            trouble("It cannot keep up: " + strand.waiting()
                    + " changes wait already; further ones are passed over and counted.");
        }
    }

    /** A batch of changes as a step: one object, because under load there are hundreds of thousands a second. */
    private final class Change implements Runnable {

        private final List<TaggedValue> changes;
        private final Instant at;
        private final TagValue[] values;
        private final TagValue[] good;

        private Change(List<TaggedValue> changes, Instant at, TagValue[] values, TagValue[] good) {
            this.changes = changes;
            this.at = at;
            this.values = values;
            this.good = good;
        }

        @Override
        public void run() {
            guard(this::decide);
        }

        private void decide() {
            Optional<Firing> fired = whens.changed(changes, at);
            if (fired.isPresent()) {
                carryOut(fired.get(), new Snapshot(values, good, fired.get().changed()), clock.now());
            }
        }
    }

    private boolean submit(int values, Runnable work) {
        return strand.submit(values, guarded(work));
    }

    private Runnable guarded(Runnable work) {
        return () -> guard(work);
    }

    private void guard(Runnable work) {
        if (ended) {
            return;
        }
        Instant before = next;
        try {
            work.run();
            if (!trouble.isEmpty()) {
                said.note(clock.now(), "It goes on.");
                trouble = "";
            }
        } catch (RuntimeException | Error thrown) {
            trouble("Deciding when failed: " + Threads.words(thrown));
        }
        look(before);
    }

    /** What it says about the future, after a step. */
    private void look(Instant before) {
        try {
            Instant then = whens.next();
            if (!then.equals(before)) {
                next = then;
            }
            boolean through = whens.open(clock.now());
            if (through != open) {
                open = through;
            }
        } catch (RuntimeException | Error thrown) {
            trouble("Deciding when failed: " + Threads.words(thrown));
            next = clock.now().plusSeconds(1);
        }
        if (atTime || next.isBefore(before)) {
            atTime = false;
            toldNext.accept(this);
        }
    }

    private void carryOut(Firing firing, Snapshot values, Instant now) {
        if (firing.kind() == Firing.Kind.SKIPPED) {
            action.skipped(firing);
        } else {
            action.run(firing, values, now);
        }
    }

    private void trouble(String sentence) {
        trouble = sentence;
        said.note(clock.now(), sentence);
    }

    private Snapshot snapshot(Firing firing) {
        if (firing.kind() == Firing.Kind.MARK) {
            TagValue[] none = new TagValue[reads.length];
            Arrays.fill(none, TagValue.NONE);
            return new Snapshot(none, none, Optional.empty());
        }
        TagValue[] values = values();
        return new Snapshot(values, lastGood(values), firing.changed());
    }

    private TagValue[] values() {
        TagValue[] values = new TagValue[reads.length];
        for (int i = 0; i < values.length; i++) {
            values[i] = reads[i].value();
        }
        return values;
    }

    /** The last good ones beside these; mostly these themselves. */
    private TagValue[] lastGood(TagValue[] values) {
        TagValue[] good = values;
        for (int i = 0; i < values.length; i++) {
            if (values[i].quality().isBad()) {
                good = good == values ? values.clone() : good;
                good[i] = reads[i].lastGood();
            }
        }
        return good;
    }

    /** The tags whose values the action gets, in their order. */
    public List<TagRef> reads() {
        List<TagRef> tags = new ArrayList<>(reads.length);
        for (TagTable.Entry entry : reads) {
            tags.add(entry.tag());
        }
        return tags;
    }
}
