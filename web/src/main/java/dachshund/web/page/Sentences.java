package dachshund.web.page;

import dachshund.core.destination.StoreProblem;
import dachshund.engine.thread.Threads;
import dachshund.office.definition.EditedByOther;
import java.util.NoSuchElementException;
import org.springframework.dao.DataAccessException;
import org.springframework.transaction.TransactionException;

/** What went wrong, for a person. */
public final class Sentences {

    static final String OWN_DATABASE_AWAY =
            "Recording goes on from the last release; rows are safe on disk. Designs and people can be changed when the database is back. If it broke off while it took a change, the page shows then whether it did.";
    static final String NOT_HERE =
            "What this address names is not here. It may have been removed, or the draft it belonged to was discarded.";

    private Sentences() {}

    public static String of(Throwable thrown) {
        if (thrown instanceof DataAccessException || thrown instanceof TransactionException) {
            return "Our own database is away. " + OWN_DATABASE_AWAY;
        }
        if (thrown instanceof NoSuchElementException) {
            return NOT_HERE;
        }
        boolean told = thrown instanceof EditedByOther
                || thrown instanceof StoreProblem
                || thrown instanceof IllegalArgumentException;
        return told && thrown.getMessage() != null ? thrown.getMessage() : "A defect: " + Threads.words(thrown) + ".";
    }
}
