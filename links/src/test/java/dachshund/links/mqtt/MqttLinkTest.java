package dachshund.links.mqtt;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5BlockingClient;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.links.Heard;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mqtt.PrivateBroker;
import dachshund.standins.mqtt.SiloSensors;
import dachshund.standins.plant.PelletWorks;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPair;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateGenerator;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** The MQTT link against a real broker. */
class MqttLinkTest {

    private static final Duration PATIENCE = Duration.ofSeconds(60);
    private static final Duration LIMIT = Duration.ofSeconds(30);

    private final ScheduledExecutorService work = Executors.newScheduledThreadPool(4);
    private PrivateBroker broker;

    @BeforeEach
    void startBroker() throws IOException {
        broker = new PrivateBroker(PrivateProcess.freePort());
    }

    @AfterEach
    void stop() {
        work.shutdownNow();
        broker.close();
    }

    private PlantLink link(String... more) {
        Map<String, String> settings = new HashMap<>(
                Map.of("host", "127.0.0.1", "port", Integer.toString(broker.port()), "topics", "quillmoor/#"));
        for (int i = 0; i < more.length; i += 2) {
            settings.put(more[i], more[i + 1]);
        }
        return new MqttKind().open(new LinkKind.Opening("a0000001", settings, Duration.ofSeconds(1), Instant::now));
    }

    private static TagInfo tag(String address, DataKind kind, String... how) {
        Map<String, String> description = new HashMap<>();
        for (int i = 0; i < how.length; i += 2) {
            description.put(how[i], how[i + 1]);
        }
        return new MqttKind().described(new TagInfo(address, "", address, kind, "", "", false).withHow(description));
    }

    private Mqtt5BlockingClient publisher(String id) {
        Mqtt5BlockingClient client = MqttClient.builder()
                .useMqttVersion5()
                .identifier(id)
                .serverHost("127.0.0.1")
                .serverPort(broker.port())
                .buildBlocking();
        client.connect();
        return client;
    }

    private static void send(Mqtt5BlockingClient client, String topic, String payload, boolean retain) {
        client.publishWith()
                .topic(topic)
                .payload(payload.getBytes(StandardCharsets.UTF_8))
                .retain(retain)
                .qos(MqttQos.AT_LEAST_ONCE)
                .send();
    }

