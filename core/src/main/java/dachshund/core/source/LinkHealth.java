package dachshund.core.source;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a link does, apart from its state.
 *
 * @param roundTrip time between the last question and its answer; absent where nothing is asked
 * @param counts    what the link counts since it was opened, by words for a person, such as "requests"
 * @param remarks   sentences worth knowing, such as a topic from which nothing came
 * @param latest    what arrived last, newest first, for a source whose offers show as they arrive; empty for others
 */
public record LinkHealth(
        Optional<Duration> roundTrip, Map<String, Long> counts, List<String> remarks, List<Latest> latest) {

    /** Something that arrived: where, what it said, how often something came from there, and when. */
    public record Latest(String where, String text, long count, Instant at) {}

    /** How a link does that asks, and so has nothing that arrives by itself. */
    public LinkHealth(Optional<Duration> roundTrip, Map<String, Long> counts, List<String> remarks) {
        this(roundTrip, counts, remarks, List.of());
    }

    public static final LinkHealth NONE = new LinkHealth(Optional.empty(), Map.of(), List.of());
}
