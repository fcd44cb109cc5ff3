package dachshund.core.formula;

import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Objects;

/**
 * What a formula knows of one of its inputs: the latest value, the one before the last change, when it changed, and the
 * values of the longest window that the formula looks back over. Not safe for several threads.
 */
public final class InputHistory {

    /** More values than this are not kept for one input; the oldest go first. */
    public static final int MOST = 20_000;

    private final Duration keep;
    private final Deque<TagValue> values = new ArrayDeque<>();
    private TagValue latest = TagValue.NONE;
    private TagValue previous = TagValue.NONE;
    private Instant changedAt = Instant.EPOCH;

    /** @param keep how far back values are kept; zero for none */
    public InputHistory(Duration keep) {
        this.keep = keep;
    }

    public void take(TagValue next, Instant now) {
        boolean changed = !Objects.equals(next.value(), latest.value());
        if (changed && latest.value().isPresent()) {
            previous = latest;
        }
        if (changed || changedAt.equals(Instant.EPOCH)) {
            changedAt = next.receiveTime();
        }
        latest = next;
        if (!keep.isZero()) {
            values.addLast(next);
            forget(now);
        }
    }

    private void forget(Instant now) {
        Instant oldest = now.minus(keep);
        while (!values.isEmpty()
                && (values.size() > MOST || values.peekFirst().receiveTime().isBefore(oldest))) {
            values.removeFirst();
        }
    }

    public TagValue latest() {
        return latest;
    }

    /** The value before the last change; {@link TagValue#NONE} where it did not change yet. */
    public TagValue previous() {
        return previous;
    }

    /** When the value last became another one, by the clock of this machine. */
    public Instant changedAt() {
        return changedAt;
    }

    /** The numbers that are not bad and arrived within the window before now. */
    public List<Double> window(Duration window, Instant now) {
        forget(now);
        Instant oldest = now.minus(window);
        List<Double> numbers = new ArrayList<>();
        for (TagValue value : values) {
            if (!value.receiveTime().isBefore(oldest)
                    && !value.quality().isBad()
                    && value.value().orElse(null) instanceof Number number) {
                numbers.add(number.doubleValue());
            }
        }
        return numbers;
    }
}
