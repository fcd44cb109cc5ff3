package dachshund.office.definition;

import java.time.Instant;
import java.util.List;

/** A release that was made: when, by whom, and what changed, in sentences. */
public record ReleaseMade(long id, Instant at, String by, List<String> summary) {}
