package dachshund.core.transaction;

import dachshund.core.definition.Plant;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyLookup;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/**
 * The piece of equipment that a transaction is about, as it is mapped at one time.
 *
 * @param id     empty for none
 * @param name   empty for none
 * @param mapped what the properties are that it gathers, by name; without those that its equipment does not map
 */
public record OnEquipment(String id, String name, Map<String, PropertyLookup.Mapped> mapped) {

    /** The code of OPC UA for a value that was never configured. */
    private static final long NOT_CONFIGURED = 0x80890000L;

    public OnEquipment {
        mapped = Map.copyOf(mapped);
    }

    public static OnEquipment of(TransactionDefinition design, Plant plant) {
        Map<String, PropertyLookup.Mapped> mapped = new LinkedHashMap<>();
        design.properties().forEach(property -> plant.property(design.equipment(), property)
                .ifPresent(each -> mapped.put(property, each)));
        return new OnEquipment(design.equipment(), plant.equipmentName(design.equipment()), mapped);
    }

    /** The tag behind a property; empty where it is mapped to none. */
    public Optional<TagRef> tag(String property) {
        return Optional.ofNullable(mapped.get(property))
                .map(PropertyLookup.Mapped::from)
                .filter(PropertySource.FromTag.class::isInstance)
                .map(from -> ((PropertySource.FromTag) from).tag());
    }

    /** Whether a property is its tag as that is: neither computed of it, nor in another unit. */
    public boolean plain(String property) {
        PropertyLookup.Mapped of = mapped.get(property);
        return of != null
                && of.from() instanceof PropertySource.FromTag tag
                && tag.formula().isEmpty()
                && (of.unit().isEmpty()
                        || of.design().unit().isEmpty()
                        || of.unit().equals(of.design().unit()));
    }

    /** The design with the tags in the place of the properties that they are. */
    public TransactionDefinition placed(TransactionDefinition design) {
        return design.withGathers(design.gathers().stream()
                .map(each -> tag(each.property()).map(each::withTag).orElse(each))
                .toList());
    }

    /**
     * What something is worth that is gathered.
     *
     * @param each of a placed design
     * @param now  what a tag is worth
     */
    public TagValue value(Gathered each, Function<TagRef, TagValue> now, Instant at) {
        if (each.property().isEmpty()) {
            return now.apply(each.tag());
        }
        PropertyLookup.Mapped of = mapped.get(each.property());
        if (of == null) {
            String why = (name.isEmpty() ? "its equipment" : name) + " maps no property " + each.property();
            return new TagValue(Optional.empty(), Quality.bad(NOT_CONFIGURED, why), at, at);
        }
        PropertySource from =
                of.from() instanceof PropertySource.FromTag tag && tag.formula().isEmpty()
                        ? new PropertySource.FromTag(tag.tag(), of.unit(), "")
                        : of.from();
        return EquipmentValues.value(of.design(), from, tag -> Optional.empty(), now, at);
    }
}
