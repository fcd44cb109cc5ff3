package dachshund.core.text;

/**
 * Texts in CSV that a spreadsheet would take for a formula: led by an apostrophe on the way out, freed of it on the way
 * in, so that what was exported is read back equal.
 */
public final class SafeCell {

    private static final String DANGEROUS = "=+-@\t\r";

    private SafeCell() {}

    /** A text, whatever it looks like. */
    public static String out(String text) {
        return dangerous(text, 0) || text.startsWith("'") && dangerous(text, 1) ? "'" + text : text;
    }

    /** A field that may hold a number; a negative number stays a number. */
    public static String outUnlessNumber(String text) {
        return text.matches("[-+]?\\d+(\\.\\d+)?([eE][-+]?\\d+)?") ? text : out(text);
    }

    /** What {@link #out} was given. */
    public static String in(String text) {
        boolean led = text.startsWith("'") && (dangerous(text, 1) || text.startsWith("''") && dangerous(text, 2));
        return led ? text.substring(1) : text;
    }

    private static boolean dangerous(String text, int at) {
        return text.length() > at && DANGEROUS.indexOf(text.charAt(at)) >= 0;
    }
}
