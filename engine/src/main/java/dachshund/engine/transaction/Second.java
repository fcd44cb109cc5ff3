package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import java.time.Duration;

/**
 * The other database of one attempt: begun as soon as a step needs it, with a mark of its own, and committed after the first one.
 * What it holds before is gone where the first one does not commit. Of one thread, but for {@link #breakOff}.
 */
final class Second implements AutoCloseable {

    private final Transacting database;
    private final String transaction;
    private final String identity;
    private final Isolation isolation;
    private final Duration limit;
    private volatile Session session;

    Second(Transacting database, TransactionDefinition design, String identity, Duration limit) {
        this.database = database;
        this.transaction = design.id();
        this.identity = identity;
        this.isolation = design.isolation();
        this.limit = limit;
    }

    Session begun() throws StoreProblem {
        if (session == null) {
            Session now = database.begin(isolation, true, limit);
            session = now;
            if (!now.claim(transaction, identity)) {
                throw new StoreProblem(
                        Kind.CONTENT,
                        -1,
                        "In the other database it stands that this was done, and in the first one it does not. A person has to look at both.",
                        null);
            }
        }
        return session;
    }

    /** Commits what was changed there. */
    void commit() throws StoreProblem {
        if (session != null) {
            session.commit();
        }
    }

    void breakOff() {
        Session now = session;
        if (now != null) {
            now.breakOff();
        }
    }

    @Override
    public void close() {
        Session now = session;
        session = null;
        if (now != null) {
            now.close();
        }
    }
}
