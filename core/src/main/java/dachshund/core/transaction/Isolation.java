package dachshund.core.transaction;

/** How much of what others do at the same time a transaction may see (ISO/IEC 9075-2, 4.36). Which anomalies are left is the engine's. */
public enum Isolation {
    READ_COMMITTED("read committed"),
    REPEATABLE_READ("repeatable read"),
    SERIALIZABLE("serializable");

    private final String words;

    Isolation(String words) {
        this.words = words;
    }

    public String words() {
        return words;
    }
}
