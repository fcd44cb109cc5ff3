package dachshund.core.destination;

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

    /** @param settings values by name, secrets in clear */
    RowStore open(Map<String, String> settings);
}
