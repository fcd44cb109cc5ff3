package dachshund.links.sqlite;

import dachshund.core.destination.Batching;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.SqliteDialect;
import dachshund.links.file.Inside;
import dachshund.links.jdbc.JdbcEngine;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.JdbcStore;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** A SQLite file as a destination. All of them lie under one folder, which nothing here leaves. */
public final class SqliteKind implements StoreKind {

    private static final Dialect DIALECT = new SqliteDialect();

    private final Inside root;

    public SqliteKind(Path root) {
        this.root = new Inside(root);
    }

    @Override
    public String id() {
        return "sqlite";
    }

    @Override
    public String title() {
        return "SQLite";
    }

    @Override
    public List<SettingField> settings() {
        List<SettingField> fields =
                new ArrayList<>(List.of(SettingField.text("file", "File", "records.db", "records.db")
                        .checked(SqliteKind::file)
                        .helped("Made under the folder for files, if it is not there.")));
        fields.addAll(Batching.fields());
        return List.copyOf(fields);
    }

    private static String file(String text) {
        return DIALECT.databaseProblem(text).orElse("");
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public List<Class<? extends WriteMode>> modes() {
        return List.of(WriteMode.Insert.class, WriteMode.Update.class, WriteMode.InsertOrUpdate.class);
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new JdbcStore(engine(settings));
    }

    @Override
    public RowReading openReading(Map<String, String> settings, Outside outside) {
        return new JdbcReader(engine(settings), JdbcReader.Limits.USUAL);
    }

    private JdbcEngine engine(Map<String, String> settings) {
        return new SqliteEngine(DIALECT, root, root.named(settings.get("file")));
    }
}
