package dachshund.core.tag;

/**
 * How far a value can be trusted: one of three classes, the source's own code, and that code in words. For OPC UA the
 * code is the StatusCode (OPC 10000-4, 7.39), whose two highest bits are the class.
 *
 * @param grade good, uncertain or bad
 * @param code  the source's own code, 0 where it has none
 * @param words the code explained; empty where the grade says it all
 */
public record Quality(Grade grade, long code, String words) {

    /** The three classes of OPC UA Part 8. */
    public enum Grade {
        GOOD,
        UNCERTAIN,
        BAD
    }

    /** A value that can be used without a second thought. */
    public static final Quality GOOD = new Quality(Grade.GOOD, 0, "");

    /** The source is away: OPC UA Bad_NoCommunication. */
    public static final Quality AWAY = new Quality(Grade.BAD, 0x80310000L, "no communication with the source");

    /** Nothing has arrived yet: OPC UA Bad_WaitingForInitialData. */
    public static final Quality WAITING = new Quality(Grade.BAD, 0x80320000L, "no value yet");

    /** A number that is none: not a number, or infinite. */
    public static final Quality NOT_A_NUMBER = new Quality(Grade.BAD, 0x803C0000L, "not a finite number");

    public static Quality bad(long code, String words) {
        return new Quality(Grade.BAD, code, words);
    }

    public boolean isGood() {
        return grade == Grade.GOOD;
    }

    public boolean isBad() {
        return grade == Grade.BAD;
    }

    /** The class and, where there is more to say, the explanation. */
    public String sentence() {
        String name = grade.name().charAt(0) + grade.name().substring(1).toLowerCase(java.util.Locale.ROOT);
        return words.isEmpty() ? name : name + ": " + words;
    }
}
