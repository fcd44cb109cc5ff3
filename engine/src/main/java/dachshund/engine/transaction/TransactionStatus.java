package dachshund.engine.transaction;

import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.lane.LaneState;
import dachshund.engine.local.Intents;
import java.time.Instant;
import java.util.List;

/**
 * How a live transaction stands.
 *
 * @param sentence  why, in words; empty where all is well
 * @param waiting   triggers that wait
 * @param running   runs under way
 * @param lastRun   trigger of the last run since the start; the epoch where there was none
 * @param uncertain requests of which a person has to say whether they are done
 * @param rest      what runs have left to do after their commits
 */
public record TransactionStatus(
        TransactionDefinition design,
        LaneState state,
        String sentence,
        int waiting,
        int running,
        Instant lastRun,
        List<Intents.Intent> uncertain,
        List<Leftovers.Rest> rest) {}
