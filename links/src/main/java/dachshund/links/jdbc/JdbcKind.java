package dachshund.links.jdbc;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactingKind;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;

/**
 * A database engine as a destination. An engine is a room beside this one, with its {@link Dialect} and its
 * {@link JdbcEngine}, which makes its kind. Immutable.
 *
 * @param id     short name kept in definitions, such as {@code mariadb}
 * @param modes  how rows can be written
 * @param engine makes the engine of one destination from its settings
 */
public record JdbcKind(
        String id, Dialect dialect, List<SettingField> settings, List<Class<? extends WriteMode>> modes, Opening engine)
        implements TablesKind, TransactingKind {

    /** One destination's engine, from its settings with secrets in clear. */
    @FunctionalInterface
    public interface Opening {
        JdbcEngine open(Map<String, String> settings, Outside outside);
    }

    /** One of a server at host and port that knows every way to write. */
    public static JdbcKind server(String id, Dialect dialect, String port, Opening engine) {
        return new JdbcKind(id, dialect, ServerSettings.fields(port), WriteMode.ALL, engine);
    }

    @Override
    public String title() {
        return dialect.engine();
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new JdbcStore(engine.open(settings, outside));
    }

    @Override
    public RowReading openReading(Map<String, String> settings, Outside outside) {
        return new JdbcReader(engine.open(settings, outside), JdbcReader.Limits.USUAL);
    }

    @Override
    public TableReading openTables(Map<String, String> settings, ZoneId zone, Outside outside) {
        return new JdbcTables(engine.open(settings, outside), zone);
    }

    @Override
    public Transacting openTransacting(Map<String, String> settings, String installation, Outside outside) {
        return new JdbcTransacting(engine.open(settings, outside), installation);
    }
}
