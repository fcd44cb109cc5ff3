package dachshund.core.row;

import java.time.Instant;

/**
 * A row as it will be written. The cells stand in the order of {@link dachshund.core.layout.Layout#written}; each is a
 * Boolean, Long, java.math.BigDecimal, Double, String, LocalDate, LocalTime, Instant or UUID, or null for SQL NULL. Cells are never changed.
 *
 * @param id         its identity
 * @param recordTime the scheduled instant, UTC
 * @param cells      converted values
 */
public record Row(RowId id, Instant recordTime, Object[] cells) {}
