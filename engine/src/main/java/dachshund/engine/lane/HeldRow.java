package dachshund.engine.lane;

import dachshund.core.row.Row;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.RowCodec;
import java.util.Optional;
import java.util.function.LongFunction;

/**
 * A row that a lane holds, as it was made.
 *
 * @param nth     its running number in the lane
 * @param design  under which it was made; empty where that or the row itself cannot be read
 * @param row     empty where it cannot be read
 * @param problem why it cannot be read; empty where it can
 */
public record HeldRow(long nth, Optional<LaneDesign> design, String place, Optional<Row> row, String problem) {

    static HeldRow read(Journal.Entry entry, LongFunction<Optional<LaneDesign>> designs) {
        try {
            RowCodec.Decoded decoded = RowCodec.read(entry);
            Optional<LaneDesign> design = designs.apply(decoded.design());
            return new HeldRow(
                    entry.nth(),
                    design,
                    decoded.place(),
                    Optional.of(decoded.row()),
                    design.isEmpty() ? "The design under which it was made cannot be read." : "");
        } catch (RowCodec.Unreadable strange) {
            return new HeldRow(entry.nth(), Optional.empty(), "", Optional.empty(), strange.getMessage());
        }
    }
}
