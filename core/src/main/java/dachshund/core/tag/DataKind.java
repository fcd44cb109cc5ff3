package dachshund.core.tag;

/** What sort of value a tag has, whatever its source calls the type. */
public enum DataKind {
    BOOLEAN("yes/no"),
    INTEGER("whole number"),
    /** Of 64 bits without a sign: half of its values are beyond a signed column. */
    UNSIGNED("whole number of 64 bits without a sign"),
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

    /** Whether its values have no decimals. */
    public boolean whole() {
        return this == INTEGER || this == UNSIGNED;
    }

    /** Whether values of this kind can be drawn as a line. */
    public boolean numeric() {
        return whole() || this == NUMBER || this == BOOLEAN;
    }
}
