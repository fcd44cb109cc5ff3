package dachshund.core.transaction;

import dachshund.core.formula.Formula;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;

/** The words that a step's formulas and statement speak of, names and functions alike; without regard to case. */
public final class StepNames {

    private StepNames() {}

    public static Set<String> of(Step step) {
        Set<String> all = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        Stream.concat(Stream.of(step.only()), formulas(step)).forEach(text -> all.addAll(Formula.words(text)));
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

    private static Stream<String> formulas(Step step) {
        if (step instanceof Step.Put put) {
            return put.cells().stream().map(Step.Cell::value);
        }
        if (step instanceof Step.Compute compute) {
            return Stream.of(compute.value());
        }
        if (step instanceof Step.WriteTag write) {
            return Stream.of(write.value());
        }
        if (step instanceof Step.Note note) {
            return Stream.of(note.value());
        }
        if (step instanceof Step.Publish publish) {
            return Stream.of(Wording.within(publish.topic()), publish.says().formulas())
                    .flatMap(List::stream);
        }
        if (step instanceof Step.Append append) {
            return Stream.of(Wording.within(append.file()), append.says().formulas())
                    .flatMap(List::stream);
        }
        return Stream.empty();
    }
}
