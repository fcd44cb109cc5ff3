package dachshund.core.transaction;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Follows;
import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.reader.QueryProblem;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.LongStream;

/** Reads a transaction before it is released: what of it can never work. No database is asked. */
public final class TransactionCheck {

    /** Of the whole, not of one step. */
    public static final int WHOLE = -1;

    private final TransactionDefinition design;
    private final Around around;
    private final List<Problem> problems = new ArrayList<>();

    /**
     * What is wrong, and where.
     *
     * @param step which step, counted from 0; {@link #WHOLE} for none
     */
    public record Problem(int step, String sentence) {}

    /** What is known of the rest. */
    public interface Around {

        /** @param database its id, which may be empty */
        Dialect dialect(String database);

        /** Empty where its source does not have it. */
        Optional<TagInfo> tag(TagRef tag);

        Optional<QueryDefinition> query(String id);

        /** What its properties are at its equipment. */
        OnEquipment equipment(TransactionDefinition design);
    }

    private TransactionCheck(TransactionDefinition design, Around around) {
        this.design = design;
        this.around = around;
    }

    public static List<Problem> problems(TransactionDefinition design, Around around) {
        TransactionCheck check = new TransactionCheck(around.equipment(design).placed(design), around);
        check.gathers();
        check.steps();
        check.otherDatabase();
        check.answer();
        return List.copyOf(check.problems);
    }

    /** What works otherwise than one may think. */
    public static List<String> advice(TransactionDefinition design) {
        List<String> advice = new ArrayList<>();
        if (!design.mark()) {
            advice.add(
                    "Without a mark row each request is done at most once: where it is not known whether one is done, it waits for a person.");
        }
        design.request()
                .filter(each -> design.mark() && each.epoch().isEmpty())
                .ifPresent(
                        each -> advice.add(
                                "Numbers are known for ever: a number that the controller uses again after it has begun to count anew is taken for done. A tag that changes then, as the epoch, tells them apart."));
        design.gathers().stream()
                .filter(each -> each.isGiven() && each.bad() == Gathered.WhenBad.FAIL)
                .filter(each -> !design.whens().isEmpty())
                .forEach(each -> advice.add("Whoever asks for a run gives " + each.name()
                        + ": runs that its When brings about fail, since nobody gives it then."));
        if (design.gate().isPresent() && design.request().isPresent()) {
            advice.add("A request that comes while the gate is shut gets no answer.");
        }
        design.steps().stream()
                .filter(step -> step instanceof Step.Statement statement
                        && statement
                                .sql()
                                .strip()
                                .toUpperCase(java.util.Locale.ROOT)
                                .startsWith("CALL"))
                .forEach(
                        step -> advice.add(
                                "Step " + step.name()
                                        + " calls a procedure. Whether it commits by itself cannot be seen from here; then what came before it stays, whatever happens after."));
        design.other()
                .ifPresent(
                        each -> advice.add(
                                "It changes rows of two databases: both take part in one attempt, its own is committed first. Where the other one cannot be committed then, its changes are kept beside the mark row and done as soon as it can be; until then the answer is \"done, but\"."));
        if (design.steps().stream().anyMatch(Step.Append.class::isInstance)) {
            advice.add(
                    "A line of a file may stand there twice where the application is killed in the instant between the line and its note that it was written.");
        }
        if (design.policy().hold() && design.policy().parallel() > 1) {
            advice.add("What waits is done in their order only where one run is under way at once.");
        }
        if (!design.after().isEmpty() && design.gate().isPresent()) {
            advice.add("What the other transaction does while the gate is shut is passed over.");
        }
        if (!design.newRows().isEmpty() && design.gate().isPresent()) {
            advice.add("A row that is found while the gate is shut waits until it opens.");
        }
        Set<TagRef> own = new java.util.HashSet<>(design.writes());
        own.retainAll(design.whens().stream()
                .filter(when -> !(when instanceof When.OnRequest))
                .flatMap(when -> when.tags().stream())
                .toList());
        if (!own.isEmpty()) {
            advice.add("It writes a tag that its own When looks at, and may so bring itself about again.");
        }
        return advice;
    }

    private void whole(String sentence) {
        problems.add(new Problem(WHOLE, sentence));
    }

