package dachshund.web.backup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.engine.journal.Offered;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.Settled;
import dachshund.office.own.DachshundSettings;
import dachshund.office.own.OwnDatabase;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.web.setup.EngineWiring;
import java.io.ByteArrayOutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A backup that is made beside a store at work, brought back onto an empty installation, and whatever may be wrong with it. */
class BackupTest {

    private static final String PASSPHRASE = "a long walk in the rain";
    private static final Instant NOW = Instant.parse("2026-03-29T01:30:00.123Z");
    private static PrivateMariaDb database;
    private static int databases;

    @TempDir
    Path folder;

    private DachshundSettings settings;

    @BeforeAll
    static void server() {
        database = new PrivateMariaDb();
    }

    @AfterAll
    static void end() {
        database.close();
    }

    private DachshundSettings installation(String var) {
        return new DachshundSettings(
                "Quillmoor",
                ZoneOffset.UTC,
                folder.resolve(var),
                "",
                false,
                0,
                0,
                0,
                "",
                "",
                new DachshundSettings.Database("127.0.0.1", database.port(), "own_" + databases++, "root", "", ""));
    }

    @BeforeEach
    void one() throws Exception {
        settings = installation("one");
        EngineWiring.secrets(settings);
        Files.createDirectories(settings.var().resolve("opcua/own"));
        Files.write(settings.var().resolve("opcua/own/certificate.der"), new byte[] {1, 2, 3});
        execute(settings, "");
        Flyway.configure()
                .dataSource(
                        OwnDatabase.url(settings.database(), settings.database().name()), "root", "")
                .load()
                .migrate();
        execute(
                settings,
                "INSERT INTO person (name, password_hash, role, must_change, made_at) VALUES ('søren \\'; --', 'hash', 'ADMIN', TRUE, '2026-03-29 01:30:00.123')",
                "INSERT INTO release_made (made_at, made_by, summary) VALUES ('2026-03-29 00:59:59.999', 'søren', '[\"a\\nb\"]')",
                "INSERT INTO definition_version VALUES ('0a0a0a0a', 1, 'RECORDER', '日本', NULL, NULL), ('0b0b0b0b', 1, 'RECORDER', 'b', '{}', 'x')");
        try (Connection connection = connection(settings);
                PreparedStatement list = connection.prepareStatement("INSERT INTO tag_list VALUES (?, ?)")) {
            list.setString(1, "x");
            list.setBytes(2, new byte[] {0, -1, 127, -128});
            list.executeUpdate();
        }
    }

    private static Connection connection(DachshundSettings of) throws SQLException {
        return DriverManager.getConnection(
                OwnDatabase.url(of.database(), of.database().name()), "root", "");
    }

    private static void execute(DachshundSettings of, String... sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(database.url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE IF NOT EXISTS " + of.database().name());
            statement.execute("USE " + of.database().name());
            for (String each : sql) {
                if (!each.isEmpty()) {
                    statement.execute(each);
                }
            }
        }
    }

    private static String tables(DachshundSettings of) throws Exception {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        new OwnTables(of.database()).write(out);
        // The audit says of each what was done with it.
        return out.toString(java.nio.charset.StandardCharsets.UTF_8)
                .lines()
                .filter(line -> !line.contains("a backup"))
                .collect(Collectors.joining("\n"));
    }

    private Path made() throws Exception {
        Path file = folder.resolve("plant.backup");
        new Backup(settings, 1000).make(file, PASSPHRASE, NOW);
        return file;
    }

    @Test
    void keysThatWereInUseBeforeComeAlongAndOpenWhatTheySealed() throws Exception {
        String sealed = EngineWiring.secrets(settings).seal("a password", "a thing");
        Files.move(settings.var().resolve("secret.key"), settings.var().resolve("secret.key.old-1"));
        Files.write(settings.var().resolve("secret.key"), new byte[32]);
        new LocalStore(settings.var().resolve("local.db")).close();
        Path file = made();
        settings = installation("two");
        new Backup(settings, 1000).restore(file, PASSPHRASE, NOW);
        assertThat(EngineWiring.secrets(settings).open(sealed, "a thing")).isEqualTo("a password");
        assertThat(Files.getPosixFilePermissions(settings.var().resolve("secret.key.old-1")))
                .hasSize(2);
    }