    @ParameterizedTest
    @ValueSource(strings = {"5", "3.1.1"})
    void plainValuesJsonPartsOwnTimesAndRetainedMessages(String version) {
        Mqtt5BlockingClient sensor = publisher("sensor");
        send(sensor, "quillmoor/a/old", "17.5", true);
        Heard heard = new Heard();
        try (PlantLink link = link("version", version)) {
            link.want(List.of(
                    tag("old", DataKind.NUMBER, "topic", "quillmoor/a/old"),
                    tag("level", DataKind.NUMBER, "topic", "quillmoor/a/level"),
                    tag("temp", DataKind.NUMBER, "topic", "quillmoor/a/climate", "pointer", "/t/0", "time", "/ts"),
                    tag("nothing", DataKind.NUMBER, "topic", "quillmoor/a/climate", "pointer", "/t/9"),
                    tag("on", DataKind.BOOLEAN, "topic", "elsewhere/on")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.containsKey("old"));
            assertThat(heard.values.get("old").value()).contains(17.5);
            assertThat(heard.values.get("old").quality().words()).contains("retained");
            await().atMost(PATIENCE).until(() -> {
                send(sensor, "quillmoor/a/level", " 63.25 ", false);
                send(sensor, "elsewhere/on", "true", false);
                send(
                        sensor,
                        "quillmoor/a/climate",
                        "{\"t\": [21.75, 3], \"ts\": \"2026-11-25T06:00:00.123456700Z\"}",
                        false);
                return heard.values.size() == 5;
            });
            assertThat(heard.values.get("level").value()).contains(63.25);
            assertThat(heard.values.get("on").value()).contains(true);
            assertThat(heard.values.get("temp").value()).contains(21.75);
            assertThat(heard.values.get("temp").sourceTime())
                    .isEqualTo(Instant.parse("2026-11-25T06:00:00.123456700Z"));
            assertThat(heard.values.get("nothing").quality().words()).contains("nothing at /t/9");
        }
        sensor.disconnect();
    }

    @ParameterizedTest
    @CsvSource({
        "1764050400, 2025-11-25T06:00:00Z",
        "1764050400.5, 2025-11-25T06:00:00.500Z",
        "1764050400123, 2025-11-25T06:00:00.123Z"
    })
    void epochTimesInSecondsOrMilliseconds(String text, Instant expected) throws Exception {
        byte[] json = ("{\"ts\": " + text + "}").getBytes(StandardCharsets.UTF_8);
        assertThat(new Payload(java.nio.ByteBuffer.wrap(json)).time("/ts")).isEqualTo(expected);
    }

    /** The table of matches in MQTT 5 (OASIS), 4.7.1, from memory. */
    @ParameterizedTest
    @CsvSource({
        "sport/tennis/player1/#, sport/tennis/player1, true",
        "sport/tennis/player1/#, sport/tennis/player1/score/wimbledon, true",
        "sport/#, sport, true",
        "sport/tennis/+, sport/tennis/player1, true",
        "sport/tennis/+, sport/tennis/player1/ranking, false",
        "sport/+, sport, false",
        "sport/+, sport/, true",
        "+/+, /finance, true",
        "/+, /finance, true",
        "+, /finance, false",
        "#, $SYS/broker, false",
        "+/monitor/Clients, $SYS/monitor/Clients, false",
        "$SYS/#, $SYS/broker, true"
    })
    void filtersMatchAsTheStandardSays(String filter, String topic, boolean matches) {
        assertThat(Topics.matches(filter, topic)).isEqualTo(matches);
    }

    @Test
    void topicsAreListedAsTheyArriveAndTheirTagsTakeValuesAndCommands() throws Exception {
        PelletWorks plant = new PelletWorks(7, Instant.now());
        SiloSensors sensors = new SiloSensors(broker.port(), plant.silos());
        try (PlantLink link = link()) {
            Heard heard = new Heard();
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> {
                sensors.publish();
                return link.health().counts().get("topics heard") >= 13;
            });
            assertThat(link.health().latest())
                    .hasSize(12)
                    .anyMatch(latest -> latest.where().equals("quillmoor/silos/S1/climate")
                            && latest.text().startsWith("{\"temperature\""));
            List<Found> top = link.browse("", "", "").found();
            assertThat(top).containsExactly(new Found.Folder("quillmoor/", "", "quillmoor"));
            List<Found> silo = link.browse("quillmoor/silos/S2/", "quillmoor / silos / S2", "")
                    .found();
            assertThat(silo)
                    .extracting(found -> ((Found.Tag) found).info().name())
                    .contains("level", "climate temperature", "climate battery", "climate ts", "fan");
            TagInfo fan = tag(
                    "fan", DataKind.BOOLEAN, "topic", "quillmoor/silos/S2/fan", "write", "quillmoor/silos/S2/fan/set");
            link.want(List.of(fan));
            await().atMost(PATIENCE).until(() -> heard.values.containsKey("fan"));
            link.write(fan, true, LIMIT);
            await().atMost(PATIENCE)
                    .until(() ->
                            link.read(List.of(fan), LIMIT).get("fan").value().equals(Optional.of(true)));
            assertThatThrownBy(() -> link.write(tag("x", DataKind.NUMBER, "topic", "quillmoor/x"), 1.0, LIMIT))
                    .hasMessageContaining("no topic to write to");
        } finally {
            sensors.close();
        }
    }

