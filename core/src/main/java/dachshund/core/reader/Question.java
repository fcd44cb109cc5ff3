package dachshund.core.reader;

import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * Which rows of a table are wanted.
 *
 * @param columns     names; empty for all of them
 * @param within      empty for all times
 * @param where       empty for all rows of these times
 * @param order       the column by which they are ordered; empty for the order in which the database gives them
 * @param newestFirst whether the largest comes first
 * @param skip        so many are passed over at first
 * @param most        no more than these
 */
public record Question(
        TableName table,
        List<String> columns,
        Optional<Within> within,
        Optional<Where> where,
        Optional<String> order,
        boolean newestFirst,
        long skip,
        long most) {

    /** A half-open time: what is at its end is not in it. */
    public record Within(TimeColumn time, Instant from, Instant to) {}

    /** Rows whose cell in a column is this, letter for letter, as {@link dachshund.core.row.Conversion#plain} writes it. */
    public record Where(String column, String text) {}

    /** Everything, in no order. */
    public static Question all(TableName table) {
        return new Question(
                table, List.of(), Optional.empty(), Optional.empty(), Optional.empty(), false, 0, Long.MAX_VALUE);
    }

    public Question of(List<String> others) {
        return new Question(table, others, within, where, order, newestFirst, skip, most);
    }

    public Question within(TimeColumn time, Instant from, Instant to) {
        return new Question(
                table, columns, Optional.of(new Within(time, from, to)), where, order, newestFirst, skip, most);
    }

    public Question where(String column, String text) {
        return new Question(
                table, columns, within, Optional.of(new Where(column, text)), order, newestFirst, skip, most);
    }

    public Question by(String column, boolean largestFirst) {
        return new Question(table, columns, within, where, Optional.of(column), largestFirst, skip, most);
    }

    public Question part(long from, long rows) {
        return new Question(table, columns, within, where, order, newestFirst, from, rows);
    }
}
