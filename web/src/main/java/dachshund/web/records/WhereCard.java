package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Guarantee;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TablePlan;
import dachshund.core.sql.Dialect;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneStatus;
import dachshund.web.definition.Definitions;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * One destination of a recorder as the page shows it.
 *
 * @param trouble    why the table could not be looked at; empty where it could
 * @param exists     whether the table is there
 * @param statements what upkeep would run before the first row
 * @param problems   why it cannot work as it stands
 * @param tableProblem why the table's name cannot be used; empty where it can
 * @param tableHint  advice on the table's name; empty for none
 * @param lane       how its lane stands; empty before the release
 */
record WhereCard(int index, Where where, DestinationDefinition destination, String engineName, String insert, Guarantee guarantee, String trouble,
                 boolean exists, List<String> statements, List<String> problems, String tableProblem, String tableHint,
                 Optional<LaneStatus> lane) {

    /** Makes the cards; looks at the tables, so it may take as long as a database takes to answer. */
    @Component
    static class Maker {

        private final Definitions definitions;
        private final Engine engine;

        Maker(Definitions definitions, Engine engine) {
            this.definitions = definitions;
            this.engine = engine;
        }

        List<WhereCard> cards(RecorderDefinition recorder) {
            return java.util.stream.IntStream.range(0, recorder.wheres().size())
                    .filter(i -> definitions.destination(recorder.wheres().get(i).destination()).isPresent())
                    .mapToObj(i -> card(recorder, i)).toList();
        }

        private WhereCard card(RecorderDefinition recorder, int index) {
            Where where = recorder.wheres().get(index);
            DestinationDefinition destination = definitions.destination(where.destination()).orElseThrow();
            Dialect dialect = engine.storeKind(destination.store()).dialect();
            String trouble = "";
            Optional<TableDescription> found = Optional.empty();
            try (RowStore store = engine.openStore(destination)) {
                found = store.describe(where.table());
            } catch (StoreProblem away) {
                trouble = away.getMessage();
            }
            TablePlan plan = TablePlan.of(dialect, where.table(), recorder.layout(), where.upkeep(), found);
            Optional<LaneStatus> lane = Optional.ofNullable(engine.status().get(recorder.id()))
                    .flatMap(status -> status.lanes().stream().filter(each -> each.destination().equals(where.destination())).findFirst());
            return new WhereCard(index, where, destination, dialect.engine(), dialect.insert(where.table(), recorder.layout()),
                    Guarantee.of(recorder.layout(), where.mark(), found), trouble, plan.exists(), plan.statements(),
                    trouble.isEmpty() ? plan.problems() : List.of(),
                    dialect.identifierProblem(where.table()).orElse(""), dialect.identifierHint(where.table()).orElse(""), lane);
        }
    }
}
