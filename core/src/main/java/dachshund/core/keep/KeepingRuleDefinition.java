package dachshund.core.keep;

import dachshund.core.archive.KeptFor;
import dachshund.core.definition.Definition;

/**
 * A keeping rule: which tags have a history in the archive, how densely, and for how long.
 *
 * @param which         the tags
 * @param how           how many of their values
 * @param days          values are kept for so many days, counted by their own time; 0 for ever
 * @param summaries     then summaries of them, up to so many days; 0 for as long as the values
 */
public record KeepingRuleDefinition(
        String id, String name, String description, Selection which, Density how, int days, int summaries)
        implements Definition {

    public KeepingRuleDefinition {
        new KeptFor(days, summaries);
    }

    /** For how long it keeps, as one thing. */
    public KeptFor keptFor() {
        return new KeptFor(days, summaries);
    }
}
