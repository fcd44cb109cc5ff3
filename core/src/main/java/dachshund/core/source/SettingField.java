package dachshund.core.source;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Function;

/**
 * One setting of a source or destination.
 *
 * @param name    key in the definition
 * @param label   words beside the field
 * @param example what a filled field looks like
 * @param initial value of a new form
 * @param secret  encrypted at rest and never sent back to a page
 * @param check   empty where the text is fine, else a sentence
 */
public record SettingField(String name, String label, String example, String initial, boolean secret,
                           Function<String, String> check) {

    /** A problem for each setting that is not fine, by name. */
    public static Map<String, String> problems(List<SettingField> fields, Map<String, String> values) {
        Map<String, String> problems = new TreeMap<>();
        for (SettingField field : fields) {
            String problem = field.check.apply(values.getOrDefault(field.name, ""));
            if (!problem.isEmpty()) {
                problems.put(field.name, problem);
            }
        }
        return problems;
    }

    /** A check that something stands there. */
    public static Function<String, String> needed(String sentence) {
        return text -> text.isBlank() ? sentence : "";
    }

    /** A check for a TCP port. */
    public static String port(String text) {
        try {
            int port = Integer.parseInt(text.trim());
            if (port >= 1 && port <= 65535) {
                return "";
            }
        } catch (NumberFormatException notANumber) {
            // the sentence below says it
        }
        return "A port is a whole number from 1 to 65535.";
    }
}
