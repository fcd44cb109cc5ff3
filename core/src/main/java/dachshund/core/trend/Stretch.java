package dachshund.core.trend;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * A time with a name.
 *
 * @param to exclusive
 */
public record Stretch(Instant from, Instant to, String name) {

    /** Something that has a name from a time on, until the next one; without one where nothing is known. */
    public record Change(Instant at, Optional<String> name) {}

    /**
     * What lies in a window, one behind the other, neighbours of one name as one.
     *
     * @param changes in the order of their times; the last one before the window among them
     * @param until   so far the last one holds
     */
    public static List<Stretch> of(List<Change> changes, Instant from, Instant until) {
        List<Stretch> found = new ArrayList<>();
        for (int i = 0; i < changes.size(); i++) {
            Change change = changes.get(i);
            Instant begin = change.at().isBefore(from) ? from : change.at();
            Instant end = i + 1 < changes.size() ? changes.get(i + 1).at() : until;
            end = end.isAfter(until) ? until : end;
            if (change.name().isEmpty() || !begin.isBefore(end)) {
                continue;
            }
            Stretch last = found.isEmpty() ? null : found.get(found.size() - 1);
            if (last != null
                    && last.to().equals(begin)
                    && last.name().equals(change.name().get())) {
                found.set(found.size() - 1, new Stretch(last.from(), end, last.name()));
            } else {
                found.add(new Stretch(begin, end, change.name().get()));
            }
        }
        return found;
    }
}
