package dachshund.core.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/** Differences of a thing, collected as sentences. */
public final class Sentences {

    private final List<String> all = new ArrayList<>();

    public void add(String sentence) {
        all.add(sentence);
    }

    public void addAll(List<String> sentences) {
        all.addAll(sentences);
    }

    /** "Rate from 10 s to 5 s.", where they differ. */
    public void compare(String what, String was, String is) {
        if (!was.equals(is)) {
            all.add(what + " from " + (was.isEmpty() ? "nothing" : was) + " to " + (is.isEmpty() ? "nothing" : is)
                    + ".");
        }
    }

    /** Settings one by one; of secrets only that they are others. */
    public void settings(Map<String, String> was, Map<String, String> is) {
        Set<String> names = new TreeSet<>(was.keySet());
        names.addAll(is.keySet());
        for (String name : names) {
            String a = was.getOrDefault(name, "");
            String b = is.getOrDefault(name, "");
            if (a.startsWith("sealed:") || b.startsWith("sealed:")) {
                if (!a.equals(b)) {
                    add("Another " + name + ".");
                }
            } else {
                compare(Character.toUpperCase(name.charAt(0)) + name.substring(1), a, b);
            }
        }
    }

    /** "1 tag", "2 tags". */
    public static String count(long n, String word) {
        return n + " " + word + (n == 1 ? "" : "s");
    }

    public List<String> all() {
        return List.copyOf(all);
    }
}
