package dachshund.core.when;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.tag.TagRef;
import java.util.Map;

/**
 * A formula that is true or false.
 *
 * @param inputs which tag each of its names is
 */
public record Condition(String text, Map<String, TagRef> inputs) {

    public Condition {
        inputs = Map.copyOf(inputs);
    }

    public Formula formula() throws FormulaProblem {
        return Formula.read(text, inputs.keySet());
    }
}
