package dachshund.links.mariadb;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.MariaDbDialect;
import dachshund.core.sql.MySqlDialect;
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.JdbcStore;
import dachshund.links.jdbc.ServerSettings;
import java.util.List;
import java.util.Map;

/** MariaDB as a destination, and MySQL, which speaks the same protocol. */
public final class MariaDbKind implements StoreKind {

    private final String id;
    private final Dialect dialect;

    private MariaDbKind(String id, Dialect dialect) {
        this.id = id;
        this.dialect = dialect;
    }

    public static MariaDbKind mariaDb() {
        return new MariaDbKind("mariadb", new MariaDbDialect());
    }

    public static MariaDbKind mySql() {
        return new MariaDbKind("mysql", new MySqlDialect());
    }

    @Override
    public String id() {
        return id;
    }

    @Override
    public String title() {
        return dialect.engine();
    }

    @Override
    public List<SettingField> settings() {
        return ServerSettings.fields("3306");
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new JdbcStore(engine(settings, outside));
    }

    @Override
    public RowReading openReading(Map<String, String> settings, Outside outside) {
        return new JdbcReader(engine(settings, outside), JdbcReader.Limits.USUAL);
    }

    private JdbcEngine engine(Map<String, String> settings, Outside outside) {
        return new MariaDbEngine(dialect, ServerSettings.of(settings), outside);
    }
}
