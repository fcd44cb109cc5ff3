package dachshund.core.reader;

import java.util.OptionalLong;

/**
 * A table or view that an account may read.
 *
 * @param view whether it is a view
 * @param rows about how many rows it has, as the database estimates; empty where it does not
 */
public record FoundTable(TableName name, boolean view, OptionalLong rows) {}
