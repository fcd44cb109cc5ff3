package dachshund.web;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.definition.Definition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagRef;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.archive.BlockTable;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.standins.PrivateProcess;
import dachshund.standins.SimulatedPlant;
import dachshund.standins.mail.PrivateMail;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.mqtt.PrivateBroker;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.stream.Stream;
import org.apache.catalina.core.StandardContext;
import org.springframework.boot.builder.SpringApplicationBuilder;
import org.springframework.boot.web.embedded.tomcat.TomcatWebServer;
import org.springframework.boot.web.servlet.context.ServletWebServerApplicationContext;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.jdbc.core.simple.JdbcClient;

/** The whole application as a user starts it, with its own MariaDB and the simulated plant, all on free loopback ports. */
final class Site implements AutoCloseable {

    private static Site demo;

    final PrivateMariaDb database = new PrivateMariaDb();
    final SimulatedPlant plant;
    final Path folder;
    private final boolean withDemo;
    private final int plantPort;
    final int modbusPort;
    final PrivateBroker broker;
    private final int smtpPort;
    private final int imapPort;
    final PrivateMail mail;
    private ConfigurableApplicationContext application;

    private final List<String> settings;

    /** @param settings further ones, as on the command line */
    Site(boolean withDemo, String... settings) {
        try {
            this.settings = List.of(settings);
            this.withDemo = withDemo;
            this.folder = Files.createTempDirectory("dachshund-site");
            Files.setPosixFilePermissions(folder, PosixFilePermissions.fromString("rwxr-xr-x"));
            this.plantPort = PrivateProcess.freePort();
            this.modbusPort = PrivateProcess.freePort();
            this.broker = new PrivateBroker(PrivateProcess.freePort());
            this.smtpPort = PrivateProcess.freePort();
            this.imapPort = PrivateProcess.freePort();
            this.mail = new PrivateMail(smtpPort, imapPort);
            this.plant = SimulatedPlant.start(plantPort, modbusPort, broker.port(), 7);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
        startWithCertificate();
    }

    /**
     * To make an RSA key takes seconds where only the first compiler runs: the one that the first process of this build has made, as
     * the application makes it, is every site's.
     */
    private void startWithCertificate() {
        try {
            Path own = Files.createDirectories(folder.resolve("opcua"));
            Path kept = Path.of("target", "certificate-of-sites");
            try (FileChannel lock = FileChannel.open(
                            Path.of("target", "certificate-of-sites.lock"),
                            StandardOpenOption.CREATE,
                            StandardOpenOption.WRITE);
                    FileLock mine = lock.lock()) {
                if (!Files.exists(kept.resolve("own.p12"))) {
                    new OpcUaTrust(kept).own();
                }
                Files.copy(kept.resolve("own.p12"), own.resolve("own.p12"));
            }
            start();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** One site with demo content for all tests that only need some content; lives as long as the test process. */
    static synchronized Site demo() {
        if (demo == null) {
            demo = new Site(true);
            Runtime.getRuntime().addShutdownHook(new Thread(demo::close));
        }
        return demo;
    }

    /** What a class has left there as drafts is in nobody's way. */
    static synchronized void discardDrafts() {
        if (demo != null) {
            demo.bean(Drafts.class).discardAll("engineer");
        }
    }

    void start() {
        application = new SpringApplicationBuilder(DachshundApplication.class)
                .registerShutdownHook(false)
                .run(Stream.concat(
                                Stream.of(
                                        "--server.port=0",
                                        "--dachshund.var=" + folder,
                                        "--dachshund.database.port=" + database.port(),
                                        "--dachshund.database.password-file=" + database.ownPassword(),
                                        "--dachshund.demo=" + withDemo,
                                        "--dachshund.demo-opcua-port=" + plantPort,
                                        "--dachshund.demo-modbus-port=" + modbusPort,
                                        "--dachshund.demo-broker-port=" + broker.port(),
                                        "--dachshund.demo-mail.smtp-port=" + smtpPort,
                                        "--dachshund.demo-mail.imap-port=" + imapPort,
                                        "--dachshund.people.password-rounds=4",
                                        "--dachshund.ready-file=" + folder.resolve("web.ready")),
                                settings.stream())
                        .toArray(String[]::new));
    }

    void stop() {
        application.close();
    }

    /** Sessions of people who signed in. */
    int sessions() {
        TomcatWebServer server = (TomcatWebServer) ((ServletWebServerApplicationContext) application).getWebServer();
        return ((StandardContext) server.getTomcat().getHost().findChildren()[0])
                .getManager()
                .getActiveSessions();
    }

    <T> T bean(Class<T> type) {
        return application.getBean(type);
    }

    /** The newest entries of the audit, newest first: who, what and detail with colons between. */
    List<String> audit() {
        return bean(JdbcClient.class)
                .sql("SELECT CONCAT_WS(': ', who, what, detail) FROM audit ORDER BY id DESC LIMIT 40")
                .query(String.class)
                .list();
    }

    /** Id of anything that was designed, by its name. */
    String named(String name) {
        return bean(Definitions.class).drafted().stream()
                .filter(each -> each.name().equals(name))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    /** A history that the archive has of a tag; the tag need not be kept by a rule. */
    void bringIn(TagRef tag, Column column) throws ArchiveStore.Problem {
        bean(BlockTable.class)
                .bringIn(
                        "brought in",
                        Block.of(TagKey.of(tag), Series.of(List.of(column))),
                        List.of(new Tag(TagKey.of(tag), tag, "Kept", KeptFor.EVER)));
    }

    /** Id of a source by its name. */
    String source(String name) {
        return bean(Definitions.class).all(SourceDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow()
                .id();
    }

    /** Id of a recorder by its name. */
    String recorder(String name) {
        return bean(Definitions.class).all(RecorderDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElseThrow()
                .id();
    }

    String address(String path) {
        return "http://localhost:" + application.getEnvironment().getProperty("local.server.port") + path;
    }

    @Override
    public void close() {
        if (application.isActive()) {
            stop();
        }
        plant.close();
        broker.close();
        mail.close();
        database.close();
        PrivateProcess.remove(folder);
    }

    /** As whoever owns the demo's records database. */
    void sql(String statement) throws SQLException {
        try (Connection connection = DriverManager.getConnection(database.url("quillmoor_records"));
                Statement doing = connection.createStatement()) {
            doing.execute(statement);
        }
    }
}
