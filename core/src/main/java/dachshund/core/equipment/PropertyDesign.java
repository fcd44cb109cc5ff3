package dachshund.core.equipment;

import dachshund.core.tag.DataKind;

/**
 * A property of an equipment class.
 *
 * @param name        unique in its class
 * @param unit        empty where none
 * @param required    whether every piece of equipment must map it
 * @param description may be empty
 */
public record PropertyDesign(String name, DataKind kind, String unit, boolean required, String description) {

    public PropertyDesign {
        if (name.isBlank() || name.length() > 120) {
            throw new IllegalArgumentException("A property needs a name of up to 120 characters.");
        }
    }
}