    private void gathers() {
        Set<String> seen = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        seen.addAll(Known.ALL);
        for (Gathered each : design.gathers()) {
            if (!isName(each.name())) {
                whole("\"" + each.name()
                        + "\" is no name for a value. A name begins with a letter, and has letters, digits and _.");
            } else if (!seen.add(each.name()) || each.over().isPresent() && !seen.add(each.name() + Gathered.SINCE)) {
                whole("There is a value named " + each.name() + " already.");
            }
            each.over().ifPresent(over -> over(each, over));
            if (!each.property().isEmpty()) {
                property(each);
            }
            if (each.tag().isLacking()) {
                whole(Follows.gap("What is gathered as " + each.name()));
            } else if (each.hasTag() && around.tag(each.tag()).isEmpty()) {
                whole("The tag of " + each.name() + " is not among the tags taken from its source: "
                        + each.tag().address() + ".");
            }
        }
    }

    private void property(Gathered each) {
        OnEquipment on = around.equipment(design);
        if (on.name().isEmpty()) {
            whole("Choose the equipment whose " + each.property() + " is " + each.name() + ".");
        } else if (!on.mapped().containsKey(each.property())) {
            whole(on.name() + " maps no property " + each.property() + ", which " + each.name() + " is.");
        } else if (each.over().isPresent() && !on.plain(each.property())) {
            whole(
                    each.property() + " of " + on.name()
                            + " is not a tag as it is, and has no history of its own: gather the tag itself, and compute from that.");
        }
    }

    private void over(Gathered each, Over over) {
        Optional<TagInfo> info = around.tag(each.tag());
        if (info.isPresent() && !info.get().kind().numeric() && !ofTexts(over)) {
            whole(each.name() + " is a text, of which there is a start, an end and a count, but no "
                    + over.what().words() + ".");
        }
        if (over.since().marked() && over.marker().flatMap(around::tag).isEmpty()) {
            whole("Say which tag tells when the time of " + each.name() + " begins, such as the number of the lot.");
        }
        if (over.since() == Over.Since.LAST_RUN && !design.mark()) {
            whole(
                    each.name()
                            + " goes on where the last run ended. Where that is stands beside the mark row, and no mark row goes with this transaction.");
        }
        if (over.since() == Over.Since.LAST_RUN && design.policy().parallel() > 1) {
            whole(each.name() + " goes on where the last run ended: let one run be under way at once.");
        }
        if (each.bad() == Gathered.WhenBad.LAST_GOOD) {
            whole(each.name()
                    + " is computed of good values alone: say that the run fails without, or that it is nothing.");
        }
    }

    private static boolean ofTexts(Over over) {
        return over.what() instanceof Calculation.OfPart13 part13
                && Set.of(Aggregate.START, Aggregate.END, Aggregate.COUNT).contains(part13.aggregate());
    }

    /** Whether it can be called so. */
    public static boolean isName(String name) {
        return name.matches("[A-Za-z][A-Za-z0-9_]{0,39}");
    }

    private void steps() {
        if (design.steps().isEmpty()) {
            whole("It has no step: say what is done.");
        }
        Set<String> names = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        names.addAll(design.namesBefore(0));
        Map<String, Step.LookUp> lookUps = new HashMap<>();
        Set<String> columns = prefixes();
        Set<String> steps = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        for (int i = 0; i < design.steps().size(); i++) {
            Step step = design.steps().get(i);
            if (!isName(step.name())) {
                at(i, "A step needs a name: a letter, then letters, digits and _, up to 40.");
            } else if (!steps.add(step.name()) || names.contains(step.name())) {
                at(i, "The name " + step.name() + " is taken already.");
            }
            if (!step.only().isBlank()) {
                formula(i, step.only(), names, columns);
            }
            each(i, step, lookUps);
            value(i, step, names, columns);
            if (step instanceof Step.LookUp lookUp) {
                lookUps.put(step.name().toLowerCase(java.util.Locale.ROOT), lookUp);
            }
            if (step.givesColumns()) {
                columns.add(step.name().toLowerCase(java.util.Locale.ROOT) + "_");
            }
            names.addAll(design.namesBefore(i + 1));
        }
    }

    private void at(int step, String sentence) {
        problems.add(new Problem(step, sentence));
    }

