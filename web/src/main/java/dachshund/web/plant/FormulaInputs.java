package dachshund.web.plant;

import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagRef;
import dachshund.office.tag.TagFinder;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/** The inputs of a formula tag between a page and its description. */
final class FormulaInputs {

    private FormulaInputs() {}

    /** An input with the full name of its tag. */
    public record Named(String name, String key, String tag) {}

    static List<Named> named(String lines, TagFinder finder) {
        try {
            List<Named> named = new ArrayList<>();
            FormulaTag.inputs(lines)
                    .forEach((name, ref) -> named.add(new Named(
                            name,
                            ref.source() + " " + ref.address(),
                            finder.find(ref)
                                    .map(found -> found.source().name() + " / "
                                            + found.info().fullName())
                                    .orElse("a tag that is gone"))));
            return named;
        } catch (IllegalArgumentException unreadable) {
            return List.of();
        }
    }

    /** The lines of a description from the fields of a form, which come in pairs. */
    static String lines(List<String> names, List<String> keys) {
        StringBuilder lines = new StringBuilder();
        for (int i = 0; i < keys.size(); i++) {
            if (!keys.get(i).isBlank()) {
                lines.append(i < names.size() ? names.get(i).strip() : "")
                        .append('=')
                        .append(keys.get(i))
                        .append('\n');
            }
        }
        return lines.toString().strip();
    }

    /** Inputs for these tags, each with a short name made from the tag's. */
    static Map<String, TagRef> proposed(List<TagRef> tags, TagFinder finder) {
        Map<String, TagRef> inputs = new LinkedHashMap<>();
        tags.forEach(ref -> inputs.put(
                free(finder.find(ref).map(found -> found.info().name()).orElse("input"), inputs.keySet()), ref));
        return inputs;
    }

    /** A short name that is not taken: the tag's words in lower case, joined by _. */
    static String free(String tagName, Set<String> taken) {
        String base =
                tagName.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]+", "_").replaceAll("^_+|_+$", "");
        base = base.isEmpty() || Character.isDigit(base.charAt(0)) ? "v" + base : base;
        base = base.length() > 40 ? base.substring(0, 40) : base;
        String name = base;
        for (int n = 2; taken.contains(name); n++) {
            name = base + n;
        }
        return name;
    }

    /** Inputs that are kept one a line, as people read them. */
    static String words(String lines, TagFinder finder) {
        return named(lines, finder).stream()
                .map(input -> input.name() + " = " + input.tag())
                .collect(Collectors.joining("; "));
    }
}
