package dachshund.core.layout;

/** What a column does when its tag's quality is bad. */
public enum BadQuality {
    WRITE_NULL("write NULL"),
    LAST_GOOD("write the last good value"),
    AS_IS("write the value as it is"),
    SKIP_ROW("skip the row"),
    SET_ASIDE("set the row aside");

    private final String words;

    BadQuality(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
