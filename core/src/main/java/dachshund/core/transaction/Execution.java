package dachshund.core.transaction;

import dachshund.core.destination.NamePattern;
import dachshund.core.destination.StoreProblem;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.LongSupplier;

/** Carries out the steps of one run, in order. Of one thread. */
public final class Execution {

    /** A look-up for a step that follows gives no more rows than these. */
    public static final int MOST_ROWS = 10_000;

    /** Stands before the names of values that a step gave, among those that it was given. */
    public static final String GIVES = "→ ";

    private final TransactionDefinition design;
    private final Prepared prepared;
    private final Doors doors;
    private final LongSupplier nanos;
    private final Values values;
    private final Map<String, Session.Found> found = new LinkedHashMap<>();
    private final List<Todo.Change> changes = new ArrayList<>();

    /** What lies outside the transaction's own database. */
    @FunctionalInterface
    public interface Doors {

        /** Rows of another database, which is only read. */
        Session.Found ask(String database, QueryText query, List<Object> bound, int most)
                throws StoreProblem, QueryProblem;

        /**
         * Rows of a saved query.
         *
         * @param values of its parameters, asked for by their names
         */
        default Session.Found saved(String query, Parameters values, int most) throws StoreProblem, QueryProblem {
            throw new QueryProblem("Saved queries cannot be asked here.");
        }

        /** The one transaction of the other database in which rows are changed, too; begun where it is asked for first. */
        default Session changing(String database) throws StoreProblem {
            throw new IllegalArgumentException("Rows are changed in one database alone.");
        }

        /** The transaction of the other database, which may begin when it is asked for first. */
        @FunctionalInterface
        interface Other {
            Session begun() throws StoreProblem;
        }

        /** The same doors, where rows of another database are changed, too. */
        default Doors changingIn(Other other) {
            Doors these = this;
            return new Doors() {
                @Override
                public Session.Found ask(String database, QueryText query, List<Object> bound, int most)
                        throws StoreProblem, QueryProblem {
                    return these.ask(database, query, bound, most);
                }

                @Override
                public Session.Found saved(String query, Parameters values, int most)
                        throws StoreProblem, QueryProblem {
                    return these.saved(query, values, most);
                }

                @Override
                public Session changing(String database) throws StoreProblem {
                    return other.begun();
                }
            };
        }
    }

    /** What a run knows, by the names of a query's parameters. */
    @FunctionalInterface
    public interface Parameters {
        /** @throws QueryProblem with a sentence, where it knows nothing of that name */
        Object of(String name) throws QueryProblem;
    }

    /** @param nanos a clock that only goes on */
    public Execution(TransactionDefinition design, Prepared prepared, Doors doors, Values values, LongSupplier nanos) {
        this.design = design;
        this.prepared = prepared;
        this.doors = doors;
        this.values = values;
        this.nanos = nanos;
    }

    /**
     * Everything that is committed; what follows the commit is only computed.
     *
     * @param session null where no step needs one
     * @param told what became of each step, as it ends; the one that fails included
     * @return what is to follow the commit: changes of the other database first
     */
    public List<Todo> within(Session session, Consumer<StepRun> told) throws StepFailed {
        for (Step step : design.steps()) {
            if (!step.afterCommit()) {
                told.accept(guarded(step, told, () -> run(step, session)));
            }
        }
        List<Todo> todo = new ArrayList<>(changes);
        for (Step step : design.steps()) {
            if (step.afterCommit()) {
                StepRun planned = guarded(step, told, () -> planned(step, todo));
                if (planned.fate() == StepRun.Fate.PASSED_OVER) {
                    told.accept(planned);
                }
            }
        }
        return todo;
    }

    private StepRun planned(Step step, List<Todo> todo) throws FormulaProblem {
        todo.add(
                step instanceof Step.Publish publish
                        ? published(publish)
                        : step instanceof Step.Append append ? appended(append) : written((Step.WriteTag) step));
        return done(step, "", Map.of(), -1, "");
    }

    private Todo written(Step.WriteTag step) throws FormulaProblem {
        Object value = values.of(step.value());
        if (value == null) {
            throw new IllegalArgumentException(step.value() + " is nothing, and a tag cannot be set to nothing.");
        }
        return new Todo.Write(step.name(), step.tag(), value, step.tolerance());
    }

    /** A value is one level of a topic, without the letters that divide levels or stand for any (MQTT 5.0, 4.7.1). */
    private Todo published(Step.Publish step) throws FormulaProblem {
        String topic = Wording.filled(step.topic(), values, words -> words.replaceAll("[/+#\\u0000]", "_"));
        return new Todo.Publish(step.name(), step.source(), topic, step.says().of(values), step.retained());
    }

