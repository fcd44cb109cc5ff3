package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkTest;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.springframework.jdbc.core.simple.JdbcClient;

/** Ways by which an engineer became administrator, passwords left, and files were written anywhere. */
class NobodyGetsInTest {

    private static final Site SITE = Site.demo();
    private static final ObjectMapper JSON = new ObjectMapper();
    private final Definitions definitions = SITE.bean(Definitions.class);
    private final Releases releases = SITE.bean(Releases.class);
    private final Drafts drafts = SITE.bean(Drafts.class);

    private static Visitor as(String name) throws Exception {
        return new Visitor(SITE).signIn(name, name + "-demo");
    }

    @AfterEach
    void discard() {
        drafts.discardAll("test");
    }

    private SourceDefinition plant() {
        return definitions
                .find(SourceDefinition.class, SITE.source("Pellet works"))
                .orElseThrow();
    }

    private DestinationDefinition records() {
        return definitions.all(DestinationDefinition.class).stream()
                .filter(each -> each.store().equals("mariadb"))
                .findFirst()
                .orElseThrow();
    }

    private void release(Visitor by) throws Exception {
        by.post("/release", "fingerprint", releases.fingerprint());
        assertThat(definitions.drafts()).isEmpty();
    }

    /** What a configuration file would be that brings one destination. */
    private static String file(Map<String, String> settings, String id, String name, String store) throws Exception {
        ObjectNode destination = JSON.createObjectNode();
        destination.setAll((ObjectNode) JSON.readTree(dachshund.core.definition.DefinitionCodec.write(
                new DestinationDefinition(id, name, "", store, settings))));
        ObjectNode file = JSON.createObjectNode();
        file.put("file", "dachshund configuration").put("schemaVersion", 1);
        file.putArray("definitions").add(destination);
        return JSON.writeValueAsString(file);
    }

    @Test
    void onlyAnAdministratorSwitchesWritingOnByWhateverWay() throws Exception {
        Visitor admin = as("admin");
        Visitor engineer = as("engineer");
        String id = plant().id();
        admin.post("/plant/sources/" + id + "/writing", "on", "true");
        release(admin);
        long writing = definitions.release();
        admin.post("/plant/sources/" + id + "/writing", "on", "false");
        release(admin);
        assertThat(plant().writing()).isFalse();

        engineer.post("/release/" + writing + "/roll-back");
        assertThat(plant().writing()).as("rolled back").isFalse();
        drafts.discardAll("test");

        List<String> writers = writers();
        String exported = engineer.get("/release/export").body();
        ObjectNode file = (ObjectNode) JSON.readTree(exported);
        for (JsonNode each : file.path("definitions")) {
            if (each.path("id").asText().equals(id)) {
                ((ObjectNode) each)
                        .put("id", "0badcafe")
                        .put("name", "Another works")
                        .put("writing", true);
            }
        }
        engineer.post("/release/import", "text", JSON.writeValueAsString(file));
        assertThat(definitions.all(SourceDefinition.class))
                .as("the import took it in")
                .extracting(Definition::name)
                .contains("Another works");
        assertThat(writers()).as("imported").isEqualTo(writers);
        drafts.discardAll("test");

        admin.post("/plant/sources/" + id + "/writing", "on", "true");
        admin.post("/plant/sources/" + id + "/writing", "on", "false");
        engineer.post("/plant/sources/" + id + "/undo");
        assertThat(plant().writing()).as("undone").isFalse();
    }

    /** Names of the sources that may be written to. */
    private List<String> writers() {
        return definitions.all(SourceDefinition.class).stream()
                .filter(SourceDefinition::writing)
                .map(Definition::name)
                .toList();
    }

    @ParameterizedTest
    @ValueSource(strings = {"../outside", "/tmp/outside-dachshund", "records/../../outside", "a\u0000b", "."})
    void noFileIsWrittenOutsideTheFolderForFiles(String path) throws Exception {
        Visitor engineer = as("engineer");
        for (String store : List.of("folder", "sqlite")) {
            String setting = store.equals("folder") ? "folder" : "file";
            String text = file(Map.of(setting, path, "format", "csv"), "0badcafe", "Outside", store);
            assertThat(engineer.post("/release/import", "text", text).statusCode())
                    .as("%s %s is refused at the door", store, path)
                    .isEqualTo(200);
            assertThat(definitions.drafts()).isEmpty();
        }
    }

