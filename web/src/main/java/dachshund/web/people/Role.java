package dachshund.web.people;

/** What a person may do; each role may do what the ones before it may. */
public enum Role {
    VIEWER("Viewer", "looks"),
    ENGINEER("Engineer", "designs and releases"),
    ADMINISTRATOR("Administrator", "also manages people");

    private final String words;
    private final String may;

    Role(String words, String may) {
        this.words = words;
        this.may = may;
    }

    public String words() {
        return words;
    }

    /** What the role may do, in words. */
    public String may() {
        return may;
    }
}
