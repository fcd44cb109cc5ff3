package dachshund.links.postgresql;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.PostgreSqlDialect;
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.JdbcStore;
import dachshund.links.jdbc.ServerSettings;
import java.util.List;
import java.util.Map;

/** PostgreSQL as a destination. */
public final class PostgreSqlKind implements StoreKind {

    private static final PostgreSqlDialect DIALECT = new PostgreSqlDialect();

    @Override
    public String id() {
        return "postgresql";
    }

    @Override
    public String title() {
        return "PostgreSQL";
    }

    @Override
    public List<SettingField> settings() {
        return ServerSettings.fields("5432");
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new JdbcStore(engine(settings, outside));
    }

    @Override
    public RowReading openReading(Map<String, String> settings, Outside outside) {
        return new JdbcReader(engine(settings, outside), JdbcReader.Limits.USUAL);
    }

    private static JdbcEngine engine(Map<String, String> settings, Outside outside) {
        return new PostgreSqlEngine(DIALECT, ServerSettings.of(settings), outside);
    }
}
