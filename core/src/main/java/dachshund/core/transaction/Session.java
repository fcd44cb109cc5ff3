package dachshund.core.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.util.List;
import java.util.Optional;

/**
 * One transaction of one database, on a connection of its own. Nothing of it is there before {@link #commit}; closed without it,
 * nothing ever is. Of one thread, but for {@link #breakOff}.
 */
public interface Session extends AutoCloseable {

    /**
     * What is told of a request that was done.
     *
     * @param code the answer's code
     * @param text the answer's text
     * @param todo what was to follow the commit and is not known to be done; empty where nothing is left
     */
    record Told(long code, String text, String todo) {}

    /**
     * The first thing of all: says that this request is being done. Somebody else who does the same one is waited for.
     *
     * @return false where it was done before; nothing can be done here then
     */
    boolean claim(String transaction, String request) throws StoreProblem;

    /** The last thing: with what a request that was claimed here is answered. */
    void tell(String transaction, String request, Told told) throws StoreProblem;

    /** Leaves a line beside the marks, in this transaction; one that was left under the same name is gone. */
    void leave(String transaction, String name, String line) throws StoreProblem;

    /** The line that was left beside the marks. */
    Optional<String> left(String transaction, String name) throws StoreProblem;

    /**
     * Rows that a query gives, seen as this transaction sees them.
     *
     * @param most more rows than these are a failure
     */
    Found ask(QueryText query, List<Object> values, int most) throws StoreProblem, QueryProblem;

    /** Changes rows, or calls a procedure. */
    Changed change(QueryText statement, List<Object> values) throws StoreProblem, QueryProblem;

    /** @throws StoreProblem of which one that is AWAY leaves open whether it is committed */
    void commit() throws StoreProblem;

    /** From any thread: whatever runs here ends soon, and in nothing. */
    void breakOff();

    /** Whatever is not committed is taken back. Does not throw. */
    @Override
    void close();

    /**
     * What came of a change.
     *
     * @param touched how many rows; -1 where the database does not say
     * @param first   the first row of the first result that it gave, such as what a procedure gives out or what is written as
     *                {@code RETURNING}; no columns where it gave none
     */
    record Changed(long touched, Found first) {}

    /** Rows by column. */
    record Found(List<String> columns, List<List<Object>> rows) {}
}
