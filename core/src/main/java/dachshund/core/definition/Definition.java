package dachshund.core.definition;

import java.util.Map;

/** Something that is designed, drafted and released: a source, equipment, the shift calendar, a destination or a recorder. Refers to others by id. */
public sealed interface Definition
        permits SourceDefinition,
                EquipmentClassDefinition,
                EquipmentDefinition,
                ShiftCalendarDefinition,
                DestinationDefinition,
                RecorderDefinition {

    /** Eight hexadecimal digits, drawn once; a rename keeps it. */
    String id();

    /** What people call it. */
    String name();

    /** A few words on what it is for; may be empty. */
    String description();

    Kind kind();

    /** By name, how it connects to something outside; empty for what does not. */
    default Map<String, String> settings() {
        return Map.of();
    }

    /** The same with other settings; as it is where it has none. */
    default Definition withSettings(Map<String, String> other) {
        return this;
    }

    /** The kinds of definitions, in the order in which a release applies them. */
    enum Kind {
        SOURCE("Source"),
        EQUIPMENT_CLASS("Equipment class"),
        EQUIPMENT("Equipment"),
        SHIFT_CALENDAR("Shift calendar"),
        DESTINATION("Destination"),
        RECORDER("Recorder");

        private final String words;

        Kind(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }
}
