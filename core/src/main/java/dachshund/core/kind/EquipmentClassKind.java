package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.equipment.PropertyDesign;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/** Equipment classes, as the general parts know them. */
public final class EquipmentClassKind extends DefinitionKind<EquipmentClassDefinition> {

    public EquipmentClassKind() {
        super(20, "EQUIPMENT_CLASS", "Equipment class", "equipmentClass", EquipmentClassDefinition.class);
    }

    @Override
    protected List<String> introduced(EquipmentClassDefinition type, Named named) {
        int n = type.properties().size();
        return List.of("Equipment of this class has " + n + (n == 1 ? " property: " : " properties: ")
                + type.properties().stream().map(PropertyDesign::name).collect(Collectors.joining(", ")) + ".");
    }

    @Override
    protected List<String> removed(EquipmentClassDefinition was, Named named) {
        return List.of("Tags and records stay as they are.");
    }

    @Override
    protected void changed(
            EquipmentClassDefinition was, EquipmentClassDefinition is, Named named, Sentences sentences) {
        is.properties().forEach(property -> {
            Optional<PropertyDesign> before = was.property(property.name());
            if (before.isEmpty()) {
                sentences.add("New property " + property.name() + " ("
                        + property.kind().words() + (property.required() ? ", required" : "") + ").");
            } else if (!before.get().equals(property)) {
                sentences.add("Property " + property.name() + " is now a "
                        + property.kind().words() + (property.unit().isEmpty() ? "" : " in " + property.unit())
                        + (property.required() ? ", required." : ", optional."));
            }
        });
        was.properties().stream()
                .filter(property -> is.property(property.name()).isEmpty())
                .forEach(property -> sentences.add("No longer has the property " + property.name() + "."));
    }

    @Override
    public Optional<EquipmentClassDefinition> duplicate(EquipmentClassDefinition of, String id, String name) {
        return Optional.of(new EquipmentClassDefinition(id, name, of.description(), of.properties()));
    }
}
