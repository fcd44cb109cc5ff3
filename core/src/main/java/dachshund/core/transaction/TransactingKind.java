package dachshund.core.transaction;

import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import java.util.Map;

/** A kind of destination that does several things in one transaction. */
public interface TransactingKind extends StoreKind {

    /**
     * @param settings     values by name, secrets in clear
     * @param installation whose requests are claimed
     * @param outside      asked before each connection
     */
    Transacting openTransacting(Map<String, String> settings, String installation, Outside outside);
}
