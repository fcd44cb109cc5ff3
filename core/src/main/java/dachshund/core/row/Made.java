package dachshund.core.row;

import java.time.Instant;
import java.util.List;

/** What a layout made of the tag values of one instant. */
public sealed interface Made {

    /** A row that fits its table. */
    record Whole(Row row) implements Made {}

    /**
     * A row that does not fit; to be kept with the reason.
     *
     * @param values the values as text in the order of the written columns, so that a person can mend them; null for no
     *               value
     * @param reason a sentence that names the column
     */
    record Refused(RowId id, Instant recordTime, List<String> values, String reason) implements Made {}

    /** The layout says that no row is written with this quality. */
    record Skipped(String reason) implements Made {}
}
