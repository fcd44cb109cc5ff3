package dachshund.links.h2;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.links.file.Inside;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.StoreContract;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.io.TempDir;

class H2StoreTest extends StoreContract {

    @TempDir
    static Path folder;

    private static RowStore store;

    @BeforeAll
    static void open() {
        store = H2Engine.kind(folder).open(Map.of("file", "records"));
    }

    @AfterAll
    static void close() {
        store.close();
    }

    @Override
    protected RowStore store() {
        return store;
    }

    @Override
    protected boolean madeByOpening() {
        return true;
    }

    @Override
    protected RowReading reading(JdbcReader.Limits limits) {
        Inside root = new Inside(folder);
        return new JdbcReader(new H2Engine(root, root.named("records")), limits);
    }

    @Override
    protected List<String> viewThatWrites() {
        return List.of();
    }

    @Override
    protected Optional<String> procedureOfTwo(String name) {
        return Optional.empty();
    }

    @Override
    protected Optional<String> procedureOfOneJson(String name) {
        return Optional.empty();
    }
}
