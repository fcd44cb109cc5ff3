package dachshund.engine.local;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class LocalStoreTest {

    @TempDir
    Path folder;

    private int version(Path file) throws Exception {
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("PRAGMA user_version")) {
            return row.getInt(1);
        }
    }

    private void execute(Path file, String sql) throws Exception {
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @Test
    void oneOfBeforeVersionsWereKeptBecomesThisOneAndKeepsWhatItHolds() throws Exception {
        Path file = folder.resolve("local.db");
        try (LocalStore store = new LocalStore(file)) {
            store.stop("00000001", new LocalStore.Stop("ada", Instant.EPOCH, "tried"));
        }
        execute(file, "PRAGMA user_version = 0");
        try (LocalStore store = new LocalStore(file)) {
            assertThat(store.stopped()).containsKey("00000001");
        }
        assertThat(version(file)).isEqualTo(LocalStore.SCHEMA);
    }

    @Test
    void whatWasDecidedBeforeItWasNotedWhereThatBeginsIsReadOn() throws Exception {
        Path file = folder.resolve("local.db");
        execute(
                file,
                "CREATE TABLE decision (lane TEXT PRIMARY KEY, up_to INTEGER NOT NULL, design TEXT NOT NULL, zone TEXT NOT NULL)");
        execute(file, "INSERT INTO decision VALUES ('a:b', 9, '', 'UTC')");
        execute(file, "PRAGMA user_version = 1");
        for (int i = 0; i < 2; i++) {
            try (LocalStore store = new LocalStore(file)) {
                assertThat(store.decided("a:b")).contains(new LocalStore.Decided(0, 9, "", "UTC"));
            }
        }
        assertThat(version(file)).isEqualTo(LocalStore.SCHEMA);
    }

    @Test
    void oneOfALaterVersionIsRefusedWithASentenceAndNotTouched() throws Exception {
        Path file = folder.resolve("local.db");
        execute(file, "CREATE TABLE of_later (x TEXT)");
        execute(file, "PRAGMA user_version = 7");
        byte[] before = Files.readAllBytes(file);
        assertThatThrownBy(() -> new LocalStore(file))
                .hasMessageContaining("later version of Dachshund (its schema is 7, this one knows 2)")
                .hasMessageContaining("bring back a backup");
        assertThat(Files.readAllBytes(file)).isEqualTo(before);
    }
}
