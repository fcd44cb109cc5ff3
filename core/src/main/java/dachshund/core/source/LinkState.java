package dachshund.core.source;

/** How a source stands. */
public enum LinkState {
    /** Nothing has been tried yet. */
    NOT_PROVEN("Not proven yet"),
    CONNECTING("Connecting"),
    CONNECTED("Connected"),
    /** It was asked and did not answer, or the connection broke; the link tries again by itself. */
    AWAY("Away"),
    /** Somebody paused it; it does not connect until it is resumed. */
    PAUSED("Paused");

    private final String words;

    LinkState(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
