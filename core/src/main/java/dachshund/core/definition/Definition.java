package dachshund.core.definition;

import java.util.Map;

/**
 * Something that is designed, drafted and released: a source, equipment, the shift calendar, a destination, a recorder. Refers
 * to others by id. What the general parts know of its kind is a {@link DefinitionKind}.
 */
public interface Definition {

    /** Eight hexadecimal digits, drawn once; a rename keeps it. */
    String id();

    /** What people call it. */
    String name();

    /** A few words on what it is for; may be empty. */
    String description();

    default DefinitionKind<?> kind() {
        return DefinitionKinds.of(getClass());
    }

    /** By name, how it connects to something outside; empty for what does not. */
    default Map<String, String> settings() {
        return Map.of();
    }

    /** The same with other settings; as it is where it has none. */
    default Definition withSettings(Map<String, String> other) {
        return this;
    }
}
