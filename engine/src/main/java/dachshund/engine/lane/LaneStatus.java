package dachshund.engine.lane;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * How one lane stands.
 *
 * @param sentence why, in words; empty where all is well
 * @param since    record time of the oldest row that waits, as of the last second; where none is known, since when it is so
 * @param held     rows on disk that their destination has not taken for 5 s, or whose destination is away
 * @param onWay    younger rows on disk
 * @param shrinks  by how many rows a second fewer wait, as of the last seconds; below zero where they become more
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
        double shrinks,
        Instant lastRow,
        Account account) {

    /** In how long nothing waits any more, at the pace of the last seconds; empty where that leads nowhere. */
    public Optional<Duration> emptyIn() {
        return shrinks <= 0
                ? Optional.empty()
                : Optional.of(Duration.ofSeconds(Math.max(1, Math.round(Math.min(1e9, waiting() / shrinks)))));
    }

    /** Rows on disk that have not landed. */
    public long waiting() {
        return held + onWay;
    }
}