    @Test
    void aLinkWithinTheFolderForFilesDoesNotLeadOutOfIt() throws Exception {
        Path files = SITE.folder.resolve("files");
        Path outside = Files.createTempDirectory("dachshund-outside");
        Files.createDirectories(files);
        Path link = Files.createSymbolicLink(files.resolve("way-out"), outside);
        Path linked = Files.createSymbolicLink(files.resolve("way-out.db"), outside.resolve("x.db"));
        for (String[] each : new String[][] {{"folder", "folder", "way-out"}, {"sqlite", "file", "way-out.db"}}) {
            DestinationDefinition out =
                    new DestinationDefinition("0badcafe", "Out", "", each[0], Map.of(each[1], each[2]));
            try (var store = SITE.bean(Engine.class).openStore(out)) {
                LinkTest test = store.test(java.time.Duration.ofSeconds(5));
                assertThat(test.worked()).isFalse();
                assertThat(test.sentence()).contains("outside the folder for files");
            }
            try (var there = Files.list(outside)) {
                assertThat(there).isEmpty();
            }
        }
        Files.delete(link);
        Files.delete(linked);
    }

    /** A drafted destination, brought in by an import, is connected to when somebody tests it, not when somebody looks. */
    @Test
    void lookingConnectsNowhereThatNobodyTested() throws Exception {
        Visitor engineer = as("engineer");
        java.util.concurrent.atomic.AtomicInteger came = new java.util.concurrent.atomic.AtomicInteger();
        try (java.net.ServerSocket socket =
                new java.net.ServerSocket(0, 5, java.net.InetAddress.getLoopbackAddress())) {
            Thread counts = new Thread(() -> {
                while (!socket.isClosed()) {
                    try (java.net.Socket one = socket.accept()) {
                        came.incrementAndGet();
                    } catch (java.io.IOException closed) {
                        return;
                    }
                }
            });
            counts.start();
            Map<String, String> settings = Map.of(
                    "host", "127.0.0.1",
                    "port", Integer.toString(socket.getLocalPort()),
                    "database", "records",
                    "user", "somebody",
                    "connectWithin", "1",
                    "answerWithin", "2");
            engineer.post("/release/import", "text", file(settings, "0badfeed", "Listening", "mariadb"));
            String recorder = SITE.recorder("Dryer log");
            engineer.post(
                    "/records/" + recorder + "/wheres",
                    "destination",
                    "0badfeed",
                    "seen",
                    Integer.toString(drafts.revision(recorder)));
            assertThat(engineer.get("/release").body()).contains("Nobody has tested this connection");
            assertThat(engineer.get("/records/" + recorder).body()).contains("Nobody has tested this connection");
            engineer.get("/records/" + recorder + "/last");
            assertThat(came.get()).as("by looking").isZero();
            engineer.post("/records/destinations/0badfeed/test");
            assertThat(came.get()).as("by a test").isPositive();
            assertThat(engineer.get("/records/" + recorder).body()).doesNotContain("Nobody has tested this connection");
        }
    }

    /** What a person types, and what an exception says of it, makes no line of the log that could be taken for another. */
    @Test
    void theLogHasOneLineForEachMessage() throws Exception {
        java.util.Properties properties = new java.util.Properties();
        try (var in = Visitor.class.getResourceAsStream("/application.properties")) {
            properties.load(in);
        }
        ch.qos.logback.classic.LoggerContext context = new ch.qos.logback.classic.LoggerContext();
        ch.qos.logback.classic.PatternLayout layout = new ch.qos.logback.classic.PatternLayout();
        layout.getInstanceConverterMap()
                .put("wEx", org.springframework.boot.logging.logback.WhitespaceThrowableProxyConverter::new);
        layout.setContext(context);
        layout.setPattern(properties.getProperty("logging.pattern.console"));
        layout.start();
        String forged = "x\n10:00:00.000 INFO  d.web.audit.Audit: audit: admin: signed in\u2028y";
        String said = layout.doLayout(new ch.qos.logback.classic.spi.LoggingEvent(
                "here",
                context.getLogger("dachshund.web"),
                ch.qos.logback.classic.Level.WARN,
                "audit: {}",
                new IllegalArgumentException(forged),
                new Object[] {forged}));
        List<String> lines = said.lines().toList();
        assertThat(lines.get(0)).contains("audit: x 10:00:00.000 INFO");
        assertThat(lines.stream().skip(1).filter(line -> !line.isBlank()))
                .isNotEmpty()
                .allMatch(line -> line.startsWith("  | ") || line.startsWith("java.lang.IllegalArgumentException: x"));
        assertThat(said.split("NobodyGetsInTest.theLogHas", -1))
                .as("the exception stands there once")
                .hasSize(2);
    }

