package dachshund.core.ledger;

import java.time.Instant;
import java.util.Map;

/**
 * A run as it goes into the ledger: what it is found by, and all of it as a document.
 *
 * @param thing    id of what was run
 * @param fired    UTC
 * @param millis   from the trigger to the end
 * @param keys     values that it is found by, by name
 * @param document all of the run as JSON
 */
public record Noted(
        String id,
        String thing,
        Instant fired,
        Run.Outcome outcome,
        long millis,
        Map<String, String> keys,
        String document) {}
