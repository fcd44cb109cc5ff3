package dachshund.core.transaction;

import dachshund.core.formula.Formula;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.Set;
import java.util.TreeSet;

/** The words that a step's formulas and statement speak of, names and functions alike; without regard to case. */
public final class StepNames {

    private StepNames() {}

    public static Set<String> of(Step step) {
        Set<String> all = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        all.addAll(Formula.words(step.only()));
        step.formulas().forEach(text -> all.addAll(Formula.words(text)));
        String sql = step instanceof Step.Statement statement
                ? statement.sql()
                : step instanceof Step.LookUp up ? up.sql() : "";
        if (!sql.isBlank()) {
            try {
                all.addAll((step instanceof Step.Statement ? QueryText.change(sql) : QueryText.lookUp(sql)).names());
            } catch (QueryProblem unread) {
                return all; // what cannot be read speaks of nothing; whoever sends it is told
            }
        }
        return all;
    }
}
