package dachshund.core.destination;

import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import java.util.Optional;

/**
 * Rows that a recorder removes when they are old enough: those that it has made itself, told by their ids, as old as the record
 * time in one of their columns says.
 */
public final class RowAge {

    private RowAge() {}

    /**
     * Why rows of such a design cannot be removed by their age, in a sentence; empty where they can, or stay for good.
     *
     * @param named name of the destination where the row gives it; else empty
     */
    public static Optional<String> problem(Upkeep upkeep, Layout layout, WriteMode mode, String named) {
        if (upkeep.keepDays() == 0) {
            return Optional.empty();
        }
        if (!named.isEmpty()) {
            return Optional.of(
                    "Rows that name their destination are not removed by their age; let them stay, or let all go to one.");
        }
        if (!(mode instanceof WriteMode.Insert)) {
            return Optional.of(
                    "Only rows that are inserted can be removed by their age; let them stay, or let rows be inserted.");
        }
        if (layout.rowIdColumn().isEmpty()) {
            return Optional.of(
                    "Rows can be removed by their age only where one of their columns is the row id, which tells them from those of others. Add one, or let rows stay.");
        }
        if (layout.recordTimeColumn().isEmpty()) {
            return Optional.of(
                    "Rows can be removed by their age only where one of their columns is the record time as a time stamp. Add one, or let rows stay.");
        }
        return Optional.empty();
    }
}
