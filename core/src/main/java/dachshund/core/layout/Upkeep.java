package dachshund.core.layout;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * What a recorder may do to a table; nothing by default where the table exists. Nothing is ever dropped or narrowed, and no row
 * of anybody else is ever touched.
 *
 * @param keepDays    rows that the recorder has made are removed when they are so many days of 24 hours old; 0 where they stay
 * @param afterOthers whether they are removed only while every other place of the recorder has all its rows
 */
public record Upkeep(
        boolean mayMake,
        boolean mayAddColumns,
        @JsonInclude(JsonInclude.Include.NON_DEFAULT) int keepDays,
        @JsonInclude(JsonInclude.Include.NON_DEFAULT) boolean afterOthers) {

    public static final Upkeep NONE = new Upkeep(false, false);

    /** A hundred years. */
    public static final int MOST_DAYS = 36_500;

    public Upkeep {
        if (keepDays < 0 || keepDays > MOST_DAYS) {
            throw new IllegalArgumentException("Rows are kept for 1 to " + MOST_DAYS + " days, or for good.");
        }
    }

    /** All rows stay. */
    public Upkeep(boolean mayMake, boolean mayAddColumns) {
        this(mayMake, mayAddColumns, 0, false);
    }

    /** How long rows are kept, in words; empty where they stay. */
    public String age() {
        return keepDays == 0
                ? ""
                : "removes its rows after " + keepDays + (keepDays == 1 ? " day" : " days")
                        + (afterOthers ? ", while every other place has all of its rows" : "");
    }
}
