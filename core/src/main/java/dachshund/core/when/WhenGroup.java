package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;

/**
 * All Whens of a recorder and its gate at work, over the clock and batches of changes. Given the same inputs it fires at the
 * same instants, live and in a rehearsal. Each When sees every change in order and fires at most once per batch; Whens that
 * fire at one instant make one row. The gate is shut while it is not true or not known. One thread at a time.
 */
public final class WhenGroup {

    private final List<WhenState> states;
    private final Optional<ConditionState> gate;

    public WhenGroup(List<When> whens, Optional<Condition> gate, WhenFacts facts) {
        this.states = whens.stream().map(when -> when.state(facts)).toList();
        this.gate = gate.map(ConditionState::new);
    }

    /** The tags whose changes it has to hear of. */
    public Set<TagRef> tags() {
        Set<TagRef> tags = new LinkedHashSet<>();
        states.forEach(state -> tags.addAll(state.tags()));
        gate.ifPresent(each -> tags.addAll(each.tags()));
        return tags;
    }

    /** Takes the values that are there at the start; none of them fires. */
    public void begin(Function<TagRef, TagValue> values, Instant now) {
        gate.ifPresent(each -> each.tags().forEach(tag -> each.take(tag, values.apply(tag), now)));
        states.forEach(state -> state.begin(values, now));
    }

    /** When {@link #time} has something to do next; {@link Instant#MAX} where only a change can make it fire. */
    public Instant next() {
        Instant first = Instant.MAX;
        for (WhenState state : states) {
            Instant next = state.next();
            first = next.isBefore(first) ? next : first;
        }
        return first;
    }

    /** What is due at the instant or before, in order. */
    public List<Firing> time(Instant now) {
        List<Firing> due = new ArrayList<>(1);
        for (WhenState state : states) {
            if (!state.next().isAfter(now)) {
                due.addAll(state.time(now));
            }
        }
        return due.isEmpty() || !open(now) ? List.of() : merged(due);
    }

    /** What a batch of changes fires: one row at most. */
    public Optional<Firing> changed(List<TaggedValue> batch, Instant now) {
        if (batch.size() == 1 && states.size() == 1) {
            gate.ifPresent(each -> each.take(batch, now));
            Optional<Optional<Set<TagRef>>> fired = states.get(0).changed(batch, now);
            return fired.isPresent() && open(now)
                    ? Optional.of(new Firing(now, Firing.Kind.ROW, fired.get()))
                    : Optional.empty();
        }
        Set<TagRef> changed = new HashSet<>();
        boolean fires = false;
        boolean all = false;
        for (List<TaggedValue> step : steps(batch)) {
            gate.ifPresent(each -> each.take(step, now));
            for (WhenState state : states) {
                Optional<Optional<Set<TagRef>>> fired = state.changed(step, now);
                if (fired.isPresent()) {
                    fires = true;
                    all |= fired.get().isEmpty();
                    fired.get().ifPresent(changed::addAll);
                }
            }
        }
        return fires && open(now)
                ? Optional.of(new Firing(now, Firing.Kind.ROW, all ? Optional.empty() : Optional.of(changed)))
                : Optional.empty();
    }

    /** A batch in steps that have each tag once: what changed together is seen together, and nothing is passed over. */
    private static List<List<TaggedValue>> steps(List<TaggedValue> batch) {
        if (batch.size() == 1) {
            return List.of(batch);
        }
        List<List<TaggedValue>> steps = new ArrayList<>();
        Set<TagRef> seen = new HashSet<>();
        int from = 0;
        for (int i = 0; i < batch.size(); i++) {
            if (!seen.add(batch.get(i).tag())) {
                steps.add(batch.subList(from, i));
                seen.clear();
                seen.add(batch.get(i).tag());
                from = i;
            }
        }
        steps.add(batch.subList(from, batch.size()));
        return steps;
    }

    /** Whether the gate lets rows through. */
    public boolean open(Instant now) {
        return gate.isEmpty() || gate.get().value(now).orElse(false);
    }

    public void clockSetBack(Instant now) {
        states.forEach(state -> state.clockSetBack(now));
    }

    /** Firings of one instant become one; what is not for changed tags alone is for all. */
    private static List<Firing> merged(List<Firing> due) {
        if (due.size() == 1) {
            return due;
        }
        Map<Instant, Firing> byInstant = new TreeMap<>();
        for (Firing firing : due) {
            byInstant.merge(firing.at(), firing, WhenGroup::stronger);
        }
        return List.copyOf(byInstant.values());
    }

    private static Firing stronger(Firing a, Firing b) {
        if (a.kind() != b.kind()) {
            return a.kind() == Firing.Kind.ROW || b.kind() != Firing.Kind.ROW ? a : b;
        }
        if (a.times() != b.times()) {
            return a.times() > b.times() ? a : b;
        }
        if (a.changed().isEmpty() || b.changed().isEmpty()) {
            return a.changed().isEmpty() ? a : b;
        }
        Set<TagRef> both = new HashSet<>(a.changed().get());
        both.addAll(b.changed().get());
        return new Firing(a.at(), a.kind(), Optional.of(both));
    }
}
