package dachshund.core.equipment;

import java.util.Optional;

/** What is known of the plant's equipment, for columns that name its properties. */
public interface PropertyLookup {

    /** There is no equipment. */
    PropertyLookup NONE = (equipment, property) -> Optional.empty();

    /**
     * A property as it is designed and mapped.
     *
     * @param unit unit of the tag behind it, as far as it is known; empty else
     */
    record Mapped(PropertyDesign design, PropertySource from, String unit) {}

    /** @param equipment id; empty where a property or its mapping is not there */
    Optional<Mapped> property(String equipment, String property);
}
