package dachshund.core.ledger;

import java.util.List;

/** Where runs are kept. */
@FunctionalInterface
public interface LedgerStore {

    /**
     * Takes runs, all or none. One that it has already stays as it is.
     *
     * @throws RuntimeException where it does not take them now
     */
    void take(List<Noted> runs);
}
