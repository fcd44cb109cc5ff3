package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Session;

/** Saved queries, for runs that look something up by them. From any thread; each question has a limit. */
public interface SavedQueries {

    /**
     * @param drafted whether the drafted design of it counts, as for a try
     * @param most    how many rows
     * @throws QueryProblem with a sentence, where it cannot be asked so
     */
    Session.Found ask(String query, boolean drafted, Execution.Parameters values, int most)
            throws StoreProblem, QueryProblem;
}
