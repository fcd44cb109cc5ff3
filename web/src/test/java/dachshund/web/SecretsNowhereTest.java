package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.read.ListAppender;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.office.definition.Drafts;
import dachshund.standins.mail.PrivateMail;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.slf4j.LoggerFactory;
import org.springframework.jdbc.core.simple.JdbcClient;

/** A password that somebody typed stands on no page, in no file that is taken out, in no log, and in our tables sealed only. */
class SecretsNowhereTest {

    private static final Site SITE = Site.demo();
    private static final String SECRET = "never-anywhere-in-clear";

    @Test
    void whatIsSecretStandsNowhere() throws Exception {
        Drafts drafts = SITE.bean(Drafts.class);
        Logger root = (Logger) LoggerFactory.getLogger(Logger.ROOT_LOGGER_NAME);
        ListAppender<ILoggingEvent> log = new ListAppender<>();
        log.start();
        root.addAppender(log);
        List<String> texts = new ArrayList<>();
        try {
            drafts.edit(
                    new DestinationDefinition(
                            "0badd0d0",
                            "Secretive",
                            "",
                            "mariadb",
                            Map.of("host", "127.0.0.1", "port", "9", "database", "x", "user", "u", "password", SECRET)),
                    0,
                    "test");
            drafts.edit(
                    new SourceDefinition(
                            "0badd0d1",
                            "Secretive broker",
                            "",
                            "mqtt",
                            Map.of("host", "127.0.0.1", "port", "9", "user", "u", "password", SECRET),
                            Duration.ofSeconds(1),
                            List.of(),
                            false),
                    0,
                    "test");
            Visitor admin = new Visitor(SITE).signIn("admin", "admin-demo");
            texts.add(admin.post("/records/destinations/0badd0d0/test").body());
            texts.add(admin.post("/plant/sources/0badd0d1/test").body());
            for (String path : List.of(
                    "/release",
                    "/release/export",
                    "/records/destinations",
                    "/records/destinations/0badd0d0",
                    "/records/destinations/0badd0d0/browse",
                    "/plant/sources/0badd0d1",
                    "/plant/sources/0badd0d1/edit",
                    "/plant/sources/0badd0d1/said",
                    "/people/audit",
                    "/people/audit/audit.csv",
                    "/people/notices",
                    "/plant/tokens")) {
                texts.add(path + " " + admin.get(path).body());
            }
            texts.addAll(SITE.bean(JdbcClient.class)
                    .sql("SELECT document FROM draft WHERE document IS NOT NULL")
                    .query(String.class)
                    .list());
            texts.add(new String(
                    Files.readAllBytes(SITE.folder.resolve("live-definitions.sealed")), StandardCharsets.ISO_8859_1));
            texts.add(new String(Files.readAllBytes(SITE.folder.resolve("local.db")), StandardCharsets.ISO_8859_1));
        } finally {
            root.detachAppender(log);
            drafts.discard("0badd0d0", "test");
            drafts.discard("0badd0d1", "test");
        }
        log.list.forEach(event -> texts.add(event.getFormattedMessage()
                + (event.getThrowableProxy() == null
                        ? ""
                        : event.getThrowableProxy().getMessage())));
        assertThat(texts).as("the pages are the pages").anyMatch(text -> text.contains("Secretive broker"));
        assertThat(texts.stream()
                        .filter(text -> text.contains(SECRET) || text.contains(PrivateMail.PASSWORD))
                        .map(text -> text.substring(0, Math.min(200, text.length())))
                        .toList())
                .isEmpty();
    }
}
