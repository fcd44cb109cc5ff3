package dachshund.core.transaction;

import dachshund.core.definition.Named;
import java.util.stream.Collectors;

/** A step as a sentence without its full stop. */
public final class StepWords {

    private static final int LONGEST = 90;

    private StepWords() {}

    public static String of(Step step, Named named) {
        return step.name() + (step instanceof Step.Compute && step.only().isBlank() ? " " : ": ") + deed(step, named);
    }

    /** The same without its name. */
    public static String deed(Step step, Named named) {
        String only = step.only().isBlank() ? "" : "Only if " + step.only() + ": ";
        String each = step.each().isEmpty() ? "" : ", for each row of " + step.each();
        return only + doing(step, named) + each;
    }

    private static String doing(Step step, Named named) {
        if (step instanceof Step.LookUp lookUp) {
            return lookUp.isSaved()
                    ? "ask the saved query " + named.name(lookUp.query()) + " ("
                            + lookUp.rows().words() + ")"
                    : "look up" + (lookUp.in().isEmpty() ? "" : " in " + named.name(lookUp.in())) + " by "
                            + shortened(lookUp.sql()) + " (" + lookUp.rows().words() + ")";
        }
        if (step instanceof Step.Publish publish) {
            return "then publish " + says(publish.says()) + " to "
                    + (publish.topic().isBlank() ? "…" : publish.topic())
                    + " of " + (publish.source().isEmpty() ? "…" : named.name(publish.source()))
                    + (publish.retained() ? ", retained" : "");
        }
        if (step instanceof Step.Append append) {
            return "then write the line " + says(append.says()) + " to "
                    + (append.file().isBlank() ? "…" : append.file()) + " in "
                    + (append.destination().isEmpty() ? "…" : named.name(append.destination()));
        }
        if (step instanceof Step.Put put) {
            return in(put, named) + put.deed().words().toLowerCase(java.util.Locale.ROOT) + " "
                    + (put.table().isBlank() ? "…" : put.table()) + " " + cells(put);
        }
        if (step instanceof Step.Statement statement) {
            return in(statement, named) + "run " + shortened(statement.sql());
        }
        if (step instanceof Step.Compute compute) {
            return "= " + compute.value();
        }
        if (step instanceof Step.WriteTag write) {
            return "then write " + write.value() + " to " + named.tag(write.tag());
        }
        return "note " + ((Step.Note) step).value();
    }

    private static String in(Step step, Named named) {
        return step.in().isEmpty() ? "" : "in " + named.name(step.in()) + " ";
    }

    private static String says(Wording says) {
        return says.as() == Wording.As.TEXT
                ? says.text().isBlank() ? "…" : says.text()
                : says.cells().isEmpty()
                        ? "…"
                        : says.cells().stream()
                                .map(cell -> cell.column() + " = " + cell.value())
                                .collect(Collectors.joining(", ", says.as().name() + " (", ")"));
    }

    private static String cells(Step.Put put) {
        String sets = put.cells().stream()
                .filter(cell -> !cell.key() || put.deed() == Step.Deed.INSERT)
                .map(cell -> cell.column() + " = " + cell.value())
                .collect(Collectors.joining(", "));
        String where = put.deed() == Step.Deed.INSERT
                ? ""
                : put.cells().stream()
                        .filter(Step.Cell::key)
                        .map(cell -> cell.column() + " = " + cell.value())
                        .collect(Collectors.joining(" and ", " where ", ""));
        return (put.deed() == Step.Deed.DELETE ? "" : "with " + sets) + where;
    }

    private static String shortened(String sql) {
        String line = sql.strip().replaceAll("\\s+", " ");
        return line.length() > LONGEST ? line.substring(0, LONGEST) + "…" : line;
    }
}
