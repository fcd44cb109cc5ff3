package dachshund.links.unrun;

import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.UnopenedStore;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import java.util.List;
import java.util.Map;

/**
 * An engine of which no server could be run here: its statements are generated, to be read and taken elsewhere, and rows
 * are not sent to it.
 */
public final class StatementsOnlyKind implements StoreKind {

    private final String id;
    private final Dialect dialect;

    public StatementsOnlyKind(String id, Dialect dialect) {
        this.id = id;
        this.dialect = dialect;
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
        return List.of(SettingField.text("database", "Database", "records", "")
                .checked(SettingField.needed("The name of the database is needed.")));
    }

    @Override
    public Dialect dialect() {
        return dialect;
    }

    @Override
    public boolean statementsOnly() {
        return true;
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new UnopenedStore(
                dialect,
                "The statements for " + dialect.engine()
                        + " are generated and were never executed, so this version does not connect to it. They can be read and copied at the recorder.");
    }
}
