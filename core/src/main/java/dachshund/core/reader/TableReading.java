package dachshund.core.reader;

import dachshund.core.destination.StoreProblem;
import dachshund.core.source.LinkTest;
import java.time.Duration;
import java.util.List;
import java.util.Optional;

/**
 * Reads any table or view that an account may see, whether a recorder writes there or not: over connections of its own, in
 * transactions that cannot write, within limits of time, and row by row, so that a table may have any length. All methods may be
 * called from any thread.
 */
public interface TableReading extends AutoCloseable {

    /** For what a page shows, which somebody waits for. */
    Duration PAGE = Duration.ofSeconds(10);

    /** For every row of a table. */
    Duration WHOLE = Duration.ofHours(1);

    /** Connects, and says who answered. */
    LinkTest test(Duration limit);

    /** Tables and views by schema and name, those of the database itself left out. */
    List<FoundTable> tables() throws StoreProblem;

    /** Empty where there is none of that name, or the account may not see it. */
    Optional<TableShape> describe(TableName table) throws StoreProblem;

    /**
     * Hands rows to the taker.
     *
     * @param limit how long it may take, at the pace of the taker
     * @throws StoreProblem also where the table or a column is not there, or it took too long
     */
    Read read(Question question, Duration limit, Taker taker) throws StoreProblem;

    /**
     * Hands over the rows that a query gives.
     *
     * @param values for its question marks: String, BigDecimal, LocalDate, Instant or Boolean
     * @param limit  how long it may take, at the pace of the taker
     * @param most   no more rows than these
     * @return how many rows the taker was given
     * @throws StoreProblem in the engine's own words, where it refuses the query
     * @throws QueryProblem the same, where the place in the query is known
     */
    long ask(QueryText query, List<Object> values, Duration limit, long most, Taker taker)
            throws StoreProblem, QueryProblem;

    /**
     * What came of a question.
     *
     * @param rows     that the taker was given
     * @param timeless that were left out, since nobody could tell whether their time is within the one that was asked for
     */
    record Read(long rows, long timeless) {}

    /** What the account may do beside reading, in a sentence; empty where nothing is known of it. */
    Optional<String> mayWrite() throws StoreProblem;

    @Override
    void close();

    /** Takes rows one at a time. */
    interface Taker {

        /** The columns of the rows that follow; once, before the first, and where there is none, too. */
        void columns(List<TableShape.Column> columns);

        /** Told before it may take long: how it is broken off, from any thread. */
        default void running(Runnable breakOff) {}

        /**
         * @param cells as Boolean, Long, Double, BigDecimal, BigInteger, String, LocalDate, LocalTime or Instant, null for NULL;
         *     bytes as text in hexadecimal digits; what the driver cannot make any of these of is the database's own text
         * @return whether more are wanted
         */
        boolean row(List<Object> cells);
    }
}
