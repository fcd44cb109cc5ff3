package dachshund.links.file;

import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;

/** A folder of CSV, JSON Lines or XLSX files as a destination. All of them lie under one folder, which nothing here leaves. */
public final class FolderKind implements StoreKind {

    private static final Dialect DIALECT = new FileDialect();

    private final Inside root;
    private final ZoneId zone;

    /** @param zone plant time */
    public FolderKind(Path root, ZoneId zone) {
        this.root = new Inside(root);
        this.zone = zone;
    }

    @Override
    public String id() {
        return "folder";
    }

    @Override
    public String title() {
        return "Files in a folder";
    }

    @Override
    public List<SettingField> settings() {
        return FileSettings.fields();
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public List<Class<? extends WriteMode>> modes() {
        return List.of(WriteMode.Insert.class);
    }

    @Override
    public boolean files() {
        return true;
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new FileStore(FileSettings.of(root, zone, settings));
    }
}