    private void each(int i, Step step, Map<String, Step.LookUp> lookUps) {
        if (step.each().isEmpty()) {
            return;
        }
        Step.LookUp of = lookUps.get(step.each().toLowerCase(java.util.Locale.ROOT));
        if (of == null) {
            at(i, "No look-up before it is named " + step.each() + ".");
        } else if (of.rows() != Step.Rows.MANY) {
            at(i, step.each() + " gives one row; let it give every row, or do this once.");
        }
    }

    private void value(int i, Step step, Set<String> names, Set<String> columns) {
        if (step instanceof Step.Compute compute) {
            formula(i, compute.value(), names, columns);
        } else if (step instanceof Step.Note note) {
            formula(i, note.value(), names, columns);
        } else if (step instanceof Step.WriteTag write) {
            formula(i, write.value(), names, columns);
            writable(write.tag()).ifPresent(sentence -> at(i, sentence));
        } else if (step instanceof Step.Publish publish) {
            publish(i, publish, names, columns);
        } else if (step instanceof Step.Append append) {
            append(i, append, names, columns);
        } else if (step instanceof Step.LookUp lookUp && lookUp.isSaved()) {
            saved(i, lookUp, names, columns);
        } else {
            try {
                StepSql sql = StepSql.of(step, around.dialect(design.changed(step)));
                for (String parameter : sql.text().names()) {
                    formula(i, sql.formula(parameter), names, columns);
                }
            } catch (QueryProblem problem) {
                at(i, problem.getMessage());
            }
        }
    }

    private void saved(int i, Step.LookUp step, Set<String> names, Set<String> columns) {
        Optional<QueryDefinition> query = around.query(step.query());
        if (query.isEmpty()) {
            at(i, "The saved query is not there any more. Choose another one, or SQL.");
        } else if (query.get().hasWindow() && query.get().window().isBlank()) {
            at(i, query.get().name() + " is asked for a window, and says none by itself.");
        }
        query.map(QueryDefinition::parameters).orElse(List.of()).stream()
                .map(QueryParameter::name)
                .filter(each -> !names.contains(each) && columns.stream().noneMatch(each::startsWith))
                .forEach(each -> at(
                        i,
                        "The saved query asks for " + each
                                + ", and nothing here is called so. A step that computes it can."));
    }

    private void publish(int i, Step.Publish step, Set<String> names, Set<String> columns) {
        if (step.source().isEmpty()) {
            at(i, "Choose the broker to which it is published.");
        }
        if (step.topic().isBlank()) {
            at(i, "Write the topic, such as works/lots/{lot}.");
        } else if (Wording.said(step.topic()).matches(".*[+#].*")) {
            at(i, "A topic to publish to has no + and no #: those only stand for topics that are listened to.");
        }
        places(i, step.topic(), names, columns);
        says(i, step.says(), names, columns);
    }

    private void append(int i, Step.Append step, Set<String> names, Set<String> columns) {
        if (step.destination().isEmpty()) {
            at(i, "Choose the folder in which the file is.");
        }
        if (step.file().isBlank()) {
            at(i, "Write the name of the file, such as lots {lot}.csv.");
        } else if (!step.file().replaceAll("\\{[^{}]*}", "x").matches("[\\p{L}\\p{N}_][\\p{L}\\p{N} ._-]{0,99}")) {
            at(i, "The name of a file has letters, digits, spaces and . _ - and begins with a letter or digit.");
        }
        places(i, step.file(), names, columns);
        says(i, step.says(), names, columns);
    }

    private void places(int i, String pattern, Set<String> names, Set<String> columns) {
        Wording.within(pattern).forEach(each -> formula(i, each, names, columns));
        if (Wording.torn(pattern)) {
            at(i, "A bracket { is not closed, or } was not opened.");
        }
    }

    private void says(int i, Wording says, Set<String> names, Set<String> columns) {
        if (says.formulas().stream().anyMatch(String::isBlank)
                || says.formulas().isEmpty()) {
            at(i, "Say what is written.");
            return;
        }
        says.formulas().forEach(each -> formula(i, each, names, columns));
        Set<String> seen = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        says.cells().stream()
                .map(Step.Cell::column)
                .filter(each -> !seen.add(each))
                .forEach(twice -> at(i, "The name " + twice + " stands there twice."));
    }

