package dachshund.engine.transaction;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Prepared;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepFailed;
import dachshund.core.transaction.StepNames;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.StepSql;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;

/**
 * One step that a person sent by hand, alone and for real, with values that were typed or stand there now: to prove a connection
 * before anything else is designed. No mark goes with it.
 *
 * @param step    what became of it; empty where it was not sent
 * @param problem why it failed, is not known, or cannot be read back; empty for none of these
 * @param columns of the row that was read back
 * @param back    what stands there afterwards, as text: none where nothing was read back, or nothing is there
 */
public record SentAlone(
        Ended ended, Optional<StepRun> step, String problem, List<String> columns, List<List<String>> back) {

    /** How it ended. */
    public enum Ended {
        DONE("Sent, and done."),
        PASSED_OVER("Passed over."),
        FAILED("It failed."),
        UNKNOWN("It is not known whether it is done.");

        private final String words;

        Ended(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    private static final int MOST_BACK = 5;

    /** Of a step that was not sent. */
    public static SentAlone not(String why) {
        return new SentAlone(Ended.FAILED, Optional.empty(), why, List.of(), List.of());
    }

    static SentAlone of(
            TransactionDefinition design,
            int index,
            Plant known,
            Transactions.Around around,
            String identity,
            Map<String, Object> given,
            Execution.Doors elsewhere,
            BiConsumer<DestinationDefinition, Todo.Append> lines) {
        Step step = design.steps().get(index);
        if (!step.each().isEmpty()) {
            return not("It is done for each row of " + step.each() + ", which it has not alone.");
        }
        boolean within = step.changes()
                || step instanceof Step.LookUp lookUp
                        && !lookUp.isSaved()
                        && (step.in().isEmpty()
                                || design.other().filter(step.in()::equals).isPresent());
        String place = within && !step.in().isEmpty() ? step.in() : design.database();
        Optional<DestinationDefinition> destination = Reached.destination(known, place);
        if (within && destination.isEmpty()) {
            return not("Choose its database first.");
        }
        OnEquipment on = OnEquipment.of(design, known);
        TransactionDefinition alone =
                design.withSteps(List.of(step)).withGathers(gathered(on.placed(design), step, given.keySet()));
        Instant now = around.clock().now();
        GatheredNow gathered = GatheredNow.of(
                alone, on, around.site(), now, null, identity, given, around.side()::now, around.side()::lastGood);
        if (!gathered.problem().isEmpty()) {
            return not(gathered.problem());
        }
        Prepared prepared = new Prepared(alone, id -> around.opening()
                .dialect(Reached.destination(known, id).orElseThrow()));
        Values values = new Values(prepared, now);
        gathered.values().forEach(values::put);
        Sending sending = new Sending(alone, step, prepared, values, around, known, elsewhere, lines);
        if (!within) {
            return sending.outside();
        }
        try (Transacting database = around.opening().database(destination.get())) {
            return sending.within(database);
        } catch (RuntimeException cannot) {
            return not(words(cannot));
        }
    }

    /** Values of now are gathered for what it speaks of alone; of a saved query it is not known here what that is. */
    private static List<Gathered> gathered(TransactionDefinition design, Step step, Set<String> given) {
        Set<String> speaks = StepNames.of(step);
        boolean saved = step instanceof Step.LookUp lookUp && lookUp.isSaved();
        return design.gathers().stream()
                .filter(each -> (saved || speaks.contains(each.name())) && !given.contains(each.name()))
                .filter(each -> each.over().isEmpty())
                .toList();
    }

    private static String words(RuntimeException thrown) {
        return thrown instanceof IllegalArgumentException && thrown.getMessage() != null
                ? thrown.getMessage()
                : Threads.words(thrown);
    }

    /** It on its way. */
    private record Sending(
            TransactionDefinition alone,
            Step step,
            Prepared prepared,
            Values values,
            Transactions.Around around,
            Plant known,
            Execution.Doors elsewhere,
            BiConsumer<DestinationDefinition, Todo.Append> lines) {

        /** In a transaction of its own. */
        private SentAlone within(Transacting database) {
            List<StepRun> told = new ArrayList<>();
            boolean committing = false;
            try (Session session =
                    database.begin(alone.isolation(), false, alone.policy().limit())) {
                new Execution(alone, prepared, elsewhere.changingIn(() -> session), values, System::nanoTime)
                        .within(session, told::add);
                committing = true;
                session.commit();
            } catch (StepFailed no) {
                return ended(Ended.FAILED, told, no.getMessage());
            } catch (StoreProblem no) {
                boolean open = committing && !OneRun.NOT_COMMITTED.contains(no.kind());
                return ended(open ? Ended.UNKNOWN : Ended.FAILED, told, no.getMessage());
            } catch (RuntimeException thrown) {
                return ended(committing ? Ended.UNKNOWN : Ended.FAILED, told, words(thrown));
            }
            SentAlone done = ended(told);
            return step instanceof Step.Put put && done.ended() == Ended.DONE ? readBack(database, put, done) : done;
        }

        private static SentAlone ended(List<StepRun> told) {
            boolean passed = last(told)
                    .filter(each -> each.fate() == StepRun.Fate.PASSED_OVER)
                    .isPresent();
            return ended(passed ? Ended.PASSED_OVER : Ended.DONE, told, "");
        }

        private static SentAlone ended(Ended how, List<StepRun> told, String problem) {
            return new SentAlone(how, last(told), problem, List.of(), List.of());
        }

        private static Optional<StepRun> last(List<StepRun> told) {
            return told.isEmpty() ? Optional.empty() : Optional.of(told.get(told.size() - 1));
        }

        /** What tells the row: its key, else its texts and whole numbers; a database may round anything else. */
        private List<Step.Cell> telling(Step.Put put) throws FormulaProblem {
            List<Step.Cell> key = put.cells().stream().filter(Step.Cell::key).toList();
            if (!key.isEmpty()) {
                return key;
            }
            List<Step.Cell> exact = new ArrayList<>();
            for (Step.Cell cell : put.cells()) {
                if (isExact(values.of(cell.value()))) {
                    exact.add(cell);
                }
            }
            return exact;
        }

        private static boolean isExact(Object value) {
            return value instanceof String || value instanceof Long;
        }

        /** The row as it stands there now, in a transaction after it. */
        private SentAlone readBack(Transacting database, Step.Put put, SentAlone done) {
            try (Session session =
                    database.begin(alone.isolation(), false, alone.policy().limit())) {
                List<Step.Cell> by = telling(put);
                if (by.isEmpty()) {
                    String why = "No column tells the row, to read it back.";
                    return new SentAlone(Ended.DONE, done.step(), why, List.of(), List.of());
                }
                StepSql sql = StepSql.readingBack(
                        put,
                        by,
                        around.opening()
                                .dialect(Reached.destination(known, alone.changed(put))
                                        .orElseThrow()));
                List<Object> bound = new ArrayList<>();
                for (String name : sql.text().names()) {
                    bound.add(Values.bound(values.of(sql.formula(name))));
                }
                Session.Found found = session.ask(sql.text(), bound, MOST_BACK);
                List<List<String>> rows = found.rows().stream()
                        .map(row -> row.stream().map(Values::words).toList())
                        .toList();
                return new SentAlone(Ended.DONE, done.step(), "", found.columns(), rows);
            } catch (StoreProblem | QueryProblem | FormulaProblem cannot) {
                String why = "It cannot be read back: " + cannot.getMessage();
                return new SentAlone(Ended.DONE, done.step(), why, List.of(), List.of());
            }
        }

        /** What needs no transaction: it is computed, and then goes where it is to go. */
        private SentAlone outside() {
            List<StepRun> told = new ArrayList<>();
            try {
                List<Todo> todo =
                        new Execution(alone, prepared, elsewhere, values, System::nanoTime).within(null, told::add);
                for (Todo each : todo) {
                    long from = System.nanoTime();
                    String said = went(each);
                    told.add(new StepRun(
                            each.step(),
                            StepRun.Fate.DONE,
                            "",
                            each.carries(),
                            -1,
                            (System.nanoTime() - from) / 1000,
                            said));
                }
                return ended(told);
            } catch (StepFailed no) {
                return ended(Ended.FAILED, told, no.getMessage());
            } catch (RuntimeException no) {
                return ended(Ended.FAILED, told, words(no));
            }
        }

        private String went(Todo each) {
            if (each instanceof Todo.Write write) {
                return "It reads back "
                        + around.side().write(write.tag(), write.value(), write.tolerance(), alone.name()) + ".";
            }
            if (each instanceof Todo.Publish publish) {
                around.side().publish(publish.source(), publish.topic(), publish.payload(), publish.retained());
                return "The broker took it.";
            }
            Todo.Append append = (Todo.Append) each;
            lines.accept(
                    Reached.destination(known, append.destination())
                            .orElseThrow(() -> new IllegalArgumentException("Choose its folder first.")),
                    append);
            return "The line is on disk.";
        }
    }
}
