package dachshund.web.page;

import static java.util.Map.entry;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.ShiftCalendarDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.design.ListedFormula;
import java.util.Map;
import org.springframework.stereotype.Component;
import org.springframework.web.util.UriComponentsBuilder;

/** Where the page of each thing is. */
@Component("thingPages")
public class ThingPages {

    private static final Map<Class<? extends Definition>, String> OWN = Map.ofEntries(
            entry(SourceDefinition.class, "/plant/sources/{id}"),
            entry(EquipmentClassDefinition.class, "/plant/equipment/classes/{id}"),
            entry(EquipmentDefinition.class, "/plant/equipment/{id}"),
            entry(ShiftCalendarDefinition.class, "/plant/shifts"),
            entry(KeepingRuleDefinition.class, "/plant/keeping/{id}"),
            entry(DestinationDefinition.class, "/records/destinations/{id}"),
            entry(DatabaseDefinition.class, "/review/databases/{id}"),
            entry(QueryDefinition.class, "/review/queries/{id}"),
            entry(TrendDefinition.class, "/review/trends/{id}"),
            entry(TransactionDefinition.class, "/records/transactions/{id}"),
            entry(RecorderDefinition.class, "/records/{id}"));

    /** The page where it is designed; of a kind without one, the page that every thing has. */
    public String of(Definition thing) {
        if (thing instanceof ListedFormula formula) {
            return UriComponentsBuilder.fromPath("/plant/tag")
                    .queryParam("key", "{key}")
                    .encode()
                    .buildAndExpand(formula.ref().source() + " " + formula.ref().address())
                    .toUriString();
        }
        return OWN.getOrDefault(thing.getClass(), "/designs/{id}").replace("{id}", thing.id());
    }
}