    @Test
    void lookingAtAReviewWritesNothing() throws Exception {
        Visitor engineer = as("engineer");
        engineer.post(
                "/release/import", "text", file(Map.of("file", "looked-at.db"), "0badcafe", "Looked at", "sqlite"));
        String recorder = SITE.recorder("Dryer log");
        engineer.post(
                "/records/" + recorder + "/wheres",
                "destination",
                "0badcafe",
                "seen",
                Integer.toString(drafts.revision(recorder)));
        assertThat(definitions.find(recorder).orElseThrow().toString()).contains("0badcafe");
        assertThat(engineer.get("/release").statusCode()).isEqualTo(200);
        engineer.get("/records/" + recorder);
        engineer.get("/records/destinations/0badcafe/browse");
        assertThat(SITE.folder.resolve("files/looked-at.db")).doesNotExist();
    }

    @Test
    void lookingForTheFirstTagOfAKindDraftsNothingAndItsFirstTagDraftsItsSource() throws Exception {
        Visitor engineer = as("engineer");
        for (String id : List.of("f0000001", "f0000002")) {
            assertThat(engineer.get("/plant/sources/" + id + "/tags/edit").statusCode())
                    .isEqualTo(200);
        }
        engineer.get("/plant/formulas/new");
        engineer.get("/plant/kept/new");
        assertThat(definitions.drafts()).isEmpty();
        engineer.post("/plant/sources/f0000002/tags", "name", "First of all", "kind", "NUMBER", "seen", "0");
        assertThat(definitions
                        .find(SourceDefinition.class, "f0000002")
                        .orElseThrow()
                        .tags())
                .hasSize(1);
    }

    @Test
    void whoIsRemovedOrGetsANewPasswordIsOutAtOnce() throws Exception {
        Visitor admin = as("admin");
        for (String end : List.of("invite", "remove")) {
            Visitor leaver = admin.invites("leaver", "VIEWER");
            Visitor beside = new Visitor(SITE).signIn("leaver", Visitor.OWN_PASSWORD);
            assertThat(beside.get("/plant").statusCode()).isEqualTo(200);
            admin.post("/people/leaver/" + end);
            assertThat(beside.get("/plant").headers().firstValue("Location"))
                    .as("the reason is told, once")
                    .hasValue(
                            end.equals("invite")
                                    ? "/sign-in?new-password&to=%2Fplant"
                                    : "/sign-in?removed&to=%2Fplant");
            assertThat(leaver.get("/plant").statusCode()).as(end).isEqualTo(302);
            assertThat(new Visitor(SITE)
                            .signIn("leaver", Visitor.OWN_PASSWORD)
                            .get("/plant")
                            .statusCode())
                    .as("the password does not work any more")
                    .isEqualTo(302);
            admin.post("/people/leaver/remove");
        }
    }

    @Test
    void anInvitationWorksOnceAndForItsTimeOnly() throws Exception {
        Visitor admin = as("admin");
        HttpResponse<String> told = admin.post("/people", "name", "guest", "role", "VIEWER");
        String address = told.body().replaceAll("(?s).*(/invitation\\?token=[\\w-]+).*", "$1");
        String token = address.substring(address.indexOf('=') + 1);
        assertThat(new Visitor(SITE).get(address).body()).contains("Choose your password, guest.");
        assertThat(new Visitor(SITE)
                        .post("/invitation", "token", token, "next", "short", "again", "short")
                        .body())
                .contains("at least 10 characters");
        assertThat(new Visitor(SITE)
                        .post("/invitation", "token", token, "next", "long enough it is", "again", "long enough is it")
                        .body())
                .contains("The two new passwords differ.");
        JdbcClient jdbc = SITE.bean(JdbcClient.class);
        assertThat(jdbc.sql("SELECT COUNT(*) FROM person WHERE invitation = ?")
                        .param(token)
                        .query(Long.class)
                        .single())
                .as("the token itself is kept nowhere")
                .isZero();
        admin.accept(told);
        assertThat(new Visitor(SITE)
                        .signIn("guest", Visitor.OWN_PASSWORD)
                        .get("/plant")
                        .statusCode())
                .isEqualTo(200);
        assertThat(new Visitor(SITE)
                        .post("/invitation", "token", token, "next", "another password", "again", "another password")
                        .body())
                .as("it is used up")
                .contains("This invitation is not known");
        HttpResponse<String> again = admin.post("/people/guest/invite");
        jdbc.sql("UPDATE person SET invited_until = '2001-01-01' WHERE name = 'guest'")
                .update();
        admin.accept(again);
        assertThat(new Visitor(SITE)
                        .signIn("guest", Visitor.OWN_PASSWORD)
                        .get("/plant")
                        .statusCode())
                .as("its time is over")
                .isEqualTo(302);
        assertThat(admin.get("/people").body()).contains("none: the invitation ended");
        admin.post("/people/guest/remove");
    }

