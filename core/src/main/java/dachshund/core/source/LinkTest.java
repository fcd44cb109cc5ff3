package dachshund.core.source;

/**
 * Outcome of testing a source or a destination.
 *
 * @param worked   whether it answered as needed
 * @param sentence what answered, or what failed and what to look at
 * @param field    name of the setting to look at, empty where none stands out
 * @param ownName  what the other side calls itself, empty where it does not say
 * @param shown    a certificate as PEM that the other side showed and that nobody here believes yet; empty where that is not it
 */
public record LinkTest(boolean worked, String sentence, String field, String ownName, String shown) {

    public static LinkTest good(String sentence, String ownName) {
        return new LinkTest(true, sentence, "", ownName, "");
    }

    public static LinkTest failed(String sentence, String field) {
        return new LinkTest(false, sentence, field, "", "");
    }

    /** The same, with a certificate that a person may believe. */
    public LinkTest showing(String pem) {
        return new LinkTest(worked, sentence, field, ownName, pem);
    }
}
