package dachshund.core.definition;

import dachshund.core.equipment.PropertyDesign;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * An equipment class (ISA-95 / IEC 62264-1): what all its pieces of equipment have in common.
 *
 * @param properties in the order in which they are shown, each name once
 */
public record EquipmentClassDefinition(String id, String name, String description, List<PropertyDesign> properties)
        implements Definition {

    public EquipmentClassDefinition {
        properties = List.copyOf(properties);
        Set<String> names = new HashSet<>();
        for (PropertyDesign property : properties) {
            if (!names.add(property.name().toLowerCase(java.util.Locale.ROOT))) {
                throw new IllegalArgumentException("There are two properties named " + property.name() + ".");
            }
        }
    }

    public Optional<PropertyDesign> property(String name) {
        return properties.stream()
                .filter(property -> property.name().equalsIgnoreCase(name))
                .findFirst();
    }
}
