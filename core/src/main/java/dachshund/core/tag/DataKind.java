package dachshund.core.tag;

/** What sort of value a tag has, whatever its source calls the type. */
public enum DataKind {
    BOOLEAN("yes/no"),
    INTEGER("whole number"),
    NUMBER("number"),
    TEXT("text"),
    TIME("time"),
    OTHER("other");

    private final String words;

    DataKind(String words) {
        this.words = words;
    }

    /** The kind as a person reads it. */
    public String words() {
        return words;
    }

    /** Whether values of this kind can be drawn as a line. */
    public boolean numeric() {
        return this == INTEGER || this == NUMBER || this == BOOLEAN;
    }
}
