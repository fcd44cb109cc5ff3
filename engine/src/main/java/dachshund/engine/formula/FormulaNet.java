package dachshund.engine.formula;

import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.engine.tag.TagTable;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * All formulas at work and what each is computed from. What follows from a batch of changes is computed once each, inputs
 * before what depends on them. Data has no circles; that is checked when formulas are designed. Safe for many threads.
 */
final class FormulaNet implements TagTable.Settling {

    private final TagTable table;
    private final Map<TagRef, List<RunningFormula>> byInput = new HashMap<>();

    FormulaNet(TagTable table) {
        this.table = table;
    }

    /** Takes formulas out and others in, and gives the first values of these. */
    void replace(Collection<RunningFormula> gone, Collection<RunningFormula> fresh) {
        table.derived(() -> {
            synchronized (this) {
                gone.forEach(this::remove);
                fresh.forEach(this::add);
                // A new formula may be computed from another new one: both in order.
                List<TaggedValue> first = new ArrayList<>();
                for (RunningFormula formula : inOrder(fresh)) {
                    formula.begin(table);
                    for (TaggedValue known : first) {
                        formula.take(known);
                    }
                    TaggedValue value = formula.compute();
                    first.add(value);
                }
                Set<RunningFormula> old = new LinkedHashSet<>();
                fresh.forEach(formula -> dependents(formula.output(), old));
                old.removeAll(new LinkedHashSet<>(fresh));
                return andThen(first, old);
            }
        });
    }

    private void add(RunningFormula formula) {
        for (TagRef input : formula.inputs()) {
            byInput.computeIfAbsent(input, tag -> new ArrayList<>()).add(formula);
            table.derivesFrom(input, true);
        }
    }

    private void remove(RunningFormula formula) {
        for (TagRef input : formula.inputs()) {
            List<RunningFormula> using = byInput.getOrDefault(input, new ArrayList<>());
            using.remove(formula);
            if (using.isEmpty()) {
                byInput.remove(input);
                table.derivesFrom(input, false);
            }
        }
    }

    /** Time has passed: results that depend on it are computed anew; those that changed are given out. */
    void tick(Collection<RunningFormula> formulas) {
        table.derived(() -> {
            synchronized (this) {
                List<TaggedValue> changed = new ArrayList<>();
                Set<RunningFormula> after = new LinkedHashSet<>();
                for (RunningFormula formula : formulas) {
                    formula.tick().ifPresent(value -> {
                        changed.add(value);
                        dependents(formula.output(), after);
                    });
                }
                return andThen(changed, after);
            }
        });
    }

    @Override
    public synchronized List<TaggedValue> settle(List<TaggedValue> changes) {
        Set<RunningFormula> affected = new LinkedHashSet<>();
        for (TaggedValue change : changes) {
            byInput.getOrDefault(change.tag(), List.of()).forEach(formula -> formula.take(change));
            dependents(change.tag(), affected);
        }
        List<TaggedValue> results = new ArrayList<>(affected.size());
        compute(affected, results);
        return results;
    }

    /** What a formula gives now, without telling anybody. */
    synchronized TagValue now(RunningFormula formula) {
        return formula.value();
    }

    /** Results, and what follows from them. */
    private List<TaggedValue> andThen(List<TaggedValue> results, Set<RunningFormula> affected) {
        results.forEach(value -> byInput.getOrDefault(value.tag(), List.of()).forEach(formula -> {
            if (affected.contains(formula)) {
                formula.take(value);
            }
        }));
        compute(affected, results);
        return results;
    }

    private void compute(Collection<RunningFormula> affected, List<TaggedValue> results) {
        for (RunningFormula formula : inOrder(affected)) {
            TaggedValue value = formula.compute();
            results.add(value);
            byInput.getOrDefault(formula.output(), List.of()).forEach(next -> next.take(value));
        }
    }

    /** Everything that is computed from a tag, directly or not. */
    private void dependents(TagRef tag, Set<RunningFormula> into) {
        for (RunningFormula formula : byInput.getOrDefault(tag, List.of())) {
            if (into.add(formula)) {
                dependents(formula.output(), into);
            }
        }
    }

    /** What others are computed from stands first. */
    private static List<RunningFormula> inOrder(Collection<RunningFormula> formulas) {
        if (formulas.size() < 2) {
            return List.copyOf(formulas);
        }
        Map<TagRef, RunningFormula> byOutput = new HashMap<>();
        formulas.forEach(formula -> byOutput.put(formula.output(), formula));
        Set<RunningFormula> ordered = new LinkedHashSet<>();
        Set<RunningFormula> visited = new LinkedHashSet<>();
        formulas.forEach(formula -> visit(formula, byOutput, visited, ordered));
        return List.copyOf(ordered);
    }

    private static void visit(
            RunningFormula formula,
            Map<TagRef, RunningFormula> byOutput,
            Set<RunningFormula> visited,
            Set<RunningFormula> ordered) {
        if (visited.add(formula)) {
            for (TagRef input : formula.inputs()) {
                RunningFormula before = byOutput.get(input);
                if (before != null) {
                    visit(before, byOutput, visited, ordered);
                }
            }
            ordered.add(formula);
        }
    }
}
