package dachshund.web.equipment;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyDesign;
import dachshund.office.definition.Definitions;
import dachshund.web.design.OwnColumns;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Machines in their list. */
@Component
class EquipmentColumns implements OwnColumns {

    private final Definitions definitions;

    EquipmentColumns(Definitions definitions) {
        this.definitions = definitions;
    }

    @Override
    public String kind() {
        return "EQUIPMENT";
    }

    @Override
    public String page() {
        return "/plant/equipment";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("Class", false), new Head("Where", false), new Head("Mapped", false), new Head("Gaps", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((EquipmentDefinition) thing);
    }

    private List<Cell> cells(EquipmentDefinition machine) {
        Optional<EquipmentClassDefinition> type =
                definitions.find(EquipmentClassDefinition.class, machine.equipmentClass());
        List<PropertyDesign> wanted =
                type.map(EquipmentClassDefinition::properties).orElse(List.of());
        List<String> gaps = EquipmentValues.gaps(wanted, machine.properties());
        return List.of(
                Cell.of(type.map(Definition::name).orElse("?")),
                Cell.quiet(machine.location()),
                Cell.of(machine.properties().size() + " of " + wanted.size()),
                gaps.isEmpty() ? Cell.quiet("none") : new Cell("missing: " + String.join(", ", gaps), "gap", ""));
    }
}
