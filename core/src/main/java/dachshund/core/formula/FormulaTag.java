package dachshund.core.formula;

import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * The description of a formula tag: a formula, and which tag each of its inputs is. Inputs are kept one a line,
 * {@code name=source address}.
 */
public record FormulaTag(String text, Map<String, TagRef> inputs) {

    public static final String LINK = "formula";
    public static final String FORMULA = "formula";
    public static final String INPUTS = "inputs";

    /** @throws IllegalArgumentException with a sentence, where the inputs cannot be read */
    public static FormulaTag of(TagInfo tag) {
        return new FormulaTag(
                tag.how().getOrDefault(FORMULA, ""), inputs(tag.how().getOrDefault(INPUTS, "")));
    }

    /** @throws IllegalArgumentException with a sentence */
    public static Map<String, TagRef> inputs(String lines) {
        Map<String, TagRef> inputs = new LinkedHashMap<>();
        for (String line :
                lines.lines().map(String::strip).filter(line -> !line.isEmpty()).toList()) {
            int equals = line.indexOf('=');
            int space = line.indexOf(' ', equals + 1);
            if (equals < 1 || space < 0) {
                throw new IllegalArgumentException("An input is written name=source address; this is: " + line);
            }
            String name = line.substring(0, equals).strip();
            if (!name.matches("[A-Za-z_][A-Za-z0-9_]{0,59}")) {
                throw new IllegalArgumentException(
                        "The name of an input begins with a letter and has letters, digits and _; this is: " + name);
            }
            if (inputs.keySet().stream().anyMatch(name::equalsIgnoreCase)) {
                throw new IllegalArgumentException("There are two inputs named " + name + ".");
            }
            inputs.put(
                    name,
                    new TagRef(
                            line.substring(equals + 1, space).strip(),
                            line.substring(space + 1).strip()));
        }
        return inputs;
    }

    public static String lines(Map<String, TagRef> inputs) {
        return inputs.entrySet().stream()
                .map(input -> input.getKey() + "=" + input.getValue().source() + " "
                        + input.getValue().address())
                .collect(Collectors.joining("\n"));
    }

    /** @throws FormulaProblem where the formula cannot be read with these inputs */
    public Formula formula() throws FormulaProblem {
        return Formula.read(text, inputs.keySet());
    }

    /**
     * A sentence that names a circle of formula tags, each an input of the next; empty where there is none.
     *
     * @param tags all formula tags
     */
    public static Optional<String> circle(Map<TagRef, TagInfo> tags) {
        Set<TagRef> clear = new LinkedHashSet<>();
        Map<TagRef, Deque<TagRef>> open = new HashMap<>();
        for (TagRef start : tags.keySet()) {
            List<TagRef> path = new ArrayList<>();
            Deque<TagRef> stack = new ArrayDeque<>(List.of(start));
            while (!stack.isEmpty()) {
                TagRef tag = stack.peek();
                if (clear.contains(tag)) {
                    stack.pop();
                    continue;
                }
                if (open.containsKey(tag)) {
                    if (open.get(tag).isEmpty()) {
                        clear.add(tag);
                        open.remove(tag);
                        path.remove(tag);
                        stack.pop();
                    } else {
                        TagRef next = open.get(tag).pop();
                        if (open.containsKey(next)) {
                            List<TagRef> circle = path.subList(path.indexOf(next), path.size());
                            return Optional.of("These formula tags go round in a circle: "
                                    + circle.stream()
                                            .map(each -> tags.get(each).fullName())
                                            .collect(Collectors.joining(", then "))
                                    + ", and back.");
                        }
                        stack.push(next);
                    }
                    continue;
                }
                path.add(tag);
                open.put(
                        tag,
                        new ArrayDeque<>(of(tags.get(tag)).inputs().values().stream()
                                .filter(tags::containsKey)
                                .toList()));
            }
        }
        return Optional.empty();
    }
}
