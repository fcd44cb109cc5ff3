package dachshund.core.source;

/**
 * Outcome of testing a source or a destination.
 *
 * @param worked   whether it answered as needed
 * @param sentence what answered, or what failed and what to look at
 * @param field    name of the setting to look at, empty where none stands out
 */
public record LinkTest(boolean worked, String sentence, String field) {

    public static LinkTest good(String sentence) {
        return new LinkTest(true, sentence, "");
    }

    public static LinkTest failed(String sentence, String field) {
        return new LinkTest(false, sentence, field);
    }
}
