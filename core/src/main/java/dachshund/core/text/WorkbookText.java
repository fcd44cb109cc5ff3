package dachshund.core.text;

import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Texts in workbooks: a character that XML cannot have is written as {@code _xHHHH_}, and what looks like one is led by
 * {@code _x005F}, so that every text is read back equal (ECMA-376 part 1, 22.9.2.19 ST_Xstring; from memory).
 */
public final class WorkbookText {

    private static final String ODD = "[\\x00-\\x08\\x0B\\x0C\\x0E-\\x1F\\uD800-\\uDFFF\\uFFFE\\uFFFF]";
    /** An escape begins with what another one would end with. */
    private static final Pattern OUT = Pattern.compile(ODD + "|_(?=x[0-9A-Fa-f]{4}(_|" + ODD + "))");

    private static final Pattern IN = Pattern.compile("_x([0-9A-Fa-f]{4})_");
    private static final int HEXADECIMAL = 16;

    private WorkbookText() {}

    /** As a cell has it. */
    public static String out(String text) {
        Matcher odd = OUT.matcher(text);
        return odd.find()
                ? odd.reset()
                        .replaceAll(found -> String.format(
                                Locale.ROOT, "_x%04X_", (int) found.group().charAt(0)))
                : text;
    }

    /** What {@link #out} was given. */
    public static String in(String cell) {
        return cell.contains("_x")
                ? IN.matcher(cell)
                        .replaceAll(found -> Matcher.quoteReplacement(
                                String.valueOf((char) Integer.parseInt(found.group(1), HEXADECIMAL))))
                : cell;
    }
}
