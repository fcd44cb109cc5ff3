package dachshund.core.transaction;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.text.SafeCell;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * What a message or a line of a file says.
 *
 * @param text  a formula; counts of {@link As#TEXT} alone
 * @param cells names with the formula of each; count of the others
 */
public record Wording(As as, String text, List<Step.Cell> cells) {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Pattern PART = Pattern.compile("\\{([^{}]*)}");

    /** How it is written. */
    public enum As {
        TEXT("a text"),
        JSON("JSON (RFC 8259), a name and value each"),
        CSV("CSV (RFC 4180), the names as the first line of a new file");

        private final String words;

        As(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    public Wording {
        cells = List.copyOf(cells);
    }

    /** The same of another machine. */
    Wording swapped(OwnWords words) {
        return new Wording(as, words.inFormula(text), words.inCells(cells));
    }

    /** Every formula in it. */
    public List<String> formulas() {
        return as == As.TEXT
                ? List.of(text)
                : cells.stream().map(Step.Cell::value).toList();
    }

    /** @throws FormulaProblem with a sentence */
    String of(Values values) throws FormulaProblem {
        switch (as) {
            case TEXT:
                Object only = values.of(text);
                return only == null ? "" : Values.words(only);
            case JSON:
                ObjectNode object = JSON.createObjectNode();
                for (Step.Cell cell : cells) {
                    put(object, cell.column(), values.of(cell.value()));
                }
                return object.toString();
            default:
                List<String> fields = new ArrayList<>();
                for (Step.Cell cell : cells) {
                    Object value = values.of(cell.value());
                    fields.add(
                            value == null
                                    ? ""
                                    : field(value instanceof Boolean truth ? truth.toString() : Values.words(value)));
                }
                return String.join(",", fields);
        }
    }

    /** The first line of a new file; empty for none. */
    String header() {
        return as == As.CSV ? cells.stream().map(cell -> field(cell.column())).collect(Collectors.joining(",")) : "";
    }

    private static void put(ObjectNode object, String name, Object value) {
        if (value == null) {
            object.putNull(name);
        } else if (value instanceof Boolean truth) {
            object.put(name, truth);
        } else if (value instanceof Number number && Values.bound(number) instanceof Long whole) {
            object.put(name, whole);
        } else if (value instanceof BigDecimal number) {
            object.put(name, number);
        } else if (value instanceof Number number && Double.isFinite(number.doubleValue())) {
            object.put(name, new BigDecimal(number.toString()));
        } else {
            object.put(name, Values.words(value));
        }
    }

    /** RFC 4180: what has a comma, a quote or a line's end within is quoted. */
    private static String field(String words) {
        String text = SafeCell.outUnlessNumber(words);
        return text.matches("(?s).*[\",\\r\\n].*") ? "\"" + text.replace("\"", "\"\"") + "\"" : text;
    }

    /** The formulas between brackets, in the text of a topic or the name of a file. */
    public static List<String> within(String pattern) {
        return PART.matcher(pattern).results().map(part -> part.group(1)).toList();
    }

    /** Whether a bracket stands there that belongs to none. */
    public static boolean torn(String pattern) {
        return said(pattern).matches(".*[{}].*");
    }

    /** What stands there beside the formulas. */
    static String said(String pattern) {
        return PART.matcher(pattern).replaceAll("");
    }

    interface Safe {
        String of(String words);
    }

    /** The pattern with what its formulas give, made safe for where it goes. */
    static String filled(String pattern, Values values, Safe safe) throws FormulaProblem {
        Matcher parts = PART.matcher(pattern);
        StringBuilder filled = new StringBuilder();
        while (parts.find()) {
            String words = safe.of(Values.words(values.of(parts.group(1))));
            parts.appendReplacement(filled, Matcher.quoteReplacement(words));
        }
        return parts.appendTail(filled).toString();
    }
}
