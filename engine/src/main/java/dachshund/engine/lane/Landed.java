package dachshund.engine.lane;

import java.time.Instant;
import java.util.List;
import java.util.Map;

/**
 * Rows of one recorder that have landed in one place, one after the other.
 *
 * @param id       tells it from all others of any installation; the same where it is told of a second time
 * @param recorder its id
 * @param name     of the recorder, as the rows' design has it
 * @param into     the place and the destination, in words
 * @param begun    when the first of them had landed, UTC
 * @param ended    when the last of them had
 * @param first    the earliest record time among them
 * @param last     the latest
 * @param keys     values of the columns that its design declares, by column, in the order in which they came
 */
public record Landed(
        String id,
        String recorder,
        String name,
        String into,
        long rows,
        Instant begun,
        Instant ended,
        Instant first,
        Instant last,
        Map<String, List<String>> keys) {

    public Landed {
        keys = Map.copyOf(keys);
    }
}
