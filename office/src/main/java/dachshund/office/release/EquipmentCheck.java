package dachshund.office.release;

import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyDesign;
import java.util.List;
import org.springframework.stereotype.Component;

/** Whether every property of a piece of equipment can have the value that it is mapped to. */
@Component
class EquipmentCheck implements KindCheck<EquipmentDefinition> {

    @Override
    public Class<EquipmentDefinition> type() {
        return EquipmentDefinition.class;
    }

    @Override
    public void check(EquipmentDefinition piece, ReviewPass pass, List<String> consequences, List<String> problems) {
        pass.after().stream()
                .filter(each -> each.id().equals(piece.equipmentClass()))
                .filter(EquipmentClassDefinition.class::isInstance)
                .map(EquipmentClassDefinition.class::cast)
                .forEach(type -> type.properties().forEach(property -> check(piece, property, pass, problems)));
    }

    private static void check(
            EquipmentDefinition piece, PropertyDesign property, ReviewPass pass, List<String> problems) {
        piece.property(property.name())
                .ifPresent(from -> problems.addAll(EquipmentValues.problems(property, from, pass.plant()::tag)));
    }
}
