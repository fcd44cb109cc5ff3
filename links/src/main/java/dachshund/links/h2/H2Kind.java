package dachshund.links.h2;

import dachshund.core.destination.Batching;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.links.file.Inside;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.JdbcStore;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** An H2 file as a destination, under the folder for files. */
public final class H2Kind implements StoreKind {

    static final H2Dialect DIALECT = new H2Dialect();

    private final Inside root;

    public H2Kind(Path root) {
        this.root = new Inside(root);
    }

    @Override
    public String id() {
        return "h2";
    }

    @Override
    public String title() {
        return "H2";
    }

    @Override
    public List<SettingField> settings() {
        List<SettingField> fields = new ArrayList<>(List.of(SettingField.text("file", "File", "records", "records")
                .checked(text -> DIALECT.databaseProblem(text).orElse(""))));
        fields.addAll(Batching.fields());
        return List.copyOf(fields);
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

    private H2Engine engine(Map<String, String> settings) {
        return new H2Engine(root, root.named(settings.get("file")));
    }
}
