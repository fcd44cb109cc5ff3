package dachshund.office.release;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.NamePattern;
import dachshund.core.destination.Place;
import dachshund.core.destination.PlacePattern;
import dachshund.core.destination.RowAge;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TablePlan;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.release.LayoutCheck;
import dachshund.core.release.WhenCheck;
import dachshund.core.sql.Dialect;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;

/** Whether a recorder can be released: its Whens, its layout, and each place that it writes to, which is looked at. */
@Component
class RecorderCheck implements KindCheck<RecorderDefinition> {

    private final Definitions definitions;
    private final Engine engine;
    private final WrittenTags written;

    RecorderCheck(Definitions definitions, Engine engine, WrittenTags written) {
        this.definitions = definitions;
        this.engine = engine;
        this.written = written;
    }

    @Override
    public Class<RecorderDefinition> type() {
        return RecorderDefinition.class;
    }

    @Override
    public void check(RecorderDefinition recorder, ReviewPass pass, List<String> consequences, List<String> problems) {
        problems.addAll(
                WhenCheck.problems(recorder, definitions::tag, pass.plant().shifts()));
        problems.addAll(WhenCheck.unconfirmed(recorder, definitions::tag));
        written.consequences(recorder, Set.of(), pass, consequences);
        consequences.addAll(WhenCheck.advice(recorder, definitions::tag));
        if (recorder.wheres().isEmpty()) {
            problems.add("It has no destination: say where its rows go.");
        }
        Dialect dialect = null;
        Set<String> seen = new HashSet<>();
        for (Where where : recorder.wheres()) {
            Optional<DestinationDefinition> destination = definitions.destination(where.destination());
            if (destination.isEmpty()) {
                problems.add("It writes to a destination that is removed.");
                continue;
            }
            if (!seen.add(where.destination())) {
                problems.add("It writes to " + destination.get().name()
                        + " twice; make a second recorder for the second table.");
            }
            dialect = engine.storeKind(destination.get().store()).dialect();
            place(recorder, where, destination.get(), pass, consequences, problems);
            shared(recorder, where, pass, consequences);
        }
        if (dialect != null) {
            LayoutCheck.remarks(recorder.layout(), dialect, definitions::tag, pass.plant(), recorder.equipment())
                    .stream()
                    .filter(LayoutCheck.Remark::blocking)
                    .forEach(remark -> problems.add(remark.sentence()));
        }
    }

    /** Rows of two recorders in one place may be meant; it is not seen otherwise. */
    private static void shared(RecorderDefinition recorder, Where where, ReviewPass pass, List<String> consequences) {
        pass.writing(where).stream()
                .filter(other -> !other.id().equals(recorder.id()))
                .distinct()
                .forEach(other -> consequences.add(other.name() + " writes to " + where.table() + " as well."));
    }

