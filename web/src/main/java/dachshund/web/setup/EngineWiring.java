package dachshund.web.setup;

import dachshund.core.destination.StoreKind;
import dachshund.core.secret.SecretBox;
import dachshund.core.sql.OracleDialect;
import dachshund.core.sql.SqlServerDialect;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.journal.SegmentJournal;
import dachshund.links.file.FolderKind;
import dachshund.links.jdbc.StatementsOnlyKind;
import dachshund.links.mariadb.MariaDbKind;
import dachshund.links.modbus.ModbusKind;
import dachshund.links.mqtt.MqttKind;
import dachshund.links.opcua.OpcUaKind;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.links.postgresql.PostgreSqlKind;
import dachshund.links.sqlite.SqliteKind;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.List;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** Puts the engine together. A new protocol or kind of destination is registered here. */
@Configuration
class EngineWiring {

    @Bean
    PlantClock clock() {
        return new SystemClock();
    }

    @Bean
    SecretBox secrets(DachshundSettings settings) throws IOException {
        Path file = settings.var().resolve("secret.key");
        Files.createDirectories(settings.var());
        if (!Files.exists(file)) {
            byte[] key = new byte[32];
            new SecureRandom().nextBytes(key);
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.write(file, key);
        }
        return new SecretBox(Files.readAllBytes(file));
    }

    @Bean
    OpcUaTrust trust(DachshundSettings settings) {
        return new OpcUaTrust(settings.var().resolve("opcua"));
    }

    private static List<StoreKind> stores(DachshundSettings settings) {
        return List.of(
                MariaDbKind.mariaDb(),
                new PostgreSqlKind(),
                new SqliteKind(settings.filesFolder()),
                new FolderKind(settings.filesFolder(), settings.zone()),
                MariaDbKind.mySql(),
                new StatementsOnlyKind("sqlserver", new SqlServerDialect()),
                new StatementsOnlyKind("oracle", new OracleDialect()));
    }

    @Bean(destroyMethod = "close")
    Engine engine(DachshundSettings settings, PlantClock clock, SecretBox secrets, OpcUaTrust trust) {
        return new Engine(new Engine.Settings(
                settings.var(),
                settings.site(),
                settings.zone(),
                clock,
                secrets,
                List.of(new OpcUaKind(trust), new ModbusKind(), new MqttKind()),
                stores(settings),
                SegmentJournal.Limits.USUAL));
    }
}
