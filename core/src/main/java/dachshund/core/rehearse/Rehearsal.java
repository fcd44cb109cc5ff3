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
 * written. Nothing is written anywhere.
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
    private final Deque<Made> rows = new ArrayDeque<>();
    private final List<Instant> past = new ArrayList<>();
    private final List<Span> open = new ArrayList<>();
    private final int mostRows;
    private long sequence;
    private long made;
    private long bytes;
    private long whole;

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

    private Rehearsal(RecorderDefinition design, Plant plant, RowId identity, int mostRows) {
        this.design = design;
        this.facts = plant.facts(design);
        this.maker = new RowMaker(design.layout(), facts);
        this.group = new WhenGroup(
                design.whens(),
                design.gate(),
                new WhenFacts(facts.zone(), facts.shifts(), maker.tags(), plant::range, Optional.empty()));
        this.identity = identity;
        this.mostRows = mostRows;
    }

    /** The tags whose values it needs. */
    public static Set<TagRef> tags(RecorderDefinition design, Plant plant) {
        Rehearsal rehearsal = new Rehearsal(design, plant, new RowId("000000", "00000000", 0, 0, 0), 0);
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
        return new Rehearsal(design, plant, identity, mostRows).run(history, from, now, until);
    }

    private record Event(Instant at, TaggedValue change) {}

    private Rehearsed run(Map<TagRef, List<TagValue>> history, Instant from, Instant now, Instant until) {
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
        events.sort(Comparator.comparing(Event::at));
        group.begin(tag -> latest.getOrDefault(tag, TagValue.NONE), from);
        gate(from);
        for (int i = 0; i < events.size() && past.size() < MOST_FIRINGS; ) {
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
        timeTo(now);
        close(now);
        double perHour = rowsAnHour(from, now);
        List<Instant> next = new ArrayList<>();
        while (!group.next().isAfter(until) && next.size() < MOST_FIRINGS) {
            Instant at = group.next();
            group.time(at).forEach(firing -> next.add(firing.at()));
        }
        return new Rehearsed(past, next, open, List.copyOf(rows), perHour, whole == 0 ? 0 : (double) bytes / whole);
    }

    private void take(TagRef tag, TagValue value) {
        latest.put(tag, value);
        if (!value.quality().isBad()) {
            lastGood.put(tag, value);
        }
    }

    private void timeTo(Instant to) {
        while (!group.next().isAfter(to) && past.size() < MOST_FIRINGS) {
            Instant at = group.next();
            group.time(at).forEach(this::fire);
        }
    }

    private void fire(Firing firing) {
        if (firing.kind() != Firing.Kind.ROW) {
            return;
        }
        past.add(firing.at());
        TagValue[] values = maker.tags().stream()
                .map(tag -> latest.getOrDefault(tag, TagValue.NONE))
                .toArray(TagValue[]::new);
        TagValue[] good = maker.tags().stream()
                .map(tag -> lastGood.getOrDefault(tag, TagValue.NONE))
                .toArray(TagValue[]::new);
        for (Made each : maker.make(
                identity.withSequence(++sequence), firing.at(), new Snapshot(values, good, firing.changed()))) {
            made++;
            if (each instanceof Made.Whole row) {
                whole++;
                bytes += bytes(row.row());
            }
            rows.addLast(each);
            if (rows.size() > mostRows) {
                rows.removeFirst();
            }
        }
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
    private double rowsAnHour(Instant from, Instant now) {
        double seconds = Math.max(1, Duration.between(from, now).toMillis() / 1000.0);
        boolean steady =
                design.gate().isEmpty() && design.whens().stream().allMatch(when -> when.pace() != When.Pace.VALUES);
        if (!steady) {
            return made * 3600 / seconds;
        }
        double lines = design.layout().shape() == Shape.ROW_PER_TAG
                ? design.layout().lines().size()
                : past.isEmpty() ? 1 : Math.max(1, (double) made / past.size());
        double firings = 0;
        for (When when : design.whens()) {
            firings += when.rate().map(rate -> 3_600_000.0 / rate.toMillis()).orElseGet(() -> clockAnHour(when, now));
        }
        return firings * lines;
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