    @Test
    void whoChangesTheOwnPasswordIsOutEverywhereElse() throws Exception {
        Visitor admin = as("admin");
        Visitor here = admin.invites("changer", "VIEWER");
        Visitor beside = new Visitor(SITE).signIn("changer", Visitor.OWN_PASSWORD);
        here.post("/password", "present", Visitor.OWN_PASSWORD, "next", "another one", "again", "another one");
        assertThat(here.get("/plant").statusCode()).isEqualTo(200);
        assertThat(beside.get("/plant").statusCode()).isEqualTo(302);
        admin.post("/people/changer/remove");
    }

    @Test
    void aPasswordIsAskedForAgainWhereItWouldGoElsewhere() throws Exception {
        Visitor engineer = as("engineer");
        DestinationDefinition records = records();
        String sealed = records.settings().get("password");
        for (Map.Entry<String, String> change : Map.of(
                        "host", "db.elsewhere.example", "port", "3399", "user", "somebody")
                .entrySet()) {
            Map<String, String> form = new TreeMap<>(records.settings());
            form.putAll(Map.of("id", records.id(), "name", records.name(), "password", "", "anyway", "1"));
            form.put("seen", Integer.toString(drafts.revision(records.id())));
            form.put(change.getKey(), change.getValue());
            String page = engineer.post(
                            "/records/destinations",
                            form.entrySet().stream()
                                    .flatMap(each -> List.of(each.getKey(), each.getValue()).stream())
                                    .toArray(String[]::new))
                    .body();
            assertThat(page).as(change.getKey()).contains("Type the password again");
            assertThat(definitions.drafts()).isEmpty();

            Map<String, String> brought = new TreeMap<>(records.settings());
            brought.put("password", "");
            brought.put(change.getKey(), change.getValue());
            engineer.post("/release/import", "text", file(brought, records.id(), records.name(), "mariadb"));
            assertThat(definitions.destination(records.id()).orElseThrow().settings())
                    .as("imported with another %s", change.getKey())
                    .doesNotContainEntry("password", sealed);
            drafts.discardAll("test");
        }
    }

    @Test
    void aSealedPasswordOpensForWhatItWasSealedForAlone() throws Exception {
        DestinationDefinition records = records();
        Map<String, String> elsewhere = new TreeMap<>(records.settings());
        elsewhere.put("host", "localhost");
        DestinationDefinition other = new DestinationDefinition("0badcafe", "Other", "", "mariadb", records.settings());
        DestinationDefinition moved = new DestinationDefinition(records.id(), records.name(), "", "mariadb", elsewhere);
        for (DestinationDefinition each : List.of(other, moved)) {
            assertThat(SITE.bean(Engine.class).unusable(each))
                    .contains("password")
                    .contains("again");
        }
        assertThat(SITE.bean(Engine.class).unusable(records)).isEmpty();
    }

