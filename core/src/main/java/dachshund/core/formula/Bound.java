package dachshund.core.formula;

import dachshund.core.tag.TagRef;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.TreeMap;

/** Which tag each name of a formula is, while it is typed. */
public final class Bound {

    private Bound() {}

    /**
     * The inputs that a text uses.
     *
     * @param inputs what it had, which comes first
     * @param around what its other names may mean
     * @return what it had, where it cannot be read yet
     */
    public static Map<String, TagRef> inputs(String text, Map<String, TagRef> inputs, Map<String, TagRef> around) {
        Map<String, TagRef> known = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        known.putAll(around);
        known.putAll(inputs);
        try {
            Map<String, TagRef> used = new LinkedHashMap<>();
            Formula.read(text, known.keySet()).inputs().forEach(name -> used.put(name, known.get(name)));
            return used;
        } catch (FormulaProblem notYet) {
            return inputs;
        }
    }
}
