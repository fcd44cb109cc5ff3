package dachshund.core.keep;

import dachshund.core.definition.Definition;

/**
 * A keeping rule: which tags have a history in the archive, how densely, and for how long.
 *
 * @param which         the tags
 * @param how           how many of their values
 * @param days          values are kept for so many days, counted by their own time; 0 for ever
 */
public record KeepingRuleDefinition(String id, String name, String description, Selection which, Density how, int days)
        implements Definition {

    private static final int LONGEST = 36_525;

    public KeepingRuleDefinition {
        if (days < 0 || days > LONGEST) {
            throw new IllegalArgumentException("Values are kept for 1 to " + LONGEST + " days, or for ever.");
        }
    }

    /** "30 days", "ever". */
    public static String forWords(int days) {
        return days == 0 ? "ever" : days + (days == 1 ? " day" : " days");
    }
}
