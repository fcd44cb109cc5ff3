package dachshund.engine.formula;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.FormulaTag;
import dachshund.core.formula.InputHistory;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.tag.TagTable;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/** One formula tag at work. Belongs to the {@link FormulaNet}, which lets one thread in at a time. */
final class RunningFormula {

    private static final long BAD_CONFIGURATION = 0x80890000L;

    private final TagRef output;
    private final TagInfo tag;
    private final PlantClock clock;
    private final Runnable computed;
    private final Map<TagRef, InputHistory> byTag = new HashMap<>();
    private final Map<String, InputHistory> byName = new HashMap<>();
    private final Optional<Formula> formula;
    private final String problem;
    private TagValue last = TagValue.NONE;

    /** @param computed told of each result */
    RunningFormula(TagRef output, TagInfo tag, PlantClock clock, Runnable computed) {
        this.output = output;
        this.tag = tag;
        this.clock = clock;
        this.computed = computed;
        Formula read = null;
        String trouble = "";
        try {
            FormulaTag description = FormulaTag.of(tag);
            Formula parsed = description.formula();
            read = parsed;
            for (Map.Entry<String, TagRef> input : description.inputs().entrySet()) {
                InputHistory history =
                        byTag.computeIfAbsent(input.getValue(), each -> new InputHistory(parsed.longestWindow()));
                byName.put(input.getKey(), history);
            }
        } catch (FormulaProblem | RuntimeException cannotBeRead) {
            trouble = String.valueOf(cannotBeRead.getMessage());
        }
        this.formula = Optional.ofNullable(read);
        this.problem = trouble;
    }

    TagInfo tag() {
        return tag;
    }

    TagRef output() {
        return output;
    }

    Collection<TagRef> inputs() {
        return byTag.keySet();
    }

    /** Takes the values that its inputs have now. */
    void begin(TagTable table) {
        Instant now = clock.now();
        byTag.forEach((input, history) -> {
            TagValue value = table.entry(input).value();
            if (value.arrived()) {
                history.take(value, now);
            }
        });
    }

    void take(TaggedValue change) {
        InputHistory history = byTag.get(change.tag());
        if (history != null) {
            history.take(change.value(), clock.now());
        }
    }

    /** Time has passed: another result, where it depends on time. */
    Optional<TaggedValue> tick() {
        if (!formula.map(Formula::timed).orElse(false)) {
            return Optional.empty();
        }
        TagValue before = last;
        TagValue next = value();
        if (next.value().equals(before.value()) && next.quality().equals(before.quality())) {
            return Optional.empty();
        }
        return Optional.of(told(next));
    }

    TaggedValue compute() {
        return told(value());
    }

    private TaggedValue told(TagValue value) {
        last = value;
        computed.run();
        return new TaggedValue(output, value);
    }

    /** Whatever computing throws is a bad value with its reason. */
    TagValue value() {
        Instant now = clock.now();
        return formula.map(each -> each.evaluate(byName, tag.kind(), now))
                .orElseGet(() -> new TagValue(Optional.empty(), Quality.bad(BAD_CONFIGURATION, problem), now, now));
    }
}
