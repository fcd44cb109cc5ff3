package dachshund.engine.lane;

import java.time.Instant;

/**
 * How one lane stands.
 *
 * @param sentence why, in words; empty where all is well
 * @param held     rows on disk that have not landed
 * @param lastRow  record time of the last row that landed since the start; the epoch where none has
 */
public record LaneStatus(
        String recorder,
        String destination,
        LaneState state,
        String sentence,
        Instant since,
        long held,
        Instant lastRow) {}