    private void otherDatabase() {
        Optional<String> other = design.other();
        for (int i = 0; i < design.steps().size(); i++) {
            Step step = design.steps().get(i);
            if (step.changes()
                    && !step.in().isEmpty()
                    && !other.filter(step.in()::equals).isPresent()) {
                at(
                        i,
                        "Rows are changed in a third database here: besides its own, a transaction changes rows of one other.");
            }
            if (step.changes()
                    && step.in().equals(design.database())
                    && !step.in().isEmpty()) {
                at(i, "This is its own database: choose that by \"its own database\".");
            }
        }
        if (!design.after().isEmpty() && !design.mark()) {
            whole(
                    "It follows another transaction, and may be asked for twice after a stop: let a mark row go with it.");
        }
        if (other.isPresent() && !design.mark()) {
            whole(
                    "It changes rows of two databases. What the second one still has to do stands beside the mark row of the first, and no mark row goes with this transaction.");
        }
    }

    private Optional<String> writable(TagRef tag) {
        Optional<TagInfo> info = around.tag(tag);
        if (info.isEmpty()) {
            return Optional.of(
                    tag.isGap() ? "Choose the tag." : "The tag " + tag.address() + " is not taken from its source.");
        }
        return info.get().writable()
                ? Optional.empty()
                : Optional.of(info.get().name() + " cannot be written: its source says that it is read only.");
    }

    /** What the names of columns begin with that are known before any step: those of a new row. */
    private Set<String> prefixes() {
        Set<String> all = new TreeSet<>();
        if (!design.newRows().isEmpty()) {
            all.add(When.OnNewRow.ROW + "_");
        }
        if (!design.after().isEmpty()) {
            all.add(When.AfterTransaction.PREFIX);
        }
        return all;
    }

    /** Columns of a row or a look-up are known once it is asked: what begins with its name may be one. */
    private void formula(int step, String text, Set<String> names, Set<String> columns) {
        Set<String> known = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        known.addAll(names);
        for (String word : Formula.words(text)) {
            String lower = word.toLowerCase(java.util.Locale.ROOT);
            if (columns.stream().anyMatch(lower::startsWith)) {
                known.add(word);
            }
        }
        try {
            Formula.read(text, known);
        } catch (FormulaProblem problem) {
            at(step, problem.getMessage());
        }
    }

    private void answer() {
        Set<String> names = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        names.addAll(design.namesBefore(design.steps().size()));
        Set<String> columns = prefixes();
        design.steps().stream()
                .filter(Step::givesColumns)
                .forEach(each -> columns.add(each.name().toLowerCase(java.util.Locale.ROOT) + "_"));
        if (!design.answer().doneText().isBlank()) {
            formula(WHOLE, design.answer().doneText(), names, columns);
        }
        if (design.request().isPresent() && design.whens().size() > 1) {
            whole(
                    "A request stands alone: with another When beside it, nobody could tell which of its runs are to be answered.");
        }
        if (design.policy().hold() && design.request().isPresent()) {
            whole(
                    "A request of the plant is answered while it waits, and cannot be held and done later: let it fail, and the plant decides.");
        }
        if (design.request().isPresent() && design.request().get().answered().isEmpty()) {
            whole("Say which tag gets the number of a request once it is answered: the plant waits for it.");
        }
        design.writes().stream()
                .filter(tag -> design.steps().stream()
                        .noneMatch(step -> step instanceof Step.WriteTag write
                                && write.tag().equals(tag)))
                .flatMap(tag -> writable(tag).stream())
                .forEach(this::whole);
        Answer answer = design.answer();
        boolean bit = answer.code()
                .flatMap(around::tag)
                .filter(info -> info.kind() == DataKind.BOOLEAN)
                .isPresent();
        if (bit
                && LongStream.of(answer.done(), answer.but(), answer.failed())
                        .anyMatch(code -> code != 0 && code != 1)) {
            whole("The tag of the code is a bit: let each of the three codes be 1 or 0.");
        }
        if (design.policy().apart() && design.equipment().isEmpty()) {
            whole("It is to be the only one at its equipment: choose which equipment that is.");
        }
        for (String key : design.keys()) {
            boolean column = columns.stream().anyMatch(key.toLowerCase(java.util.Locale.ROOT)::startsWith);
            if (!names.contains(key) && !column) {
                whole("The ledger is to find runs by " + key + ", and nothing here is called so.");
            }
        }
    }
}
