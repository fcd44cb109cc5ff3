package dachshund.web.people;

/** Something that a person may do. What each address of the application needs is said there, by {@link Needs}. */
public enum Right {
    SEE("sees pages, values and rows"),
    TYPE("types into kept tags"),
    WRITE_PLANT("writes to the plant, where a source allows it"),
    DESIGN("designs: drafts, tries and tests"),
    RELEASE("releases, rolls back, stops and starts, decides about rows"),
    OPEN_PLANT("lets sources be written to"),
    MANAGE_PEOPLE("manages people and ends their sessions"),
    READ_AUDIT("reads the audit"),
    MANAGE_KEYS("manages tokens and certificates"),
    SET_NOTICES("says who is told of what"),
    MANAGE_ADDRESSES("says where connections may go");

    private final String words;

    Right(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
