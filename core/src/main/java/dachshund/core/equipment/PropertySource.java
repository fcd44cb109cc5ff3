package dachshund.core.equipment;

import dachshund.core.tag.TagRef;

/** Where a property of a piece of equipment has its value from. */
public sealed interface PropertySource {

    /**
     * A tag, as it is or through a small formula in which {@code x} is its value.
     *
     * @param unit    unit of the tag's value; empty for the unit it has. Where the property has another unit, the value
     *                is converted
     * @param formula such as {@code x * 0.001}; empty for the value as it is
     */
    record FromTag(TagRef tag, String unit, String formula) implements PropertySource {

        public static FromTag of(TagRef tag) {
            return new FromTag(tag, "", "");
        }
    }

    /** Always the same, such as a rated power; read as the property's kind. */
    record Constant(String text) implements PropertySource {}
}