    private void place(
            RecorderDefinition recorder,
            Where where,
            DestinationDefinition destination,
            ReviewPass pass,
            List<String> consequences,
            List<String> problems) {
        StoreKind kind = engine.storeKind(destination.store());
        if (kind.statementsOnly()) {
            problems.add("Rows cannot be sent to " + destination.name()
                    + ": its statements are generated and were never executed. Read and copy them at the recorder.");
        }
        Optional<String> problem = where.place()
                .tableProblem(recorder.layout(), kind.dialect())
                .map(sentence -> "Table name: " + sentence)
                .or(() -> where.place()
                        .databaseProblem(recorder.layout(), kind.dialect())
                        .map(sentence -> "Database name: " + sentence))
                .or(() -> new NamePattern(where.named())
                        .problem(recorder.layout())
                        .map(sentence -> "Destination name: " + sentence));
        problem.ifPresent(problems::add);
        if (where.mode() instanceof WriteMode.Call call && !call.oneJson()) {
            String unbound = call.bind(recorder.layout().written().stream()
                            .map(Column::name)
                            .toList())
                    .problem();
            if (!unbound.isEmpty()) {
                problems.add(unbound);
            }
        }
        if (!where.named().isEmpty() && recorder.wheres().size() > 1) {
            problems.add("A recorder whose rows name their destination has no other destination beside it.");
        }
        boolean standsIn = where.standbyFor().isEmpty()
                || recorder.wheres().stream()
                        .anyMatch(other -> other.destination().equals(where.standbyFor())
                                && other.standbyFor().isEmpty());
        if (!standsIn) {
            problems.add(destination.name() + " stands in for a destination that the recorder does not write to.");
        }
        RowAge.problem(where.upkeep(), recorder.layout(), where.mode(), where.named())
                .map(why -> "For " + where.table() + " in " + destination.name() + ": " + why)
                .ifPresent(problems::add);
        if (problem.isPresent() || kind.statementsOnly()) {
            return;
        }
        if (!where.upkeep().age().isEmpty()) {
            consequences.add("From the next night on it " + where.upkeep().age() + " from " + where.table() + " in "
                    + destination.name() + ": those that it has made, and no others. They do not come back.");
        }
        if (!where.named().isEmpty()) {
            consequences.add("Each row goes to the destination named " + where.named() + ", and to "
                    + destination.name() + " where there is none of that name.");
        }
        if (kind.files()) {
            consequences.add("Writes files " + where.table() + " in " + destination.name() + ".");
        } else if (where.mode() instanceof WriteMode.Call) {
            consequences.add("Gives each row to the procedure " + where.table() + " in " + destination.name() + ".");
            table(recorder, where, destination, pass, kind.dialect(), new ArrayList<>(), problems);
        } else if (where.place().dynamic()) {
            consequences.add("Makes tables " + new Place(where.database(), where.table()).words() + " in "
                    + destination.name() + " as their names come up; the rows of a day make " + PlacePattern.MOST_A_DAY
                    + " at most.");
        } else {
            table(recorder, where, destination, pass, kind.dialect(), consequences, problems);
        }
    }

    private void table(
            RecorderDefinition recorder,
            Where where,
            DestinationDefinition destination,
            ReviewPass pass,
            Dialect dialect,
            List<String> consequences,
            List<String> problems) {
        try {
            RowStore store = pass.store(destination);
            if (!where.database().isEmpty() && !store.hasDatabase(where.database())) {
                if (where.upkeep().mayMake()) {
                    consequences.add("Makes the database " + where.database() + " at " + destination.name()
                            + " with the table " + where.table() + ".");
                } else {
                    problems.add("There is no database " + where.database() + " at " + destination.name()
                            + ", and the recorder may not make its tables.");
                }
                return;
            }
            Optional<TableDescription> found = store.in(where.database()).describe(where.table());
            TablePlan plan =
                    TablePlan.of(dialect, where.table(), recorder.layout(), where.mode(), where.upkeep(), found);
            problems.addAll(plan.problems());
            consequences.addAll(plan.advice());
            if (!plan.problems().isEmpty()) {
                return;
            }
            if (!plan.exists()) {
                consequences.add("Makes the table " + where.table() + " in " + destination.name() + ".");
            } else if (plan.statements().isEmpty()) {
                consequences.add("The table " + where.table() + " in " + destination.name()
                        + " is there and stays as it is; rows are added.");
            } else {
                consequences.add("Adds " + plan.statements().size()
                        + (plan.statements().size() == 1 ? " column" : " columns") + " to " + where.table() + " in "
                        + destination.name() + "; the rows that are there stay and have NULL in it.");
            }
        } catch (StoreProblem away) {
            if (away.kind() == StoreProblem.Kind.AWAY) {
                pass.away(destination, away);
                consequences.add("The table " + where.table() + " could not be looked at: " + away.getMessage()
                        + " Rows will be held on disk until it can.");
            } else {
                problems.add(away.getMessage());
            }
        }
    }
}
