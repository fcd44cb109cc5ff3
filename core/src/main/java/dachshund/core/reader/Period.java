package dachshund.core.reader;

import java.time.Instant;

/** A named time, such as a shift: from its first instant to the first one behind it. */
public record Period(String name, Instant from, Instant to) {}
