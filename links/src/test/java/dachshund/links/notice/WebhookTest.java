package dachshund.links.notice;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.sun.net.httpserver.HttpServer;
import dachshund.core.notice.Calm.Line;
import dachshund.core.notice.Calm.What;
import dachshund.core.notice.Carrier.Undelivered;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Message;
import dachshund.core.notice.Sort;
import dachshund.core.reach.Outside;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class WebhookTest {

    private static final Instant NOW = Instant.ofEpochSecond(1_674_087_231);
    private static final byte[] SECRET = "plJ3nmyCDGBKInavdOK15jsl".getBytes(StandardCharsets.UTF_8);
    private static final Message MESSAGE = new Message(
            "msg_1",
            NOW,
            "Quillmoor",
            "UTC",
            List.of(new Line(
                    What.BEGAN, new Matter("held:b1", Sort.HELD, "Records", "", Set.of(), "It is \"away\".", NOW))));

    private final Map<String, String> got = new ConcurrentHashMap<>();
    private final Webhook webhook = new Webhook(() -> SECRET, Outside.ANYWHERE, () -> NOW);
    private volatile int status = 204;
    private HttpServer server;
    private String address;

    @BeforeEach
    void start() throws IOException {
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 5);
        server.createContext("/", exchange -> {
            got.put("path", exchange.getRequestURI().getPath());
            got.put("body", new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            exchange.getRequestHeaders()
                    .forEach((name, values) -> got.put(name.toLowerCase(java.util.Locale.ROOT), values.get(0)));
            exchange.getResponseHeaders().set("Location", "/elsewhere");
            exchange.sendResponseHeaders(status, -1);
            exchange.close();
        });
        server.start();
        address = "http://127.0.0.1:" + server.getAddress().getPort() + "/hook";
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    private Undelivered refused(String to) {
        return catchThrowableOfType(Undelivered.class, () -> webhook.carry(List.of(to), MESSAGE));
    }

    @Test
    void aMessageArrivesAsJsonAndItsSignatureIsWhatItsReceiverComputes() throws Exception {
        webhook.carry(List.of(address), MESSAGE);
        JsonNode body = new ObjectMapper().readTree(got.get("body"));
        assertThat(body.at("/data/matters/0/thing").asText()).isEqualTo("Records");
        assertThat(body.at("/data/matters/0/sentence").asText()).isEqualTo("It is \"away\".");
        assertThat(body.at("/data/matters/0/state").asText()).isEqualTo("began");
        Mac mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(SECRET, "HmacSHA256"));
        byte[] signed = mac.doFinal((got.get("webhook-id") + "." + got.get("webhook-timestamp") + "." + got.get("body"))
                .getBytes(StandardCharsets.UTF_8));
        assertThat(got.get("webhook-signature"))
                .isEqualTo("v1," + Base64.getEncoder().encodeToString(signed));
        assertThat(got).containsEntry("webhook-id", "msg_1").containsEntry("webhook-timestamp", "1674087231");
    }

    @Test
    void whatIsAnsweredDecidesWhetherItIsTriedAgain() {
        for (int good : new int[] {200, 201, 204}) {
            status = good;
            assertThat(refused(address)).as("" + good).isNull();
        }
        for (int later : new int[] {408, 429, 500, 503}) {
            status = later;
            assertThat(refused(address).forGood()).as("" + later).isFalse();
        }
        for (int never : new int[] {301, 307, 400, 404, 410}) {
            status = never;
            got.clear();
            assertThat(refused(address).forGood()).as("" + never).isTrue();
            assertThat(got).as("no redirect is followed").containsEntry("path", "/hook");
        }
    }

    @Test
    void whereThereIsNobodyOrNobodyMayGoThatIsSaid() {
        assertThat(refused("http://127.0.0.1:1/").getMessage()).contains("127.0.0.1:1 cannot be reached");
        Webhook forbidden = new Webhook(
                () -> SECRET,
                new Outside() {
                    @Override
                    public void check(String host, int port) throws Refused {
                        throw new Refused("No connection may go to " + host + ":" + port + ".");
                    }

                    @Override
                    public void check(String host, int port, String database) {
                        // no database here
                    }
                },
                () -> NOW);
        assertThat(catchThrowableOfType(
                        Undelivered.class, () -> forbidden.carry(List.of("https://chat.example.org/x"), MESSAGE)))
                .hasMessage("No connection may go to chat.example.org:443.");
    }
}
