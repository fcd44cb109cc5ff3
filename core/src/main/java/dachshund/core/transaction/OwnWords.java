package dachshund.core.transaction;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The name of one machine in the place of another's, wherever steps speak of it: in texts of formulas, in statements, topics,
 * and names of tables, columns and files. It is never taken for a part of a longer word or number: PL1 does not stand in PL10.
 *
 * @param names the original's machine and the line's
 */
public record OwnWords(Map<String, String> names) {

    private static final Pattern TEXT = Pattern.compile("\"(?:[^\"\\\\]|\\\\.)*\"", Pattern.DOTALL);
    private static final Pattern PARAMETER = Pattern.compile(":[A-Za-z_][A-Za-z0-9_]*");
    private static final Pattern PART = Pattern.compile("\\{[^{}]*}");

    public OwnWords {
        names = Map.copyOf(names);
    }

    /** In what is not read further: a table, a column. */
    public String in(String text) {
        String said = text;
        for (Map.Entry<String, String> name : names.entrySet()) {
            said = replaced(said, name.getKey(), name.getValue());
            said = replaced(
                    said,
                    name.getKey().toLowerCase(Locale.ROOT),
                    name.getValue().toLowerCase(Locale.ROOT));
        }
        return said;
    }

    private static String replaced(String text, String own, String other) {
        return own.isBlank()
                ? text
                : text.replaceAll(
                        "(?<!" + like(own.charAt(0)) + ")" + Pattern.quote(own) + "(?!"
                                + like(own.charAt(own.length() - 1)) + ")",
                        Matcher.quoteReplacement(other));
    }

    /** What would make a longer word of one that begins or ends so. */
    private static String like(char end) {
        return Character.isDigit(end) ? "\\p{N}" : Character.isLetter(end) ? "\\p{L}" : "[^\\s\\S]";
    }

    /** Whether a formula is one text and nothing else. */
    static boolean isText(String formula) {
        return TEXT.matcher(formula).matches();
    }

    static String unquoted(String text) {
        return text.substring(1, text.length() - 1).replace("\\\"", "\"").replace("\\\\", "\\");
    }

    static String quoted(String text) {
        return "\"" + text.replace("\\", "\\\\").replace("\"", "\\\"") + "\"";
    }

    /** In the texts of a formula; its names are those of the design. */
    public String inFormula(String formula) {
        return TEXT.matcher(formula).replaceAll(text -> Matcher.quoteReplacement(in(text.group())));
    }

    /** In a statement, but for its parameters. */
    String inSql(String sql) {
        Matcher parameters = PARAMETER.matcher(sql);
        StringBuilder said = new StringBuilder();
        int from = 0;
        while (parameters.find()) {
            said.append(in(sql.substring(from, parameters.start()))).append(parameters.group());
            from = parameters.end();
        }
        return said.append(in(sql.substring(from))).toString();
    }

    /** In a topic or the name of a file, between whose brackets formulas stand. */
    String inPattern(String pattern) {
        Matcher parts = PART.matcher(pattern);
        StringBuilder said = new StringBuilder();
        int from = 0;
        while (parts.find()) {
            said.append(in(pattern.substring(from, parts.start()))).append(inFormula(parts.group()));
            from = parts.end();
        }
        return said.append(in(pattern.substring(from))).toString();
    }

    List<Step.Cell> inCells(List<Step.Cell> cells) {
        return cells.stream()
                .map(cell -> new Step.Cell(in(cell.column()), inFormula(cell.value()), cell.key()))
                .toList();
    }
}
