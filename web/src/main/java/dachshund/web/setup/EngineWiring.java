package dachshund.web.setup;

import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.secret.SecretBox;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.journal.SegmentJournal;
import dachshund.links.file.FolderKind;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.modbus.ModbusKind;
import dachshund.links.mqtt.MqttKind;
import dachshund.links.network.AllowedPlaces;
import dachshund.links.opcua.OpcUaKind;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.links.sqlite.SqliteEngine;
import dachshund.links.unrun.OracleDialect;
import dachshund.links.unrun.SqlServerDialect;
import dachshund.links.unrun.StatementsOnlyKind;
import dachshund.office.own.DachshundSettings;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/** Puts the engine together. A new protocol or kind of destination is registered here. */
public final class EngineWiring {

    private static final int KEY_BYTES = 32;
    private static final String KEY = "secret.key";

    private EngineWiring() {}

    /** The key that secrets are sealed with; drawn at the first start ever, never replaced afterwards. */
    public static SecretBox secrets(DachshundSettings settings) throws IOException {
        Path file = settings.var().resolve(KEY);
        Files.createDirectories(settings.var());
        String bringBack =
                " What was sealed with it (passwords of sources and destinations) cannot be opened; everything else goes on. Bring the key back from where it is kept safe and start again, or type the passwords anew after removing "
                        + settings.var().resolve("live-definitions.sealed") + ".";
        if (!Files.exists(file)) {
            if (Files.exists(settings.var().resolve("live-definitions.sealed"))) {
                return SecretBox.lost("The key file " + file + " is gone." + bringBack);
            }
            byte[] key = new byte[KEY_BYTES];
            new SecureRandom().nextBytes(key);
            Path next = file.resolveSibling("secret.key.new");
            Files.deleteIfExists(next);
            Files.createFile(next, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.write(next, key, StandardOpenOption.SYNC, StandardOpenOption.WRITE);
            Files.move(next, file, StandardCopyOption.ATOMIC_MOVE);
        }
        byte[] key = Files.readAllBytes(file);
        return key.length == KEY_BYTES
                ? new SecretBox(key, older(settings.var()))
                : SecretBox.lost("The key file " + file + " is damaged: it has " + key.length + " bytes instead of "
                        + KEY_BYTES + "." + bringBack);
    }

    /** Keys that were in use before: secret.key.old and the like, beside the one in use. */
    public static List<Path> olderKeys(Path var) throws IOException {
        try (Stream<Path> files = Files.list(var)) {
            return files.filter(each -> each.getFileName().toString().startsWith(KEY + ".old"))
                    .sorted()
                    .toList();
        }
    }

    private static byte[][] older(Path var) throws IOException {
        List<byte[]> keys = new ArrayList<>();
        for (Path file : olderKeys(var)) {
            byte[] key = Files.readAllBytes(file);
            if (key.length == KEY_BYTES) {
                keys.add(key);
            }
        }
        return keys.toArray(byte[][]::new);
    }

    /** Where connections may go: everywhere until an administrator makes a list, but never into our own database. */
    public static AllowedPlaces places(DachshundSettings settings) {
        DachshundSettings.Database own = settings.database();
        return new AllowedPlaces(Optional.of(new AllowedPlaces.Own(own.host(), own.port(), own.name())));
    }

    public static OpcUaTrust trust(DachshundSettings settings) {
        return new OpcUaTrust(settings.var().resolve("opcua"));
    }

    private static List<StoreKind> stores(DachshundSettings settings) {
        return List.of(
                MariaDbEngine.mariaDb(),
                PostgreSqlEngine.kind(),
                SqliteEngine.kind(settings.filesFolder()),
                new FolderKind(settings.filesFolder(), settings.zone()),
                MariaDbEngine.mySql(),
                new StatementsOnlyKind("sqlserver", new SqlServerDialect()),
                new StatementsOnlyKind("oracle", new OracleDialect()));
    }

    public static Engine engine(
            DachshundSettings settings, PlantClock clock, SecretBox secrets, OpcUaTrust trust, Outside outside) {
        return new Engine(new Engine.Settings(
                settings.var(),
                settings.site(),
                settings.zone(),
                clock,
                secrets,
                outside,
                List.of(new OpcUaKind(trust), new ModbusKind(), new MqttKind()),
                stores(settings),
                SegmentJournal.Limits.USUAL));
    }
}
