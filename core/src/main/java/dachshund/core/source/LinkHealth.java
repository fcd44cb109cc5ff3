package dachshund.core.source;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How a link does, apart from its state.
 *
 * @param roundTrip time between the last question and its answer; absent where nothing is asked
 * @param counts    what the link counts since it was opened, by words for a person, such as "requests"
 * @param remarks   sentences worth knowing, such as a topic from which nothing came
 */
public record LinkHealth(Optional<Duration> roundTrip, Map<String, Long> counts, List<String> remarks) {

    public static final LinkHealth NONE = new LinkHealth(Optional.empty(), Map.of(), List.of());
}
