package dachshund.core.source;

import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * One setting of a source, a destination or a tag.
 *
 * @param name    key in the definition
 * @param label   words beside the field
 * @param example what a filled field looks like
 * @param initial value of a new form
 * @param form    how it is entered
 * @param choices what can be chosen, for {@link Form#CHOICE}
 * @param help    a sentence under the field; may be empty
 * @param rare    seldom needed: shown folded
 * @param reaches it decides where a connection goes, or as whom: secrets are kept for that alone
 * @param check   empty where the text is fine, else a sentence
 */
public record SettingField(
        String name,
        String label,
        String example,
        String initial,
        Form form,
        List<Choice> choices,
        String help,
        boolean rare,
        boolean reaches,
        Function<String, String> check) {

    /** How a setting is entered. A secret is encrypted at rest and never sent back to a page. */
    public enum Form {
        TEXT,
        SECRET,
        CHOICE,
        YES_NO,
        LINES
    }

    /** One of several values, with the words for it. */
    public record Choice(String value, String words) {}

    /** A field that may stay empty. */
    public static SettingField text(String name, String label, String example, String initial) {
        return new SettingField(name, label, example, initial, Form.TEXT, List.of(), "", false, false, text -> "");
    }

    /** A secret that may stay empty. */
    public static SettingField secret(String name, String label) {
        return new SettingField(name, label, "", "", Form.SECRET, List.of(), "", false, false, text -> "");
    }

    public static SettingField yesNo(String name, String label, boolean initial) {
        return new SettingField(
                name,
                label,
                "",
                Boolean.toString(initial),
                Form.YES_NO,
                List.of(),
                "",
                false,
                false,
                text -> text.isEmpty() || text.equals("true") || text.equals("false") ? "" : label + " is yes or no.");
    }

    /** @param valuesAndWords value, words, value, words; the first is the initial one */
    public static SettingField choice(String name, String label, String... valuesAndWords) {
        List<Choice> choices = new java.util.ArrayList<>();
        for (int i = 0; i < valuesAndWords.length; i += 2) {
            choices.add(new Choice(valuesAndWords[i], valuesAndWords[i + 1]));
        }
        return new SettingField(
                name,
                label,
                "",
                valuesAndWords[0],
                Form.CHOICE,
                List.copyOf(choices),
                "",
                false,
                false,
                text -> text.isEmpty()
                                || choices.stream()
                                        .anyMatch(choice -> choice.value().equals(text))
                        ? ""
                        : label + " is one of: "
                                + String.join(
                                        ", ",
                                        choices.stream().map(Choice::value).toList()) + ".");
    }

    public SettingField checked(Function<String, String> other) {
        return new SettingField(name, label, example, initial, form, choices, help, rare, reaches, other);
    }

    public SettingField lines() {
        return new SettingField(name, label, example, initial, Form.LINES, choices, help, rare, reaches, check);
    }

    public SettingField helped(String sentence) {
        return new SettingField(name, label, example, initial, form, choices, sentence, rare, reaches, check);
    }

    public SettingField seldom() {
        return new SettingField(name, label, example, initial, form, choices, help, true, reaches, check);
    }

    /** It decides where a connection goes, or as whom. */
    public SettingField reaching() {
        return new SettingField(name, label, example, initial, form, choices, help, rare, true, check);
    }

    public boolean isSecret() {
        return form == Form.SECRET;
    }

    /** What a value is called where it is one of several; else the value. */
    public String words(String value) {
        return switch (form) {
            case CHOICE ->
                choices.stream()
                        .filter(choice -> choice.value().equals(value))
                        .map(Choice::words)
                        .findFirst()
                        .orElse(value);
            case YES_NO -> "true".equals(value) ? "yes" : "no";
            case SECRET -> value.isEmpty() ? "none" : "kept, encrypted";
            default -> value;
        };
    }

    /** Where settings lead, and as whom, in words; empty where they lead nowhere. */
    public static String place(List<SettingField> fields, Map<String, String> values) {
        return fields.stream()
                .filter(field -> field.reaches && !field.isSecret() && field.form != Form.LINES)
                .filter(field -> !values.getOrDefault(field.name, field.initial).isBlank())
                .map(field -> field.label + " "
                        + field.words(
                                values.getOrDefault(field.name, field.initial).strip()))
                .collect(Collectors.joining(", "));
    }

    /** A problem for each setting that is not fine, by name. */
    public static Map<String, String> problems(List<SettingField> fields, Map<String, String> values) {
        Map<String, String> problems = new TreeMap<>();
        for (SettingField field : fields) {
            String problem = field.check.apply(values.getOrDefault(field.name, field.initial));
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
        return whole(1, 65535, "A port is a whole number from 1 to 65535.").apply(text);
    }

    /** A check for a whole number between two others, both allowed. */
    public static Function<String, String> whole(long least, long most, String sentence) {
        return text -> {
            try {
                long number = Long.parseLong(text.strip());
                return number >= least && number <= most ? "" : sentence;
            } catch (NumberFormatException notANumber) {
                return sentence;
            }
        };
    }

    /** A check that is passed by an empty text, too. */
    public static Function<String, String> orEmpty(Function<String, String> check) {
        return text -> text.isBlank() ? "" : check.apply(text);
    }

    /** A check for the name of a host or its address. */
    public static String host(String text) {
        if (text.isBlank()) {
            return "The name or address of the host is needed.";
        }
        return Arrays.stream(text.strip().split("\\.")).allMatch(part -> part.matches("[\\p{Alnum}_-]{1,63}"))
                        || text.strip().matches("\\[[0-9a-fA-F:.%]+]")
                ? ""
                : "This is no host name: letters, digits, dots and hyphens only.";
    }
}
