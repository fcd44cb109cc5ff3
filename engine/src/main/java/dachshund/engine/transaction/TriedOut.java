package dachshund.engine.transaction;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.ledger.Run;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Prepared;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepFailed;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.core.when.When;
import dachshund.engine.answer.PlantSide;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A transaction that was tried: its statements were carried out in the real database and taken back.
 *
 * @param snapshot what was read when, by name
 * @param steps    what became of each step
 * @param problem  why it ended before its end; empty where it did not
 * @param answer   the text that the plant would have got
 */
public record TriedOut(Map<String, Run.Read> snapshot, List<StepRun> steps, String problem, String answer) {

    static TriedOut of(
            TransactionDefinition drafted,
            Plant known,
            Transactions.Around around,
            Map<String, Object> given,
            Past past,
            Execution.Doors elsewhere) {
        OnEquipment on = OnEquipment.of(drafted, known);
        TransactionDefinition design = on.placed(drafted);
        List<StepRun> steps = new ArrayList<>();
        Optional<DestinationDefinition> destination = known.all(DestinationDefinition.class).stream()
                .filter(each -> each.id().equals(design.database()))
                .findFirst();
        if (destination.isEmpty()) {
            return new TriedOut(Map.of(), steps, "Choose the database first.", "");
        }
        Map<String, DestinationDefinition> others = new HashMap<>();
        for (Step step : design.steps()) {
            Optional<DestinationDefinition> other = Reached.destination(known, step.in());
            if (step.changes() && !step.in().isEmpty() && other.isEmpty()) {
                return new TriedOut(
                        Map.of(), steps, "The other database of step " + step.name() + " is not there.", "");
            }
            other.ifPresent(each -> others.put(step.in(), each));
        }
        Prepared prepared =
                new Prepared(design, id -> around.opening().dialect(others.getOrDefault(id, destination.get())));
        Instant now = around.clock().now();
        GatheredNow gathered = GatheredNow.of(
                design,
                on,
                around.site(),
                now,
                number(design, around.side()),
                "try",
                given,
                around.side()::now,
                around.side()::lastGood);
        Map<String, Run.Read> snapshot = new LinkedHashMap<>(gathered.snapshot());
        if (!gathered.problem().isEmpty()) {
            return new TriedOut(snapshot, steps, gathered.problem(), "");
        }
        Values values = new Values(prepared, now);
        gathered.values().forEach(values::put);
        try (Transacting database = around.opening().database(destination.get())) {
            Map<String, Object> before = new LinkedHashMap<>();
            String problem = past.into(design, now, given.keySet(), () -> lastRun(database, design), before, snapshot);
            if (!problem.isEmpty()) {
                return new TriedOut(snapshot, steps, problem, "");
            }
            before.forEach(values::put);
            Optional<DestinationDefinition> second = design.other().map(others::get);
            if (second.isEmpty()) {
                return carriedOut(design, prepared, database, elsewhere, values, snapshot);
            }
            try (Transacting other = around.opening().database(second.get());
                    Session session = other.begin(
                            design.isolation(), false, design.policy().limit())) {
                return carriedOut(design, prepared, database, elsewhere.changingIn(() -> session), values, snapshot);
            }
        } catch (StoreProblem no) {
            return new TriedOut(snapshot, steps, no.getMessage(), "");
        }
    }

    private static TriedOut carriedOut(
            TransactionDefinition design,
            Prepared prepared,
            Transacting database,
            Execution.Doors elsewhere,
            Values values,
            Map<String, Run.Read> snapshot) {
        List<StepRun> steps = new ArrayList<>();
        try (Session session =
                database.begin(design.isolation(), false, design.policy().limit())) {
            List<Todo> todo =
                    new Execution(design, prepared, elsewhere, values, System::nanoTime).within(session, steps::add);
            todo.stream()
                    .filter(each -> !(each instanceof Todo.Change))
                    .forEach(each ->
                            steps.add(new StepRun(each.step(), StepRun.Fate.SHOWN, "", each.carries(), -1, 0, "")));
            Todo.written(todo, Instant.EPOCH); // as long as a mark has room for
            String text = design.answer().doneText().isBlank()
                    ? ""
                    : Values.words(values.of(design.answer().doneText()));
            return new TriedOut(snapshot, steps, "", text);
        } catch (StepFailed no) {
            return new TriedOut(snapshot, steps, "Step " + no.step().name() + ": " + no.getMessage(), "");
        } catch (StoreProblem | FormulaProblem | IllegalArgumentException no) {
            return new TriedOut(snapshot, steps, no.getMessage(), "");
        }
    }

    /** Without a table of marks, nothing was ever done. */
    private static Optional<Instant> lastRun(Transacting database, TransactionDefinition design) throws StoreProblem {
        try {
            return Past.read(database.told(design.id(), Past.LAST_RUN).map(Session.Told::text));
        } catch (StoreProblem none) {
            if (none.kind() == StoreProblem.Kind.TABLE) {
                return Optional.empty();
            }
            throw none;
        }
    }

    /** The number that stands there now, or one that may. */
    private static Object number(TransactionDefinition design, PlantSide side) {
        Optional<TagRef> tag = design.request().map(When.OnRequest::number);
        return tag.map(side::now).flatMap(TagValue::value).orElse(null);
    }

    /** What became of one step. */
    public Optional<StepRun> step(String name) {
        return steps.stream().filter(each -> each.name().equals(name)).findFirst();
    }
}
