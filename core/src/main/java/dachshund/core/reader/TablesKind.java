package dachshund.core.reader;

import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import java.time.ZoneId;
import java.util.Map;

/** A kind of destination that has tables which can be read, whoever writes them. */
public interface TablesKind extends StoreKind {

    /**
     * With connections of its own.
     *
     * @param settings values by name, secrets in clear
     * @param zone     of times in it that say none
     * @param outside  asked before each connection
     */
    TableReading openTables(Map<String, String> settings, ZoneId zone, Outside outside);
}
