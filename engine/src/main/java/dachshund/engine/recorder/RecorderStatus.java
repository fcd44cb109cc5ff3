package dachshund.engine.recorder;

import dachshund.core.definition.RecorderDefinition;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import java.time.Duration;
import java.time.Instant;
import java.util.List;

/**
 * How a live recorder stands as a whole.
 *
 * @param state    the weightiest of its lanes' states
 * @param sentence why; empty where all is well
 * @param held     rows on disk, all lanes together
 * @param setAside rows set aside so far
 * @param lateness how late the last tick was served
 */
public record RecorderStatus(
        RecorderDefinition definition,
        LaneState state,
        String sentence,
        Instant since,
        long held,
        long setAside,
        Instant lastRow,
        Duration lateness,
        List<LaneStatus> lanes) {}
