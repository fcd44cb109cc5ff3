package dachshund.web.where;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Guarantee;
import dachshund.core.destination.PlacePattern;
import dachshund.core.destination.RowAge;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TablePlan;
import dachshund.core.destination.WriteMode;
import dachshund.core.sql.Dialect;
import dachshund.engine.Engine;
import dachshund.engine.destination.OldRows;
import dachshund.engine.lane.LaneStatus;
import dachshund.office.definition.Definitions;
import dachshund.office.reach.Reaching;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.springframework.stereotype.Component;

/**
 * One destination of a recorder as the page shows it.
 *
 * @param trouble    why the table could not be looked at; empty where it could
 * @param plan       how the layout fits the table that is there
 * @param write      the statement that writes a row; empty for files
 * @param tableProblem why the name cannot be used; empty where it can
 * @param tableHint  advice on the name; empty for none
 * @param arguments  of the procedure that is called, in the order of the written columns; a column without one is left out
 * @param ageProblem why rows cannot be removed by their age; empty where they can, or stay
 * @param removed    what became of rows that were old enough, when they were looked at last
 * @param lane       how its lane stands; empty before the release
 */
public record WhereCard(
        int index,
        Where where,
        DestinationDefinition destination,
        StoreKind kind,
        String write,
        Guarantee guarantee,
        String trouble,
        TablePlan plan,
        String tableProblem,
        String tableHint,
        String arguments,
        String ageProblem,
        Optional<OldRows.Removed> removed,
        Optional<LaneStatus> lane) {

    /** For how many days rows are kept; empty where they stay. */
    public String keepDays() {
        return where.upkeep().keepDays() == 0
                ? ""
                : Integer.toString(where.upkeep().keepDays());
    }

    /** What became of rows that were old enough, in a sentence without its time; empty where there is nothing to tell. */
    public String removedWords() {
        return removed.filter(each -> where.upkeep().keepDays() > 0)
                .map(
                        each -> (each.rows() == 1 ? "1 old row was removed" : each.rows() + " old rows were removed")
                                + (each.trouble().isEmpty() ? "." : ", not all. " + each.trouble())
                                + (each.others() == 0
                                        ? ""
                                        : " As old, and left: " + each.others()
                                                + " that another installation of Dachshund wrote for this recorder; nobody here can tell whether it still needs them."))
                .orElse("");
    }

    /** Whether its rows may go to more than the one database or destination. */
    public boolean elsewhere() {
        return !where.database().isEmpty() || !where.named().isEmpty();
    }

    /** Name of the way of writing, as the form has it. */
    public String mode() {
        return where.mode() instanceof WriteMode.Call call
                ? call.oneJson() ? "CALL_JSON" : "CALL"
                : where.mode() instanceof WriteMode.Update
                        ? "UPDATE"
                        : where.mode() instanceof WriteMode.InsertOrUpdate ? "INSERT_OR_UPDATE" : "INSERT";
    }

    public String procedure() {
        return where.mode() instanceof WriteMode.Call call ? call.procedure() : "";
    }

    public boolean keyed() {
        return kind.modes().contains(WriteMode.Update.class);
    }

    public boolean procedures() {
        return kind.modes().contains(WriteMode.Call.class);
    }

    /** Makes the cards; looks at the tables, so it may take as long as a database takes to answer. */
    @Component
    public static class Maker {

        private final Definitions definitions;
        private final Engine engine;
        private final Reaching reaching;

        Maker(Definitions definitions, Engine engine, Reaching reaching) {
            this.definitions = definitions;
            this.engine = engine;
            this.reaching = reaching;
        }

        public List<WhereCard> cards(RecorderDefinition recorder) {
            return IntStream.range(0, recorder.wheres().size())
                    .filter(i -> definitions
                            .destination(recorder.wheres().get(i).destination())
                            .isPresent())
                    .mapToObj(i -> card(recorder, i))
                    .toList();
        }

        private WhereCard card(RecorderDefinition recorder, int index) {
            Where where = recorder.wheres().get(index);
            DestinationDefinition destination =
                    definitions.destination(where.destination()).orElseThrow();
            StoreKind kind = engine.storeKind(destination.store());
            Dialect dialect = kind.dialect();
            String trouble = "";
            Optional<TableDescription> found = Optional.empty();
            PlacePattern name = where.place();
            if (kind.statementsOnly()) {
                trouble = "The statements for " + dialect.engine()
                        + " are generated and were never executed; rows cannot be sent there by this version.";
            } else if (!kind.files() && !name.dynamic()) {
                try (RowStore store = reaching.look(destination)) {
                    found = store.in(where.database()).describe(where.table());
                } catch (StoreProblem | RuntimeException away) {
                    trouble = "The table could not be looked at. " + away.getMessage();
                }
            }
            TablePlan plan =
                    TablePlan.of(dialect, where.table(), recorder.layout(), where.mode(), where.upkeep(), found);
            Optional<LaneStatus> lane = Optional.ofNullable(engine.status().get(recorder.id()))
                    .flatMap(status -> status.lanes().stream()
                            .filter(each -> each.destination().equals(where.destination()))
                            .findFirst());
            Optional<String> problem = name.tableProblem(recorder.layout(), dialect)
                    .or(() -> name.databaseProblem(recorder.layout(), dialect));
            return new WhereCard(
                    index,
                    where,
                    destination,
                    kind,
                    write(dialect, where, recorder),
                    kind.files()
                            ? Guarantee.ofFile()
                            : Guarantee.of(recorder.layout(), where.mode(), where.mark(), found),
                    trouble,
                    plan,
                    problem.orElse(""),
                    name.dynamic() || kind.files()
                            ? ""
                            : dialect.identifierHint(where.table()).orElse(""),
                    where.mode() instanceof WriteMode.Call call ? arguments(call, recorder) : "",
                    RowAge.problem(where.upkeep(), recorder.layout(), where.mode(), where.named())
                            .orElse(""),
                    engine.oldRows(recorder.id(), where.destination()),
                    lane);
        }

        private static String arguments(WriteMode.Call call, RecorderDefinition recorder) {
            return call.columns().isEmpty()
                    ? String.join(", ", call.arguments())
                    : recorder.layout().written().stream()
                            .map(column -> call.columns().indexOf(column.name()))
                            .filter(at -> at >= 0)
                            .map(at -> call.arguments().get(at))
                            .collect(Collectors.joining(", "));
        }

        private static String write(Dialect dialect, Where where, RecorderDefinition recorder) {
            if (where.mode().needsKey() && recorder.layout().key().isEmpty()) {
                return "";
            }
            return where.mode() instanceof WriteMode.Update
                    ? dialect.update(where.table(), recorder.layout())
                    : where.mode() instanceof WriteMode.InsertOrUpdate
                            ? dialect.insertOrUpdate(where.table(), recorder.layout())
                            : where.mode() instanceof WriteMode.Call call
                                    ? dialect.call(call.procedure(), call.arguments())
                                    : dialect.insert(where.table(), recorder.layout());
        }
    }
}
