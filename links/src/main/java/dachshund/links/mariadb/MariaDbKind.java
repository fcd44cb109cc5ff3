package dachshund.links.mariadb;

import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.MariaDbDialect;
import java.util.List;
import java.util.Map;

/** MariaDB as a destination. */
public final class MariaDbKind implements StoreKind {

    private static final Dialect DIALECT = new MariaDbDialect();

    @Override
    public String id() {
        return "mariadb";
    }

    @Override
    public String title() {
        return "MariaDB";
    }

    @Override
    public List<SettingField> settings() {
        return List.of(
                SettingField.text("host", "Host", "db.example.org", "127.0.0.1").checked(MariaDbKind::host),
                SettingField.text("port", "Port", "3306", "3306").checked(SettingField::port),
                SettingField.text("database", "Database", "records", "").checked(SettingField.needed("The name of the database is needed.")),
                SettingField.text("user", "User", "recorder", "").checked(SettingField.needed("The name of a database user is needed.")),
                SettingField.secret("password", "Password"));
    }

    private static String host(String text) {
        if (text.isBlank()) {
            return "The name or IP address of the database server is needed.";
        }
        return text.strip().matches("[A-Za-z0-9._-]+|\\[?[0-9a-fA-F:]+]?") ? ""
                : "Write the host's name or IP address alone, without port or path.";
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public RowStore open(Map<String, String> settings) {
        return new MariaDbStore(DIALECT, settings);
    }
}