    private Todo appended(Step.Append step) throws FormulaProblem {
        String file = Wording.filled(step.file(), values, NamePattern::safe);
        return new Todo.Append(
                step.name(),
                step.destination(),
                file,
                step.says().header(),
                step.says().of(values));
    }

    @FunctionalInterface
    private interface Doing {
        StepRun run() throws StoreProblem, QueryProblem, FormulaProblem;
    }

    private StepRun guarded(Step step, Consumer<StepRun> told, Doing doing) throws StepFailed {
        long from = nanos.getAsLong();
        StepRun failed;
        Optional<StoreProblem.Kind> kind = Optional.empty();
        Throwable cause;
        sending = "";
        sendingWith.clear();
        try {
            if (!step.only().isBlank() && !values.holds(step.only())) {
                givesNothing(step);
                return new StepRun(
                        step.name(),
                        StepRun.Fate.PASSED_OVER,
                        "",
                        Map.of(),
                        -1,
                        since(from),
                        step.only() + " is not true");
            }
            StepRun done = doing.run();
            return new StepRun(
                    done.name(), done.fate(), done.statement(), done.values(), done.rows(), since(from), done.said());
        } catch (StoreProblem problem) {
            cause = problem;
            kind = Optional.of(problem.kind());
        } catch (QueryProblem | FormulaProblem | IllegalArgumentException problem) {
            cause = problem;
        }
        failed = new StepRun(
                step.name(),
                StepRun.Fate.FAILED,
                sending,
                Map.copyOf(sendingWith),
                -1,
                since(from),
                cause.getMessage());
        told.accept(failed);
        throw new StepFailed(failed, kind, cause);
    }

    /** Whoever asks for what a step gives that was passed over gets nothing. */
    private void givesNothing(Step step) {
        if (step instanceof Step.Compute) {
            values.put(step.name(), null);
        } else if (step instanceof Step.LookUp || step instanceof Step.Put || step instanceof Step.Statement) {
            values.put(step.name() + "_rows", 0L);
        }
    }

    /** What is being sent: a step that fails says what it was. */
    private String sending = "";

    private final Map<String, String> sendingWith = new LinkedHashMap<>();

    private long since(long from) {
        return (nanos.getAsLong() - from) / 1000;
    }

    private StepRun run(Step step, Session session) throws StoreProblem, QueryProblem, FormulaProblem {
        if (step instanceof Step.LookUp lookUp) {
            return lookUp(lookUp, session);
        }
        if (step instanceof Step.Compute compute) {
            Object value = values.of(compute.value());
            values.put(compute.name(), value);
            return done(step, "", Map.of(compute.name(), Values.words(value)), -1, "");
        }
        if (step instanceof Step.Note note) {
            return done(step, "", Map.of(), -1, Values.words(values.of(note.value())));
        }
        return changed(step, session);
    }

    private static StepRun done(Step step, String statement, Map<String, String> with, long rows, String said) {
        return new StepRun(step.name(), StepRun.Fate.DONE, statement, with, rows, 0, said);
    }

    private StepRun lookUp(Step.LookUp step, Session session) throws StoreProblem, QueryProblem, FormulaProblem {
        Session.Found rows = asked(step, session, step.rows() == Step.Rows.MANY ? MOST_ROWS : 2);
        values.put(step.name() + "_rows", (long) rows.rows().size());
        if (step.rows() == Step.Rows.ONE && rows.rows().size() != 1) {
            throw new QueryProblem(
                    rows.rows().isEmpty()
                            ? "It found no row, and one is needed."
                            : "It found more than one row, and one is needed.");
        }
        if (step.rows() == Step.Rows.MANY) {
            if (rows.rows().size() >= MOST_ROWS) {
                throw new QueryProblem("It found " + MOST_ROWS + " rows or more; a step is not done for so many.");
            }
            found.put(step.name().toLowerCase(java.util.Locale.ROOT), rows);
        } else {
            List<Object> row = rows.rows().isEmpty() ? null : rows.rows().get(0);
            give(step.name(), rows.columns(), row);
        }
        List<String> given = step.rows() == Step.Rows.MANY ? List.of() : rows.columns();
        return done(step, sent(), withGiven(step, given), rows.rows().size(), "");
    }

    /** What was sent, and what came of it. */
    private Map<String, String> withGiven(Step step, List<String> columns) {
        Map<String, String> with = new LinkedHashMap<>(sendingWith);
        columns.forEach(column -> {
            String name = name(step.name(), column);
            with.put(GIVES + name, Values.words(values.get(name)));
        });
        return with;
    }

