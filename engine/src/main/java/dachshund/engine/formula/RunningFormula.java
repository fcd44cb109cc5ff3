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
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;

/**
 * One formula tag at work. Its lock is held while it computes and delivers; formulas that use each other's results lock
 * in the order of the data, which has no circles (checked when they are designed).
 */
final class RunningFormula implements TagTable.Watcher {

    private final TagInfo tag;
    private final TagTable table;
    private final PlantClock clock;
    private final Consumer<TagValue> deliver;
    private final Map<TagRef, InputHistory> byTag = new HashMap<>();
    private final Map<String, InputHistory> byName = new HashMap<>();
    private final Optional<Formula> formula;
    private final String problem;
    private TagValue last = TagValue.NONE;

    RunningFormula(TagInfo tag, TagTable table, PlantClock clock, Consumer<TagValue> deliver) {
        this.tag = tag;
        this.table = table;
        this.clock = clock;
        this.deliver = deliver;
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
        } catch (FormulaProblem | IllegalArgumentException cannotBeRead) {
            trouble = cannotBeRead.getMessage();
        }
        this.formula = Optional.ofNullable(read);
        this.problem = trouble;
    }

    TagInfo tag() {
        return tag;
    }

    private Collection<TagRef> inputs() {
        return byTag.keySet();
    }

    void begin() {
        table.watch(inputs(), this);
        synchronized (this) {
            Instant now = clock.now();
            byTag.forEach((input, history) -> {
                TagValue value = table.entry(input).value();
                if (value.arrived()) {
                    history.take(value, now);
                }
            });
            tell(compute());
        }
    }

    @Override
    public synchronized void changed(List<TaggedValue> changes) {
        Instant now = clock.now();
        for (TaggedValue change : changes) {
            byTag.get(change.tag()).take(change.value(), now);
        }
        tell(compute());
    }

    /** Time has passed: a result that depends on time is computed anew. */
    synchronized void tick() {
        if (formula.map(Formula::timed).orElse(false)) {
            TagValue next = compute();
            if (!next.value().equals(last.value()) || !next.quality().equals(last.quality())) {
                tell(next);
            }
        }
    }

    private void tell(TagValue value) {
        last = value;
        deliver.accept(value);
    }

    synchronized TagValue compute() {
        Instant now = clock.now();
        return formula.map(each -> each.evaluate(byName, tag.kind(), now))
                .orElseGet(() -> new TagValue(Optional.empty(), Quality.bad(0x80890000L, problem), now, now));
    }

    void close() {
        table.unwatch(inputs(), this);
    }
}
