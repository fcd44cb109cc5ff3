package dachshund.engine.local;

import java.time.Instant;
import java.util.List;

/**
 * A row that does not fit or was refused.
 *
 * @param rowId      its identity when it was made
 * @param recordTime the instant that it was made for
 * @param columns    names of its written columns; empty for rows of versions that did not keep them
 * @param values     as text, in the order of the columns; null for no value
 * @param alike      the reason without what differs from row to row
 * @param sent       the identity under which it was sent again; empty where it was not
 */
public record SetAside(
        long id,
        String recorder,
        String destination,
        String rowId,
        Instant recordTime,
        List<String> columns,
        List<String> values,
        String reason,
        String alike,
        String sent,
        Instant at) {

    /** A reason without the values in it, so that those of many rows are one. */
    static String alike(String reason) {
        return reason.replaceAll("\"[^\"]*\"", "…").replaceAll("-?\\d+([.,:T+-]\\d+)*Z?", "…");
    }
}
