package dachshund.core.shift;

import java.time.Instant;
import java.time.LocalDate;

/**
 * One shift on one day.
 *
 * @param date the day to which it belongs
 * @param from its first instant
 * @param to   the first instant after it
 */
public record Worked(String shift, LocalDate date, Instant from, Instant to) {}
