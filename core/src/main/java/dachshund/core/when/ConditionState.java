package dachshund.core.when;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.InputHistory;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What a condition is worth, kept up to date with its inputs. Unknown while an input that it uses is bad. */
final class ConditionState {

    /** How often a condition that depends on time alone is looked at again. */
    static final Duration LOOK = Duration.ofSeconds(1);

    private final Map<TagRef, InputHistory> byTag = new HashMap<>();
    private final Map<String, InputHistory> byName = new HashMap<>();
    private final Optional<Formula> formula;

    ConditionState(Condition condition) {
        Optional<Formula> read;
        try {
            read = Optional.of(condition.formula());
        } catch (FormulaProblem problem) {
            read = Optional.empty();
        }
        this.formula = read;
        Duration window = read.map(Formula::longestWindow).orElse(Duration.ZERO);
        condition
                .inputs()
                .forEach((name, tag) -> byName.put(name, byTag.computeIfAbsent(tag, each -> new InputHistory(window))));
    }

    Collection<TagRef> tags() {
        return byTag.keySet();
    }

    boolean timed() {
        return formula.map(Formula::timed).orElse(false);
    }

    /** Takes what is its own of the changes; false where nothing was. */
    boolean take(List<TaggedValue> changes, Instant now) {
        boolean any = false;
        for (TaggedValue change : changes) {
            any |= byTag.containsKey(change.tag());
            take(change.tag(), change.value(), now);
        }
        return any;
    }

    void take(TagRef tag, TagValue value, Instant now) {
        InputHistory history = byTag.get(tag);
        if (history != null) {
            history.take(value, now);
        }
    }

    /** Empty while it is unknown. */
    Optional<Boolean> value(Instant now) {
        if (formula.isEmpty()) {
            return Optional.empty();
        }
        TagValue result = formula.get().evaluate(byName, DataKind.BOOLEAN, now);
        return result.quality().isBad() ? Optional.empty() : result.value().map(Boolean.class::cast);
    }
}
