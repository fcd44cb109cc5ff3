package dachshund.core.transaction;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

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

    /** In what is not read further: a table, a column. Names in small letters stand for the other's in small letters. */
    public String in(String text) {
        Map<String, String> said = new LinkedHashMap<>();
        names.forEach((own, other) -> {
            if (!own.isBlank()) {
                said.put(own, other);
                said.putIfAbsent(own.toLowerCase(Locale.ROOT), other.toLowerCase(Locale.ROOT));
            }
        });
        if (said.isEmpty()) {
            return text;
        }
        // In one pass: what was put in the place of a name is not looked at again.
        Pattern any =
                Pattern.compile(said.keySet().stream().map(OwnWords::apart).collect(Collectors.joining("|")));
        return any.matcher(text).replaceAll(found -> Matcher.quoteReplacement(said.get(found.group())));
    }

    private static String apart(String name) {
        return "(?<!" + like(name.charAt(0)) + ")" + Pattern.quote(name) + "(?!" + like(name.charAt(name.length() - 1))
                + ")";
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