    @Test
    void passwordsOfAnImportedFileAreSealedBeforeAnythingIsStored() throws Exception {
        Visitor engineer = as("engineer");
        Map<String, String> settings = new TreeMap<>(records().settings());
        settings.put("password", "in-clear-4711");
        engineer.post("/release/import", "text", file(settings, "0badcafe", "Brought", "mariadb"));
        assertThat(definitions.destination("0badcafe").orElseThrow().settings().get("password"))
                .startsWith("sealed:");
        assertThat(SITE.bean(JdbcClient.class)
                        .sql("SELECT COUNT(*) FROM draft WHERE document LIKE '%in-clear-4711%'")
                        .query(Long.class)
                        .single())
                .isZero();
        assertThat(engineer.get("/release").body()).doesNotContain("in-clear-4711");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "records?initSql=CREATE%20DATABASE%20made",
                "records?allowMultiQueries=true",
                "records&x=y",
                "rec/ords",
                "rec#ords",
                "a;b",
                "rec\\ords"
            })
    void theNameOfADatabaseBringsNoSettingsOfTheDriver(String name) throws Exception {
        Visitor engineer = as("engineer");
        for (String store : List.of("mariadb", "mysql", "postgresql")) {
            Map<String, String> settings = new TreeMap<>(records().settings());
            settings.putAll(Map.of("database", name, "password", ""));
            assertThat(engineer.post("/release/import", "text", file(settings, "0badcafe", "Odd", store))
                            .statusCode())
                    .as(store)
                    .isEqualTo(200);
            assertThat(definitions.drafts()).isEmpty();
            settings.putAll(Map.of("kind", store, "name", "Odd", "test", "1"));
            assertThat(engineer.post(
                                    "/records/destinations",
                                    settings.entrySet().stream()
                                            .flatMap(each -> List.of(each.getKey(), each.getValue()).stream())
                                            .toArray(String[]::new))
                            .body())
                    .as(store)
                    .contains("The name of a database has no");
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"127.0.0.1", "localhost", "127.0.0.2", "LOCALHOST", "0.0.0.0"})
    void ourOwnDatabaseIsNoDestinationByAnyName(String host) throws Exception {
        for (String database : List.of("dachshund", "DACHSHUND")) {
            Map<String, String> settings = new TreeMap<>(records().settings());
            settings.putAll(Map.of("host", host, "database", database, "user", "root", "password", ""));
            settings.put("port", Integer.toString(SITE.database.port()));
            DestinationDefinition own = new DestinationDefinition("0badcafe", "Own", "", "mariadb", settings);
            try (var store = SITE.bean(Engine.class).openStore(own)) {
                LinkTest test = store.test(java.time.Duration.ofSeconds(5));
                assertThat(test.worked()).isFalse();
                assertThat(test.sentence()).contains("own database");
            }
            settings.put("database", "quillmoor_records");
            DestinationDefinition beside = new DestinationDefinition("0badcafe", "Own", "", "mariadb", settings);
            try (var store = SITE.bean(Engine.class).openStore(beside);
                    var in = store.in(database)) {
                assertThat(in.test(java.time.Duration.ofSeconds(5)).sentence()).contains("own database");
            }
        }
    }

    @Test
    void aNameIsClosedHoweverItIsWritten() throws Exception {
        for (String name : List.of(" stranger", "STRANGER", "stranger ", "\u00a0stranger", "Stranger")) {
            new Visitor(SITE).post("/sign-in", "username", name, "password", "x");
        }
        assertThat(new Visitor(SITE)
                        .post("/sign-in", "username", "stranger", "password", "x")
                        .headers()
                        .firstValue("Location"))
                .get()
                .asString()
                .contains("?closed");
    }

    @Test
    void guessingTheOwnPasswordIsThrottledToo() throws Exception {
        Visitor admin = as("admin");
        Visitor guesser = admin.invites("guesser", "VIEWER");
        String answer = "";
        for (int i = 0; i < 6; i++) {
            answer = guesser.post("/password", "present", "wrong " + i, "next", "a longer one", "again", "a longer one")
                    .body();
        }
        assertThat(answer).contains("Too many");
        assertThat(new Visitor(SITE)
                        .post("/sign-in", "username", "guesser", "password", "x")
                        .headers()
                        .firstValue("Location"))
                .as("the sign-in is not closed by that")
                .hasValue("/sign-in?wrong");
        admin.post("/people/guesser/remove");
    }

    @Test
    void visitsWithoutASignInMakeNoSessions() throws Exception {
        int before = SITE.sessions();
        for (int i = 0; i < 30; i++) {
            new Visitor(SITE).get("/plant");
            new Visitor(SITE).get("/sign-in");
            new Visitor(SITE).get("/nowhere");
        }
        assertThat(SITE.sessions()).isLessThanOrEqualTo(before);
    }

    @Test
    void theHostThatARequestNamesIsNotEchoed() throws Exception {
        try (java.net.Socket socket = new java.net.Socket(
                "127.0.0.1", java.net.URI.create(SITE.address("/")).getPort())) {
            socket.getOutputStream()
                    .write("GET /plant HTTP/1.1\r\nHost: evil.example\r\nConnection: close\r\n\r\n"
                            .getBytes(java.nio.charset.StandardCharsets.US_ASCII));
            String answer = new String(socket.getInputStream().readAllBytes(), java.nio.charset.StandardCharsets.UTF_8);
            assertThat(answer).startsWith("HTTP/1.1 302").doesNotContain("evil.example");
        }
    }

    @Test
    void oddIdsGetASentence() throws Exception {
        Visitor engineer = as("engineer");
        for (String path : List.of("/watch/zzzzzzzz", "/watch/%20", "/error", "/records/zz", "/plant/sources/zz")) {
            assertThat(engineer.get(path).statusCode()).as(path).isLessThan(500);
        }
        for (String path : List.of("/records/zzzzzzzz/stop", "/records/zzzzzzzz/start", "/plant/sources/zz/pause")) {
            assertThat(engineer.post(path).statusCode()).as(path).isLessThan(500);
        }
        String odd = file(Map.of("folder", "odd", "format", "csv"), "an id that is far too long", "Odd", "folder");
        assertThat(engineer.post("/release/import", "text", odd).body()).doesNotContain("database is away");
    }

    @Test
    void whatIsUnderVarIsForItsOwnerAlone() throws Exception {
        assertThat(java.nio.file.attribute.PosixFilePermissions.toString(Files.getPosixFilePermissions(SITE.folder)))
                .isEqualTo("rwx------");
    }

    /** Release 0, before all, was once taken for a release in which there was nothing. */
    @Test
    void aReleaseThatNeverWasIsNotRolledBackTo() throws Exception {
        Visitor engineer = as("engineer");
        for (String release : List.of("0", "-1", "999999")) {
            engineer.post("/release/" + release + "/roll-back");
            assertThat(SITE.bean(Definitions.class).drafts()).as(release).isEmpty();
        }
    }

    /** What was tried, refused or taken out stands in the audit, with who and where. */
    @Test
    void whatIsTriedRefusedOrTakenOutStandsInTheAudit() throws Exception {
        Visitor viewer = as("viewer");
        viewer.post("/release");
        viewer.get("/people");
        viewer.postBare("/password", "present", "x");
        Visitor engineer = as("engineer");
        engineer.post(
                "/records/destinations",
                "kind",
                "mariadb",
                "name",
                "Far away",
                "host",
                "127.0.0.1",
                "port",
                "9",
                "database",
                "nothing",
                "user",
                "somebody",
                "password",
                "never in the audit",
                "connections",
                "4",
                "connectWithin",
                "1",
                "answerWithin",
                "5",
                "batchRows",
                "1000",
                "batchSeconds",
                "0",
                "holdRows",
                "0",
                "holdDays",
                "0",
                "test",
                "");
        engineer.get("/release/export");
        new Visitor(SITE).signIn("admin", "wrong one");
        assertThat(SITE.audit())
                .anyMatch(entry -> entry.startsWith("viewer: was refused: POST /release from "))
                .anyMatch(entry -> entry.startsWith("viewer: was refused: GET /people from "))
                .anyMatch(entry -> entry.startsWith("viewer: was refused: POST /password")
                        && entry.endsWith("without the token of an own page"))
                .anyMatch(entry -> entry.startsWith("engineer: failed to reach: ")
                        && entry.contains("Host 127.0.0.1, Port 9")
                        && entry.contains("somebody"))
                .anyMatch(entry -> entry.equals("engineer: took out a file: /release/export"))
                .anyMatch(entry -> entry.startsWith("admin: failed to sign in: from "))
                .noneMatch(entry -> entry.contains("never in the audit"));
        String csv = as("admin").get("/people/audit/audit.csv?who=viewer").body();
        assertThat(csv).contains("was refused").doesNotContain("engineer");
        assertThat(as("admin").post("/people/audit/check").statusCode()).isEqualTo(302);
        assertThat(as("admin").get("/people/audit?words=nothing-like-this").body())
                .contains("No entry is like that.");
    }
}