    @Test
    void allOfItComesBackAndWhatIsNotInItIsSaid() throws Exception {
        Path offeredAt = settings.var().resolve("offered/dest");
        Path file = folder.resolve("plant.backup");
        Path killed = Files.createDirectories(settings.var().resolve("backup123/opcua"))
                .getParent();
        String before;
        try (LocalStore local = new LocalStore(settings.var().resolve("local.db"));
                Offered offered = new Offered(offeredAt)) {
            local.settle(Map.of(
                    "0a0a0a0a:dest", new Settled("j", 50, 40, 38, 2, 0, 0, 0, 0),
                    "0b0b0b0b:dest", new Settled("j", 50, 40, 38, 2, 0, 0, 0, 0)));
            before = local.installation();
            offered.of("0a0a0a0a").atLeast(47);
            local.served("0a0a0a0a", NOW.minusSeconds(9));
            local.aside()
                    .keep("0a0a0a0a", "dest", "id1", NOW, List.of("v"), List.of("x"), "Column v is no number.", NOW);
            List<String> lines = new Backup(settings, 1000).make(file, PASSPHRASE, NOW);
            assertThat(lines).anyMatch(line -> line.contains("7 rows at most that were on their way to dest"));
            assertThat(killed).as("what a killed one left").doesNotExist();
            assertThat(offered.find("0b0b0b0b")).as("looking writes nothing").isEmpty();
            local.remember("since", "then");
        }
        try (Offered again = new Offered(offeredAt)) {
            assertThat(again.find("0b0b0b0b")).as("nor on disk").isEmpty();
        }
        DachshundSettings other = installation("two");
        Instant later = NOW.plusSeconds(86_400);
        List<String> account = new Backup(other).restore(file, PASSPHRASE, later);
        assertThat(account)
                .anyMatch(line -> line.contains("people 1"))
                .anyMatch(line -> line.contains("7 rows at most"));
        assertThat(tables(other)).isEqualTo(tables(settings)).contains("søren");
        assertThat(Files.readAllBytes(other.var().resolve("secret.key")))
                .isEqualTo(Files.readAllBytes(settings.var().resolve("secret.key")));
        assertThat(Files.readAllBytes(other.var().resolve("opcua/own/certificate.der")))
                .containsExactly(1, 2, 3);
        try (LocalStore local = new LocalStore(other.var().resolve("local.db"))) {
            assertThat(local.settled("0a0a0a0a:dest").nth()).isEqualTo(40);
            assertThat(local.remembered("since")).as("as of the backup").isEmpty();
            assertThat(local.served("0a0a0a0a")).as("nothing is made late").contains(later);
            assertThat(local.installation()).as("an identity of its own").isNotEqualTo(before);
            assertThat(local.remembered(BroughtBack.FACT)).get().asString().contains("7 rows at most");
            assertThat(local.aside().newest("0a0a0a0a", 5).get(0).reason())
                    .startsWith("Column v is no number.")
                    .contains("whether it was mended and sent since then is not known");
        }
        // A second time there is something in the way.
        assertThatThrownBy(() -> new Backup(other).restore(file, PASSPHRASE, later))
                .hasMessageContaining("is in use");
        assertThatThrownBy(() -> new Backup(settings, 1000).make(file, PASSPHRASE, NOW))
                .hasMessageContaining("replaces no file");
    }

    @Test
    void aRehearsalLeavesNothingBehind() throws Exception {
        try (LocalStore local = new LocalStore(settings.var().resolve("local.db"))) {
            assertThat(local.installation()).hasSize(6);
            Path file = made();
            long before = databases();
            assertThat(new Backup(settings).check(file, PASSPHRASE, NOW)).anyMatch(line -> line.contains("people 1"));
            assertThat(databases()).isEqualTo(before);
        }
    }

    private static long databases() throws SQLException {
        try (Connection connection = DriverManager.getConnection(database.url(""));
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT COUNT(*) FROM information_schema.schemata")) {
            row.next();
            return row.getLong(1);
        }
    }

    @Test
    void whateverIsWrongWithTheFileIsSaidAndNothingIsLeft() throws Exception {
        new LocalStore(settings.var().resolve("local.db")).close();
        Path file = made();
        byte[] whole = Files.readAllBytes(file);
        DachshundSettings other = installation("two");
        assertThatThrownBy(() -> new Backup(other).restore(file, PASSPHRASE + "!", NOW))
                .hasMessageContaining("the passphrase is another one");
        // One byte flipped, anywhere; or the end is missing.
        for (int i = 0; i < 40; i++) {
            byte[] altered = whole.clone();
            int at = (int) ((long) i * (whole.length - 1) / 39);
            altered[at] ^= 0x40;
            Path damaged = Files.write(folder.resolve("damaged"), altered);
            try {
                new Backup(other).restore(damaged, PASSPHRASE, NOW);
                // A byte that says nothing, such as the time of an entry: then all of it came back.
                assertThat(tables(other)).isEqualTo(tables(settings));
                new OwnTables(other.database()).remove();
                remove(other.var());
            } catch (java.io.IOException said) {
                assertThat(said.getMessage()).isNotBlank();
            }
            assertThat(new OwnTables(other.database()).empty())
                    .as("byte %d", at)
                    .isTrue();
            assertThat(left(other.var())).as("byte %d", at).isEmpty();
        }
        Files.write(folder.resolve("damaged"), Arrays.copyOf(whole, whole.length / 2));
        assertThatThrownBy(() -> new Backup(other).restore(folder.resolve("damaged"), PASSPHRASE, NOW))
                .hasMessageContaining("no backup, or only a part of one");
    }

    private static List<Path> left(Path folder) throws Exception {
        try (var files = Files.walk(folder)) {
            return files.filter(Files::isRegularFile).toList();
        }
    }

    private static void remove(Path folder) throws Exception {
        try (var files = Files.walk(folder)) {
            for (Path each : files.sorted(java.util.Comparator.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }
}
