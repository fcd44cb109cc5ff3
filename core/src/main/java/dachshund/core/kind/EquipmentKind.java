package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.TagRef;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/** Equipment, as the general parts know it. */
public final class EquipmentKind extends DefinitionKind<EquipmentDefinition> {

    public EquipmentKind() {
        super(30, "EQUIPMENT", "Equipment", "equipment", EquipmentDefinition.class);
    }

    @Override
    protected Set<String> things(EquipmentDefinition equipment) {
        return Set.of(equipment.equipmentClass());
    }

    @Override
    protected Set<TagRef> tags(EquipmentDefinition equipment) {
        Set<TagRef> tags = new HashSet<>();
        equipment.properties().values().forEach(property -> {
            if (property instanceof PropertySource.FromTag from) {
                tags.add(from.tag());
            }
        });
        return tags;
    }

    @Override
    protected List<String> introduced(EquipmentDefinition equipment, Named named) {
        return List.of("A " + named.name(equipment.equipmentClass()) + "; "
                + equipment.properties().size() + " of its properties have a value.");
    }

    @Override
    protected List<String> removed(EquipmentDefinition was, Named named) {
        return List.of("Tags and records stay as they are.");
    }

    @Override
    protected void changed(EquipmentDefinition was, EquipmentDefinition is, Named named, Sentences sentences) {
        sentences.compare("Class", named.name(was.equipmentClass()), named.name(is.equipmentClass()));
        sentences.compare("Location", was.location(), is.location());
        Set<String> names = new TreeSet<>(was.properties().keySet());
        names.addAll(is.properties().keySet());
        List<String> other = names.stream()
                .filter(name -> !was.property(name).equals(is.property(name)))
                .toList();
        if (!other.isEmpty()) {
            sentences.add("Mapped anew: " + String.join(", ", other) + ".");
        }
    }

    @Override
    public Optional<EquipmentDefinition> duplicate(EquipmentDefinition of, String id, String name) {
        return Optional.of(new EquipmentDefinition(
                id, name, of.description(), of.equipmentClass(), of.location(), of.properties()));
    }
}