    /** A client of its own hears what was published; one that comes later hears what is retained. */
    @ParameterizedTest
    @ValueSource(strings = {"5", "3.1.1"})
    void aMessageIsPublishedAndKeptWhereThatIsAsked(String version) throws Exception {
        Heard heard = new Heard();
        Mqtt5BlockingClient listener = publisher("listener");
        try (PlantLink link = link("version", version);
                Mqtt5BlockingClient.Mqtt5Publishes messages =
                        listener.publishes(com.hivemq.client.mqtt.MqttGlobalPublishFilter.ALL)) {
            assertThatThrownBy(() -> link.publish("lots/1", "x", false, LIMIT)).hasMessageContaining("not connected");
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> published(link));
            listener.subscribeWith().topicFilter("lots/#").send();
            link.publish("lots/PL1-7", "{\"kilos\":812.5}", true, LIMIT);
            var message = messages.receive(5, TimeUnit.SECONDS).orElseThrow();
            assertThat(message.getTopic()).hasToString("lots/PL1-7");
            assertThat(new String(message.getPayloadAsBytes(), StandardCharsets.UTF_8))
                    .isEqualTo("{\"kilos\":812.5}");
            link.want(List.of(tag("lot", DataKind.NUMBER, "topic", "lots/PL1-7", "pointer", "/kilos")));
            await().atMost(PATIENCE).until(() -> heard.values.containsKey("lot"));
            assertThat(heard.values.get("lot").value()).contains(812.5);
            assertThat(heard.values.get("lot").quality().words()).contains("retained");
            assertThatThrownBy(() -> link.publish("lots/+", "x", false, LIMIT)).hasMessageContaining("is no topic");
            assertThatThrownBy(() -> link.publish("", "x", false, LIMIT)).hasMessageContaining("is no topic");
        } finally {
            listener.disconnect();
        }
    }

    private static boolean published(PlantLink link) {
        try {
            link.publish("elsewhere", "x", false, LIMIT);
            return true;
        } catch (LinkProblem notYet) {
            return false;
        }
    }

    @Test
    void aLastWillMakesTheTagsBesideItBad() {
        Heard heard = new Heard();
        Mqtt5BlockingClient sensor = publisher("sensor");
        try (PlantLink link = link("status", "quillmoor/+/status")) {
            link.want(List.of(
                    tag("a", DataKind.NUMBER, "topic", "quillmoor/a/level"),
                    tag("b", DataKind.NUMBER, "topic", "quillmoor/b/level")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> {
                send(sensor, "quillmoor/a/level", "1", false);
                send(sensor, "quillmoor/b/level", "2", false);
                return heard.values.size() == 2;
            });
            send(sensor, "quillmoor/a/status", "offline", false);
            await().atMost(PATIENCE).until(() -> heard.values.get("a").quality().isBad());
            assertThat(heard.values.get("a").quality().words()).isEqualTo("quillmoor/a/status says offline");
            assertThat(heard.values.get("b").quality().isGood()).isTrue();
        }
        sensor.disconnect();
    }

    @Test
    void twoClientsWithOneIdAreExplained() {
        Heard heard = new Heard();
        try (PlantLink link = link("client", "twin")) {
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.CONNECTED);
            Mqtt5BlockingClient twin = publisher("twin");
            await().atMost(PATIENCE)
                    .until(() -> heard.problems.stream().anyMatch(problem -> problem.contains("client id twin"))
                            || heard.sentence.contains("client id twin"));
            assertThat(heard.sentence + heard.problems).contains("Give each client its own id");
            if (twin.getState().isConnected()) {
                twin.disconnect();
            }
        }
    }

    @Test
    void silenceIsExplained() throws Exception {
        int other = PrivateProcess.freePort();
        assertThat(link("port", Integer.toString(other)).test(LIMIT).sentence()).contains("refuses port");
        assertThat(link().test(LIMIT).sentence())
                .contains("A broker answered")
                .contains("client id dachshund-a0000001-");
        Instant[] now = {Instant.parse("2026-11-25T06:00:00Z")};
        PlantLink link = new MqttKind()
                .open(new LinkKind.Opening(
                        "a0000001",
                        Map.of("host", "127.0.0.1", "port", Integer.toString(broker.port()), "topics", "Quillmoor/#"),
                        Duration.ofSeconds(1),
                        () -> now[0]));
        Heard heard = new Heard();
        try (link) {
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.CONNECTED);
            now[0] = now[0].plusSeconds(180);
            assertThat(link.health().remarks())
                    .singleElement()
                    .asString()
                    .contains("Quillmoor/#: nothing since connecting 3 min ago; nothing retained");
        }
    }

    @Test
    void usersAndTlsWithAnAuthorityOfOnesOwn() throws Exception {
        Path users = broker.folder().resolve("users");
        assertThat(new ProcessBuilder("mosquitto_passwd", "-b", "-c", users.toString(), "operator", "pellets")
                        .start()
                        .waitFor())
                .isZero();
        KeyPair keys = SelfSignedCertificateGenerator.generateEcKeyPair(256);
        X509Certificate certificate = new SelfSignedCertificateBuilder(keys)
                .setSignatureAlgorithm(SelfSignedCertificateBuilder.SA_SHA256_ECDSA)
                .setCommonName("127.0.0.1")
                .setApplicationUri("urn:test")
                .addIpAddress("127.0.0.1")
                .addDnsName("localhost")
                .build();
        String pem = pem("CERTIFICATE", certificate.getEncoded());
        Path certificateFile = Files.writeString(broker.folder().resolve("cert.pem"), pem);
        Path keyFile = Files.writeString(
                broker.folder().resolve("key.pem"),
                pem("PRIVATE KEY", keys.getPrivate().getEncoded()));
        int port = PrivateProcess.freePort();
        try (PrivateBroker secure = new PrivateBroker(
                port,
                "allow_anonymous false",
                "password_file " + users,
                "certfile " + certificateFile,
                "keyfile " + keyFile)) {
            String[] good = {
                "port",
                Integer.toString(port),
                "tls",
                "true",
                "authority",
                pem,
                "user",
                "operator",
                "password",
                "pellets"
            };
            assertThat(link(good).test(PATIENCE).sentence()).contains("with TLS");
            assertThat(link("port", Integer.toString(port), "tls", "true", "authority", pem)
                            .test(PATIENCE)
                            .sentence())
                    .contains("refused the connection")
                    .contains("user name");
            assertThat(link(
                                    "port",
                                    Integer.toString(port),
                                    "tls",
                                    "true",
                                    "authority",
                                    pem,
                                    "user",
                                    "operator",
                                    "password",
                                    "wrong")
                            .test(PATIENCE)
                            .sentence())
                    .contains("Compare user name and password");
            LinkTest unknown = link(
                            "port", Integer.toString(port), "tls", "true", "user", "operator", "password", "pellets")
                    .test(PATIENCE);
            assertThat(unknown.sentence()).contains("certificate of the broker").contains("authority");
            assertThat(unknown.shown().replaceAll("\\s", "")).isEqualTo(pem.replaceAll("\\s", ""));
            assertThat(link("port", Integer.toString(port), "tls", "true", "authority", "nonsense")
                            .test(PATIENCE)
                            .sentence())
                    .contains("-----BEGIN CERTIFICATE-----");
            assertThat(link("port", Integer.toString(port)).test(PATIENCE).sentence())
                    .contains("not as an MQTT broker");
        }
    }

    private static String pem(String what, byte[] der) {
        return "-----BEGIN " + what + "-----\n"
                + Base64.getMimeEncoder(64, "\n".getBytes(StandardCharsets.US_ASCII))
                        .encodeToString(der) + "\n-----END " + what + "-----\n";
    }

    @Test
    void comesBackAfterTheBrokerWasAway() {
        Heard heard = new Heard();
        try (PlantLink link = link()) {
            link.want(List.of(tag("a", DataKind.NUMBER, "topic", "quillmoor/a")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.CONNECTED);
            broker.kill();
            await().atMost(PATIENCE)
                    .until(() -> heard.state == LinkState.AWAY && heard.sentence.contains("Trying again"));
            broker.start();
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.CONNECTED);
            Mqtt5BlockingClient sensor = publisher("sensor");
            await().atMost(PATIENCE).until(() -> {
                send(sensor, "quillmoor/a", "5", false);
                return heard.values.containsKey("a");
            });
            sensor.disconnect();
        }
    }

    @Test
    void tenThousandMalformedMessagesAreCountedAndTheNextGoodOneIsTaken() {
        Random random = new Random(3);
        Heard heard = new Heard();
        Mqtt5BlockingClient sensor = publisher("sensor");
        try (PlantLink link = link()) {
            link.want(List.of(tag("a", DataKind.NUMBER, "topic", "quillmoor/a", "pointer", "/v", "time", "/ts")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.CONNECTED);
            await().atMost(PATIENCE).until(() -> {
                send(sensor, "quillmoor/a", "{\"v\": 1, \"ts\": 1764050400}", false);
                return heard.values.containsKey("a");
            });
            for (int i = 0; i < 10_000; i++) {
                byte[] payload =
                        switch (i % 7) {
                            case 0 -> noise(random);
                            case 1 -> "{\"v\": ".getBytes(StandardCharsets.UTF_8);
                            case 2 -> "{\"v\": \"warm\", \"ts\": 1}".getBytes(StandardCharsets.UTF_8);
                            case 3 -> "{\"v\": 1, \"ts\": \"yesterday\"}".getBytes(StandardCharsets.UTF_8);
                            case 4 -> "[".repeat(3000).getBytes(StandardCharsets.UTF_8);
                            case 5 -> new byte[0];
                            default -> "{\"v\": 1e999999999, \"ts\": 1}".getBytes(StandardCharsets.UTF_8);
                        };
                sensor.publishWith()
                        .topic("quillmoor/a")
                        .payload(payload)
                        .qos(i % 500 == 499 ? MqttQos.AT_LEAST_ONCE : MqttQos.AT_MOST_ONCE)
                        .send();
            }
            await().atMost(Duration.ofSeconds(60))
                    .until(() -> link.health().counts().get("values that could not be read") == 10_000);
            assertThat(heard.values.get("a").quality().isBad()).isTrue();
            send(sensor, "quillmoor/a", "{\"v\": 2.5, \"ts\": 1764050401}", false);
            await().atMost(PATIENCE).until(() -> heard.values.get("a").value().isPresent());
            assertThat(heard.values.get("a").value()).contains(2.5);
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);
        }
        sensor.disconnect();
    }

    private static byte[] noise(Random random) {
        byte[] bytes = new byte[1 + random.nextInt(200)];
        random.nextBytes(bytes);
        return bytes;
    }
}
