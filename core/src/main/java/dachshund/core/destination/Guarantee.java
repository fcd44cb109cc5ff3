package dachshund.core.destination;

import dachshund.core.layout.Layout;
import java.util.List;
import java.util.Optional;

/** What can be promised about how often a row lands, and why. */
public record Guarantee(boolean exactlyOnce, String sentence) {

    /** Of rows in a file. */
    public static Guarantee ofFile() {
        return new Guarantee(
                true,
                "Exactly once, as long as rows differ (a record time or row id does it): after a broken write the end of the file is compared with the rows to come.");
    }

    /**
     * @param mode  how rows are written
     * @param mark  whether the recorder keeps a delivery mark in the destination's database
     * @param found the table as it is now, empty where it is still to be made
     */
    public static Guarantee of(Layout layout, WriteMode mode, boolean mark, Optional<TableDescription> found) {
        if (mode.needsKey()) {
            return new Guarantee(
                    true,
                    "As good as exactly once: a row that is sent again after a lost connection finds its own key and writes the same values.");
        }
        if (mode instanceof WriteMode.Call) {
            return mark
                    ? new Guarantee(
                            true,
                            "Exactly once, by a delivery mark that is moved in the same transaction as the call, unless the procedure commits by itself.")
                    : new Guarantee(
                            false,
                            "At least once, because no delivery mark is kept: if the connection breaks during a commit, the procedure may be called twice with the same row.");
        }
        if (found.isPresent() && !found.get().transactional()) {
            return new Guarantee(
                    false,
                    "At least once, because the table's engine has no transactions: after a lost connection a batch may be there in part and is sent again.");
        }
        if (layout.rowIdColumn().isPresent()) {
            String column = layout.rowIdColumn().get().name();
            boolean unique = found.isEmpty()
                    || found.get().column(column).isEmpty()
                    || found.get().hasUnique(List.of(column));
            if (unique) {
                return new Guarantee(true, "Exactly once, by the row id in column " + column + ".");
            }
            return new Guarantee(
                    true,
                    "Exactly once, by the row id in column " + column
                            + "; it has no unique key in this table, so a row is looked up after each lost connection.");
        }
        if (mark) {
            return new Guarantee(
                    true, "Exactly once, by a delivery mark that is moved in the same transaction as the rows.");
        }
        return new Guarantee(
                false,
                "At least once, because the layout has no row id and no delivery mark is kept: if the connection breaks during a commit, that batch may be written twice.");
    }
}
