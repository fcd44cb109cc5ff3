package dachshund.engine.lane;

import java.time.Instant;

/**
 * How one lane stands.
 *
 * @param sentence why, in words; empty where all is well
 * @param held     rows on disk that their destination has not taken for 5 s, or whose destination is away
 * @param onWay    younger rows on disk
 * @param lastRow  record time of the last row that landed since the start; the epoch where none has
 */
public record LaneStatus(
        String recorder,
        String destination,
        LaneState state,
        String sentence,
        Instant since,
        long held,
        long onWay,
        Instant lastRow,
        Account account) {

    /** Rows on disk that have not landed. */
    public long waiting() {
        return held + onWay;
    }
}
