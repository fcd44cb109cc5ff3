package dachshund.core.layout;

/** The three shapes of a table. */
public enum Shape {
    COLUMN_PER_TAG("a column per tag"),
    ROW_PER_TAG("a row per tag"),
    DOCUMENT("a document per row");

    private final String words;

    Shape(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
