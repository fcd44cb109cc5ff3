package dachshund.core.destination;

import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import java.util.List;
import java.util.Map;

/** One kind of destination: describes its settings, from which the page is made, and opens stores. */
public interface StoreKind {

    /** Short name kept in definitions, such as {@code mariadb}. */
    String id();

    String title();

    List<SettingField> settings();

    Dialect dialect();

    /** How rows can be written. */
    default List<Class<? extends WriteMode>> modes() {
        return WriteMode.ALL;
    }

    /** Whether statements are only shown and rows cannot be sent. */
    default boolean statementsOnly() {
        return false;
    }

    /** Whether rows go to files of a folder, else to tables of a database. */
    default boolean files() {
        return false;
    }

    /** Whether one destination reaches several databases; see {@link RowStore#in}. */
    default boolean databases() {
        return !files() && !statementsOnly();
    }

    /**
     * @param settings values by name, secrets in clear
     * @param outside  asked before each connection
     */
    RowStore open(Map<String, String> settings, Outside outside);

    /** For reading alone, with connections of its own. */
    default RowReading openReading(Map<String, String> settings, Outside outside) {
        return open(settings, outside);
    }

    /** One that may reach everything. */
    default RowStore open(Map<String, String> settings) {
        return open(settings, Outside.ANYWHERE);
    }
}
