package dachshund.core.definition;

import dachshund.core.equipment.PropertySource;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * A piece of equipment of a class.
 *
 * @param equipmentClass id of its class
 * @param location       where it stands, parts separated by " / ", from the largest to the smallest; may be empty
 * @param properties     where its properties have their values from, by the property's name
 */
public record EquipmentDefinition(
        String id,
        String name,
        String description,
        String equipmentClass,
        String location,
        Map<String, PropertySource> properties)
        implements Definition {

    public EquipmentDefinition {
        properties = Map.copyOf(properties);
    }

    public Optional<PropertySource> property(String name) {
        return Optional.ofNullable(properties.get(name));
    }

    /** Ids of the sources whose tags it maps. */
    public Set<String> sources() {
        return properties.values().stream()
                .filter(PropertySource.FromTag.class::isInstance)
                .map(PropertySource.FromTag.class::cast)
                .map(from -> from.tag().source())
                .collect(Collectors.toSet());
    }

    public EquipmentDefinition withProperties(Map<String, PropertySource> other) {
        return new EquipmentDefinition(id, name, description, equipmentClass, location, other);
    }
}
