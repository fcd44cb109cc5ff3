package dachshund.engine.destination;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.TableKeeping;
import dachshund.engine.lane.Lane;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.local.LocalStore;
import java.util.List;
import java.util.Optional;

/** The tables of destinations that are at work, for {@link OldRows}. */
public record RowsAtWork(Destinations destinations, LocalStore local) implements OldRows.Tables {

    @Override
    public Optional<RowReading> reading(String destination) {
        return destinations.reading(destination);
    }

    @Override
    public Optional<TableKeeping> keeping(String destination, String database) {
        return destinations.keeping(destination, database);
    }

    @Override
    public List<String> places(String recorder, String destination) {
        return local.places().ofLane(Lane.name(recorder, destination));
    }

    @Override
    public long missing(String recorder, String destination) {
        long held = destinations
                .writer(destination)
                .flatMap(writer -> writer.status(recorder))
                .map(LaneStatus::held)
                .orElse(0L);
        long aside = local.aside().groups().stream()
                .filter(group ->
                        group.recorder().equals(recorder) && group.destination().equals(destination))
                .mapToLong(group -> group.rows())
                .sum();
        return held + aside;
    }

    @Override
    public String name(String destination) {
        return destinations.name(destination);
    }
}
