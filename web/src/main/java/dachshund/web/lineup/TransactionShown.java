package dachshund.web.lineup;

import dachshund.core.definition.Plant;
import dachshund.core.release.WhenCheck;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.transaction.Surroundings;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** The lines of a transaction: the values that each would gather. */
@Component
class TransactionShown implements LineShown<TransactionDefinition> {

    private final Definitions definitions;
    private final Engine engine;
    private final Surroundings surroundings;
    private final PlantClock clock;

    TransactionShown(Definitions definitions, Engine engine, Surroundings surroundings, PlantClock clock) {
        this.definitions = definitions;
        this.engine = engine;
        this.surroundings = surroundings;
        this.clock = clock;
    }

    @Override
    public Class<TransactionDefinition> type() {
        return TransactionDefinition.class;
    }

    @Override
    public String nowHeading() {
        return "What it would gather now";
    }

    /** Values alone: what is computed of a history is asked of the archive by a run, not by a page. */
    @Override
    public String now(TransactionDefinition line, Plant plant) {
        OnEquipment on = OnEquipment.of(line, plant);
        return on.placed(line).gathers().stream()
                .filter(each -> each.over().isEmpty() && !each.isGiven())
                .map(each -> each.name() + " = " + value(each, on))
                .collect(Collectors.joining(", "));
    }

    private String value(Gathered each, OnEquipment on) {
        TagValue value = on.value(each, tag -> engine.tags().entry(tag).value(), clock.now());
        return value.quality().isBad()
                ? value.quality().words()
                : value.value()
                        .map(Values::words)
                        .map(words -> words.isEmpty() ? "an empty text" : words)
                        .orElse("nothing");
    }

    @Override
    public List<String> problems(TransactionDefinition line, Plant plant) {
        List<String> problems = new ArrayList<>(
                line.whens().isEmpty() ? List.of() : WhenCheck.problems(line, definitions::tag, plant.shifts()));
        TransactionCheck.problems(line, surroundings.on(() -> plant)).stream()
                .map(TransactionCheck.Problem::sentence)
                .forEach(problems::add);
        return problems;
    }
}
