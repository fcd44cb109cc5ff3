package dachshund.core.destination;

import java.util.List;

/**
 * What trying one row showed.
 *
 * @param worked   whether the database took the row
 * @param sentence what was done, or the database's own complaint
 * @param columns  names, in the order of the cells
 * @param cells    the row as the database holds it, as text; empty for NULL
 * @param caveats  what could not be rolled back, or what this try could not show
 */
public record TryOutcome(
        boolean worked, String sentence, List<String> columns, List<String> cells, List<String> caveats) {

    public static TryOutcome failed(String sentence) {
        return new TryOutcome(false, sentence, List.of(), List.of(), List.of());
    }
}
