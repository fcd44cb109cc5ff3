package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.window.Span;
import java.time.Duration;
import java.util.Optional;

/** A query with all that it needs to be asked, as often as somebody wants. */
public interface Asked {

    /** The window that it was asked for, where it has one. */
    Optional<Span> span();

    /**
     * @param limit how long it may take, at the pace of the taker
     * @param most  no more rows than these
     * @return how many rows the taker was given
     * @throws StoreProblem with a sentence, where what is asked does not answer or refuses
     * @throws QueryProblem the same, where the trouble is in the query
     */
    long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem, QueryProblem;
}
