package dachshund.core.layout;

/** Two permissions on a table; neither by default for a table that exists. Nothing is ever dropped or narrowed. */
public record Upkeep(boolean mayMake, boolean mayAddColumns) {

    public static final Upkeep NONE = new Upkeep(false, false);
}
