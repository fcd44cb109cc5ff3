package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.transaction.TransactionDefinition;
import java.util.List;
import java.util.stream.IntStream;

/** Edits name what a thing is made of by its place: columns, fields, lines, Whens and Wheres of a recorder, steps of a transaction. */
final class Places {

    private Places() {}

    /** Whether what stood at a place stands at another one, or nowhere, after an edit. */
    static boolean rearranged(Definition before, Definition after) {
        if (before instanceof RecorderDefinition was && after instanceof RecorderDefinition is) {
            return rearranged(was, is);
        }
        return before instanceof TransactionDefinition was
                && after instanceof TransactionDefinition is
                && (moved(was.whens(), is.whens())
                        || moved(was.gathers(), is.gathers())
                        || moved(was.steps(), is.steps()));
    }

    private static boolean rearranged(RecorderDefinition before, RecorderDefinition after) {
        List<Column> columns = before.layout().columns(),
                others = after.layout().columns();
        return moved(before.whens(), after.whens())
                || moved(before.wheres(), after.wheres())
                || moved(before.layout().lines(), after.layout().lines())
                || moved(sources(columns), sources(others))
                || IntStream.range(0, Math.min(columns.size(), others.size()))
                        .anyMatch(place -> columns.get(place).from() instanceof ColumnSource.Document was
                                && others.get(place).from() instanceof ColumnSource.Document is
                                && moved(sources(was.fields()), sources(is.fields())));
    }

    private static List<ColumnSource> sources(List<Column> columns) {
        return columns.stream().map(Column::from).toList();
    }

    /** One that differs was changed where it stands; more than one, or a shorter list, were moved. */
    private static boolean moved(List<?> before, List<?> after) {
        long differing = IntStream.range(0, Math.min(before.size(), after.size()))
                .filter(place -> !before.get(place).equals(after.get(place)))
                .count();
        return after.size() < before.size() || differing > (after.size() == before.size() ? 1 : 0);
    }
}
