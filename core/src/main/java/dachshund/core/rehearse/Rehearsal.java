package dachshund.core.rehearse;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Shape;
import dachshund.core.row.Made;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.row.Snapshot;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.when.Firing;
import dachshund.core.when.When;
import dachshund.core.when.WhenFacts;
import dachshund.core.when.WhenGroup;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Runs a recorder's Whens and Row over values that have been, by the same rules as live, and says what would have been
 * written. Nothing is written anywhere. A long time is gone through in parts: {@link #begin}, then {@link #go} for each.
 */
public final class Rehearsal {

    /** More firings than this are not gone through. */
    private static final int MOST_FIRINGS = 20_000;

    private static final Duration LOOK_AHEAD = Duration.ofDays(7);

    private final RecorderDefinition design;
    private final RowFacts facts;
    private final RowMaker maker;
    private final WhenGroup group;
    private final Map<TagRef, TagValue> latest = new HashMap<>();
    private final Map<TagRef, TagValue> lastGood = new HashMap<>();
    private final RowId identity;
    private final Taker taker;
    private final List<Span> open = new ArrayList<>();
    private final int mostFirings;
    private int firings;
    private long sequence;

    /** Takes what would have been written. */
    public interface Taker {

        /** A When fires; what it makes follows. */
        default void fires(Instant at) {}

        void row(Made made);

        /** Of a tag that the row is made of nothing is known then, so that no row can be made. */
        default void unknown(Instant at, TagRef tag) {}
    }

    /** Stands for a value where nothing is known: nobody recorded it. */
    public static final Quality UNKNOWN = new Quality(Quality.Grade.BAD, 0, "nothing was kept");

    /** What a page shows: the last rows, and counts. */
    private static final class Kept implements Taker {

        private final int most;
        private final Deque<Made> rows = new ArrayDeque<>();
        private final List<Instant> past = new ArrayList<>();
        private long made;
        private long bytes;
        private long whole;

        Kept(int most) {
            this.most = most;
        }

        @Override
        public void fires(Instant at) {
            past.add(at);
        }

        @Override
        public void row(Made each) {
            made++;
            if (each instanceof Made.Whole row) {
                whole++;
                bytes += bytes(row.row());
            }
            rows.addLast(each);
            if (rows.size() > most) {
                rows.removeFirst();
            }
        }
    }

    /** A stretch of time. */
    public record Span(Instant from, Instant to) {}

    /**
     * What would have been written.
     *
     * @param past        the instants of rows up to now
     * @param next        instants that are known already
     * @param open        when the gate was open; empty where there is none
     * @param rows        the last rows, oldest first
     * @param rowsAnHour  rows an hour, lines of a layout with a row per tag counted each
     * @param bytesPerRow about how many bytes a row is, without what a database adds
     */
    public record Rehearsed(
            List<Instant> past,
            List<Instant> next,
            List<Span> open,
            List<Made> rows,
            double rowsAnHour,
            double bytesPerRow) {}

    private Rehearsal(RecorderDefinition design, Plant plant, RowId identity, int mostFirings, Taker taker) {
        this.design = design;
        this.facts = plant.facts(design);
        this.maker = new RowMaker(design.layout(), facts);
        this.group = new WhenGroup(
                design.whens(),
                design.gate(),
                new WhenFacts(facts.zone(), facts.shifts(), maker.tags(), plant::range, Optional.empty()));
        this.identity = identity;
        this.mostFirings = mostFirings;
        this.taker = taker;
    }

    /**
     * Begins with a time of the past.
     *
     * @param before the values of {@link #tags} as they were then
     * @param from   record times begin here
     */
    public static Rehearsal begin(
            RecorderDefinition design,
            Plant plant,
            RowId identity,
            Map<TagRef, TagValue> before,
            Instant from,
            Taker taker) {
        Rehearsal rehearsal = new Rehearsal(design, plant, identity, Integer.MAX_VALUE, taker);
        before.forEach(rehearsal::take);
        rehearsal.group.begin(tag -> rehearsal.latest.getOrDefault(tag, TagValue.NONE), from);
        rehearsal.gate(from);
        return rehearsal;
    }

    /**
     * Goes on to an instant.
     *
     * @param values what came by then since the part before, by receive time, oldest first
     * @param to     inclusive
     */
    public void go(Map<TagRef, List<TagValue>> values, Instant to) {
        List<Event> events = new ArrayList<>();
        values.forEach((tag, theirs) ->
                theirs.forEach(value -> events.add(new Event(value.receiveTime(), new TaggedValue(tag, value)))));
        go(events, to);
    }

    /** The tags whose values it needs. */
    public static Set<TagRef> tags(RecorderDefinition design, Plant plant) {
        Rehearsal rehearsal = new Rehearsal(design, plant, new RowId("000000", "00000000", 0, 0, 0), 0, new Kept(0));
        Set<TagRef> tags = new LinkedHashSet<>(rehearsal.maker.tags());
        tags.addAll(rehearsal.group.tags());
        return tags;
    }

    /**
     * @param history  values of {@link #tags} by receive time, oldest first
     * @param from     where it begins; values received before it are there at the start
     * @param now      up to where there are values
     * @param until    how far ahead to look for instants that are known already
     * @param mostRows how many of the last rows to make
     */
    public static Rehearsed run(
            RecorderDefinition design,
            Plant plant,
            RowId identity,
            Map<TagRef, List<TagValue>> history,
            Instant from,
            Instant now,
            Instant until,
            int mostRows) {
        Kept kept = new Kept(mostRows);
        return new Rehearsal(design, plant, identity, MOST_FIRINGS, kept).run(history, from, now, until, kept);
    }

    private record Event(Instant at, TaggedValue change) {}

    private Rehearsed run(Map<TagRef, List<TagValue>> history, Instant from, Instant now, Instant until, Kept kept) {
        List<Event> events = new ArrayList<>();
        history.forEach((tag, values) -> {
            for (TagValue value : values) {
                if (value.receiveTime().isBefore(from)) {
                    take(tag, value);
                } else if (!value.receiveTime().isAfter(now)) {
                    events.add(new Event(value.receiveTime(), new TaggedValue(tag, value)));
                }
            }
        });
        group.begin(tag -> latest.getOrDefault(tag, TagValue.NONE), from);
        gate(from);
        go(events, now);
        close(now);
        double perHour = rowsAnHour(from, now, kept);
        List<Instant> next = new ArrayList<>();
        while (!group.next().isAfter(until) && next.size() < MOST_FIRINGS) {
            Instant at = group.next();
            group.time(at).forEach(firing -> next.add(firing.at()));
        }
        return new Rehearsed(
                kept.past,
                next,
                open,
                List.copyOf(kept.rows),
                perHour,
                kept.whole == 0 ? 0 : (double) kept.bytes / kept.whole);
    }

    private void go(List<Event> events, Instant to) {
        events.sort(Comparator.comparing(Event::at));
        for (int i = 0; i < events.size() && firings < mostFirings; ) {
            Instant at = events.get(i).at();
            timeTo(at.minusNanos(1));
            List<TaggedValue> batch = new ArrayList<>();
            for (; i < events.size() && events.get(i).at().equals(at); i++) {
                batch.add(events.get(i).change());
                take(events.get(i).change().tag(), events.get(i).change().value());
            }
            group.changed(batch, at).ifPresent(this::fire);
            gate(at);
        }
        timeTo(to);
    }

    private void take(TagRef tag, TagValue value) {
        latest.put(tag, value);
        if (!value.quality().isBad()) {
            lastGood.put(tag, value);
        }
    }

    private void timeTo(Instant to) {
        while (!group.next().isAfter(to) && firings < mostFirings) {
            Instant at = group.next();
            group.time(at).forEach(this::fire);
        }
    }

    private void fire(Firing firing) {
        if (firing.kind() != Firing.Kind.ROW) {
            return;
        }
        firings++;
        TagValue[] values = maker.tags().stream()
                .map(tag -> latest.getOrDefault(tag, TagValue.NONE))
                .toArray(TagValue[]::new);
        for (int i = 0; i < values.length; i++) {
            if (values[i].quality().equals(UNKNOWN)) {
                taker.unknown(firing.at(), maker.tags().get(i));
                return;
            }
        }
        taker.fires(firing.at());
        TagValue[] good = maker.tags().stream()
                .map(tag -> lastGood.getOrDefault(tag, TagValue.NONE))
                .toArray(TagValue[]::new);
        maker.make(identity.withSequence(++sequence), firing.at(), new Snapshot(values, good, firing.changed()))
                .forEach(taker::row);
    }

    private void gate(Instant at) {
        if (design.gate().isEmpty()) {
            return;
        }
        boolean lets = group.open(at);
        boolean was = !open.isEmpty() && open.get(open.size() - 1).to().equals(Instant.MAX);
        if (lets && !was) {
            open.add(new Span(at, Instant.MAX));
        } else if (!lets && was) {
            close(at);
        }
    }

    private void close(Instant at) {
        if (!open.isEmpty() && open.get(open.size() - 1).to().equals(Instant.MAX)) {
            open.set(open.size() - 1, new Span(open.get(open.size() - 1).from(), at));
        }
    }

    /** Steady rates and clock times by their own arithmetic, what depends on values by what was seen. */
    private double rowsAnHour(Instant from, Instant now, Kept kept) {
        double seconds = Math.max(1, Duration.between(from, now).toMillis() / 1000.0);
        boolean steady = design.gate().isEmpty()
                && design.whens().stream()
                        .allMatch(when -> when.pace() == When.Pace.RATE || when.pace() == When.Pace.CLOCK);
        if (!steady) {
            return kept.made * 3600 / seconds;
        }
        double lines = design.layout().shape() == Shape.ROW_PER_TAG
                ? design.layout().lines().size()
                : kept.past.isEmpty() ? 1 : Math.max(1, (double) kept.made / kept.past.size());
        double anHour = 0;
        for (When when : design.whens()) {
            anHour += when.rate().map(rate -> 3_600_000.0 / rate.toMillis()).orElseGet(() -> clockAnHour(when, now));
        }
        return anHour * lines;
    }

    private double clockAnHour(When when, Instant now) {
        WhenGroup alone = new WhenGroup(
                List.of(when),
                Optional.empty(),
                new WhenFacts(facts.zone(), facts.shifts(), List.of(), tag -> Optional.empty(), Optional.empty()));
        alone.begin(tag -> TagValue.NONE, now);
        int count = 0;
        Instant end = now.plus(LOOK_AHEAD);
        while (!alone.next().isAfter(end) && count < MOST_FIRINGS) {
            count += alone.time(alone.next()).size();
        }
        return count / (double) LOOK_AHEAD.toHours();
    }

    private static long bytes(Row row) {
        long sum = 0;
        for (Object cell : row.cells()) {
            sum += cell == null
                    ? 1
                    : cell instanceof String text
                            ? text.getBytes(StandardCharsets.UTF_8).length + 2
                            : cell instanceof BigDecimal exact
                                    ? exact.precision() / 2 + 2
                                    : cell instanceof Boolean ? 1 : 8;
        }
        return sum;
    }
}