    private Session.Found asked(Step.LookUp step, Session session, int most)
            throws StoreProblem, QueryProblem, FormulaProblem {
        if (step.isSaved()) {
            return doors.saved(
                    step.query(),
                    name -> {
                        if (!values.has(name)) {
                            throw new QueryProblem("It asks for " + name + ", and nothing here is called so.");
                        }
                        sendingWith.put(name, Values.words(values.get(name)));
                        return values.get(name);
                    },
                    most);
        }
        StepSql sql = prepared.sql(step);
        List<Object> bound = bound(sql);
        boolean within =
                step.in().isEmpty() || design.other().filter(step.in()::equals).isPresent();
        return within ? in(step, session).ask(sql.text(), bound, most) : doors.ask(step.in(), sql.text(), bound, most);
    }

    /** @param row null for nothing */
    private void give(String step, List<String> columns, List<Object> row) {
        for (int i = 0; i < columns.size(); i++) {
            values.put(name(step, columns.get(i)), row == null ? null : row.get(i));
        }
    }

    /** How the column of a look-up is called. */
    public static String name(String step, String column) {
        boolean plain =
                column.chars().allMatch(letter -> letter == '_' || letter < 128 && Character.isLetterOrDigit(letter));
        return step + "_" + (plain ? column : column.replaceAll("[^\\p{L}\\p{N}_]+", "_"));
    }

    private Session in(Step step, Session own) throws StoreProblem {
        return step.in().isEmpty() ? own : doors.changing(step.in());
    }

    private StepRun changed(Step step, Session own) throws StoreProblem, QueryProblem, FormulaProblem {
        StepSql sql = prepared.sql(step);
        Session session = in(step, own);
        List<List<Object>> sent = new ArrayList<>();
        List<String> given = List.of();
        long touched = 0;
        if (step.each().isEmpty()) {
            sent.add(bound(sql));
            Session.Changed changed = session.change(sql.text(), sent.get(0));
            touched = changed.touched();
            given = changed.first().columns();
            List<List<Object>> rows = changed.first().rows();
            give(step.name(), given, rows.isEmpty() ? null : rows.get(0));
        } else {
            Session.Found rows = Optional.ofNullable(found.get(step.each().toLowerCase(java.util.Locale.ROOT)))
                    .orElseThrow(() -> new QueryProblem("There are no rows of " + step.each() + " to do it for."));
            for (List<Object> row : rows.rows()) {
                give(step.each(), rows.columns(), row);
                sent.add(bound(sql));
                touched += Math.max(
                        0, session.change(sql.text(), sent.get(sent.size() - 1)).touched());
            }
            rows.columns().forEach(column -> values.forget(name(step.each(), column)));
        }
        bounds(step, touched);
        if (!step.in().isEmpty() && !sent.isEmpty()) {
            changes.add(new Todo.Change(step.name(), step.in(), sql.text().written(), sent));
        }
        values.put(step.name() + "_rows", touched);
        return done(step, sent(), withGiven(step, given), touched, "");
    }

    private static void bounds(Step step, long touched) throws QueryProblem {
        long least = step instanceof Step.Put put ? put.least() : ((Step.Statement) step).least();
        long most = step instanceof Step.Put put ? put.most() : ((Step.Statement) step).most();
        if (touched < 0 || step instanceof Step.Put put && put.deed() == Step.Deed.INSERT_OR_UPDATE) {
            return; // engines count a row that is updated as they like
        }
        if (touched < least) {
            throw new QueryProblem("It touched " + rows(touched) + ", and " + rows(least) + " at least is needed.");
        }
        if (touched > most) {
            throw new QueryProblem(
                    "It would have touched " + rows(touched) + ", and " + rows(most) + " at most may be.");
        }
    }

    private static String rows(long rows) {
        return rows == 0 ? "no row" : rows == 1 ? "one row" : rows + " rows";
    }

    private List<Object> bound(StepSql sql) throws QueryProblem, FormulaProblem {
        sending = sql.text().written();
        sendingWith.clear();
        List<Object> bound = new ArrayList<>();
        for (String name : sql.text().names()) {
            String formula = sql.formula(name);
            if (formula.equals(name) && !values.has(name)) {
                throw new QueryProblem("Nothing here is called " + name + ".");
            }
            Object value = values.of(formula);
            sendingWith.put(name, Values.words(value));
            bound.add(Values.bound(value));
        }
        return bound;
    }

    private String sent() {
        String was = sending;
        sending = "";
        return was;
    }
}
