package dachshund.core.shift;

import java.time.LocalDate;

/** A day on which no shift begins. */
public record Holiday(LocalDate date, String name) {}
