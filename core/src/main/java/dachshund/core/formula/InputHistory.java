package dachshund.core.formula;

import dachshund.core.tag.TagValue;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Objects;
import java.util.stream.Stream;

/**
 * What a formula knows of one of its inputs: the latest value, the one before the last change, when it changed, and the
 * values of the longest window that the formula looks back over. Not safe for several threads.
 */
public final class InputHistory {

    /** More values than this are not kept for one input; the oldest go first. */
    public static final int MOST = 20_000;

    private final Duration keep;
    private final Deque<TagValue> values = new ArrayDeque<>();
    private TagValue stood = TagValue.NONE;
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

    /** The newest value from before the window is kept: it stood when the window began. */
    private void forget(Instant now) {
        Instant oldest = now.minus(keep);
        while (!values.isEmpty() && (values.size() > MOST || before(values.peekFirst(), oldest))) {
            TagValue gone = values.removeFirst();
            if (before(gone, oldest)) {
                stood = gone;
            }
        }
    }

    private static boolean before(TagValue value, Instant oldest) {
        return value.receiveTime().isBefore(oldest);
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
        return arrived(window, now)
                .filter(value -> value.value().orElse(null) instanceof Number)
                .map(value -> ((Number) value.value().orElseThrow()).doubleValue())
                .toList();
    }

    /** How many values of any kind that are not bad arrived within the window before now. */
    public long count(Duration window, Instant now) {
        return arrived(window, now).count();
    }

    private Stream<TagValue> arrived(Duration window, Instant now) {
        forget(now);
        Instant oldest = now.minus(window);
        return values.stream()
                .filter(value -> !before(value, oldest)
                        && !value.quality().isBad()
                        && value.value().isPresent());
    }

    /**
     * A number that stood for a while.
     *
     * @param seconds how long within the window
     */
    public record Stood(double number, double seconds) {}

    /**
     * The numbers of the window before now with how long each stood in it, the one that stood when it began first. What is bad
     * or no number is left out, with its time.
     */
    public List<Stood> stood(Duration window, Instant now) {
        forget(now);
        Instant oldest = now.minus(window);
        List<TagValue> all = new ArrayList<>(values);
        all.add(0, stood);
        List<Stood> result = new ArrayList<>();
        for (int i = 0; i < all.size(); i++) {
            TagValue value = all.get(i);
            Instant until = i + 1 < all.size() ? all.get(i + 1).receiveTime() : now;
            if (!value.arrived() || until.isBefore(oldest) || until.equals(oldest) && i + 1 < all.size()) {
                continue;
            }
            Instant from = before(value, oldest) ? oldest : value.receiveTime();
            if (!value.quality().isBad() && value.value().orElse(null) instanceof Number number) {
                double seconds = Math.max(0, Duration.between(from, until).toNanos() / 1e9);
                result.add(new Stood(number.doubleValue(), seconds));
            }
        }
        return result;
    }
}
