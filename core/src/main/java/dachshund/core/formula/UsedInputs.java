package dachshund.core.formula;

import dachshund.core.tag.Quality;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.Map;
import java.util.TreeMap;

/** The inputs of one evaluation, with note of which were used: the result's quality and time follow from them. */
final class UsedInputs {

    /** An input that is needed has no value. */
    static final class NoValue extends RuntimeException {
        private final transient Quality quality;

        NoValue(String name, Quality of) {
            super("the input " + name + " has no value", null, false, false);
            this.quality = new Quality(
                    Quality.Grade.BAD,
                    of.code(),
                    "input " + name + ": " + (of.words().isEmpty() ? "no value" : of.words()));
        }

        Quality quality() {
            return quality;
        }
    }

    private final Map<String, InputHistory> known = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Instant now;
    private Quality worst = Quality.GOOD;
    private Instant newest = Instant.EPOCH;

    UsedInputs(Map<String, InputHistory> known, Instant now) {
        this.known.putAll(known);
        this.now = now;
    }

    Instant now() {
        return now;
    }

    InputHistory history(String name) {
        InputHistory history = known.get(name);
        if (history == null) {
            throw new NoValue(name, Quality.WAITING);
        }
        return history;
    }

    /** The latest value of an input, which counts for the result's quality and time. */
    Object value(String name) {
        TagValue latest = history(name).latest();
        use(name, latest);
        return latest.value().orElseThrow(() -> new NoValue(name, latest.quality()));
    }

    /** Notes that the result depends on the input as it stands. */
    void use(String name, TagValue value) {
        if (value.quality().grade().compareTo(worst.grade()) > 0) {
            worst = new Quality(
                    value.quality().grade(),
                    value.quality().code(),
                    "input " + name
                            + (value.quality().words().isEmpty()
                                    ? ""
                                    : ": " + value.quality().words()));
        }
        if (value.sourceTime().isAfter(newest)) {
            newest = value.sourceTime();
        }
    }

    Quality worst() {
        return worst;
    }

    /** Source time of the newest input used; now where none was. */
    Instant newest() {
        return newest.equals(Instant.EPOCH) ? now : newest;
    }
}
