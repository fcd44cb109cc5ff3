package dachshund.core.transaction;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.sql.Dialect;
import java.util.Collection;
import java.util.IdentityHashMap;
import java.util.Map;
import java.util.Queue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.Function;

/** What runs of one design have in common and need not make anew: statements and formulas that were read. For many threads. */
public final class Prepared {

    private final TransactionDefinition design;
    private final Function<String, Dialect> dialects;
    private final Map<Step, StepSql> statements = new IdentityHashMap<>();
    private final Map<String, Queue<Formula>> formulas = new ConcurrentHashMap<>();

    /** @param dialects of each database, by its id */
    public Prepared(TransactionDefinition design, Function<String, Dialect> dialects) {
        this.design = design;
        this.dialects = dialects;
        for (Step step : design.steps()) {
            try {
                statements.put(step, StepSql.of(step, dialects.apply(design.changed(step))));
            } catch (QueryProblem none) {
                // Of one that has a statement, it is said when it is done.
                statements.remove(step);
            }
        }
    }

    StepSql sql(Step step) throws QueryProblem {
        StepSql known = statements.get(step);
        return known == null ? StepSql.of(step, dialects.apply(design.changed(step))) : known;
    }

    /** One that nobody else has until it is given back. */
    Formula take(String text, Collection<String> names) throws FormulaProblem {
        Queue<Formula> free = formulas.get(text);
        Formula one = free == null ? null : free.poll();
        return one == null ? Formula.read(text, names) : one;
    }

    void giveBack(Formula formula) {
        formulas.computeIfAbsent(formula.text(), text -> new ConcurrentLinkedQueue<>())
                .add(formula);
    }
}
