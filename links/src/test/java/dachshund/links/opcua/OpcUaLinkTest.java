package dachshund.links.opcua;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.opcua.PelletWorksServer;
import java.net.ServerSocket;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The OPC UA link against a real server over a real socket. */
class OpcUaLinkTest {

    private static final String OUTLET = "nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Outlet temperature";
    private static final Duration PATIENCE = Duration.ofSeconds(20);

    private final ScheduledExecutorService work = Executors.newScheduledThreadPool(2);
    private PelletWorksServer server;
    private int port;

    @BeforeEach
    void startServer() throws Exception {
        port = PrivateMariaDb.freePort();
        server = PelletWorksServer.start(port, 7);
    }

    @AfterEach
    void stop() {
        work.shutdownNow();
        server.close();
    }

    private PlantLink link(String address) {
        return new OpcUaKind().open(Map.of("address", address), Duration.ofMillis(250), Instant::now);
    }

    @Test
    void testSaysWhoAnswered() {
        LinkTest test = link(server.address()).test(Duration.ofSeconds(5));
        assertThat(test.worked()).as(test.sentence()).isTrue();
        assertThat(test.sentence()).startsWith("Quillmoor Pellet Works answered at " + server.address());
    }

    @Test
    void eachWayToFailHasItsOwnSentence() throws Exception {
        assertThat(link("opc.tcp://no-such-host.invalid:4840").test(Duration.ofSeconds(3)).sentence())
                .startsWith("There is no host named no-such-host.invalid.");
        assertThat(link("opc.tcp://127.0.0.1:" + PrivateMariaDb.freePort()).test(Duration.ofSeconds(3)).sentence())
                .contains("refuses port");
        assertThat(link(server.address() + "/wrong/path").test(Duration.ofSeconds(3)).sentence())
                .contains("has no endpoint /wrong/path");
        try (ServerSocket silent = new ServerSocket(0)) {
            assertThat(link("opc.tcp://127.0.0.1:" + silent.getLocalPort()).test(Duration.ofSeconds(1)).sentence())
                    .contains("did not answer as an OPC UA server");
        }
    }

    @Test
    void browsingFindsFoldersAndTagsWithTheirFacts() throws Exception {
        PlantLink link = link(server.address());
        List<TagInfo> tags = new ArrayList<>();
        collect(link, "", "", tags);
        assertThat(tags).hasSizeGreaterThanOrEqualTo(95);
        TagInfo outlet = tags.stream().filter(tag -> tag.address().equals(OUTLET)).findFirst().orElseThrow();
        assertThat(outlet).isEqualTo(new TagInfo(OUTLET, "Drying / Drum dryer", "Outlet temperature", DataKind.NUMBER, "°C",
                "Exhaust air after the drum", false));
        assertThat(tags).anyMatch(tag -> tag.name().equals("Lot ID") && tag.kind() == DataKind.TEXT);
        assertThat(tags).anyMatch(tag -> tag.name().equals("Bag count") && tag.kind() == DataKind.INTEGER);
        assertThat(tags).anyMatch(tag -> tag.name().equals("Outlet temperature set point") && tag.writable());
    }

    private static void collect(PlantLink link, String folder, String path, List<TagInfo> tags) throws Exception {
        for (Found found : link.browse(folder, path)) {
            if (found instanceof Found.Tag tag) {
                tags.add(tag.info());
            } else if (found instanceof Found.Folder below) {
                collect(link, below.address(), path.isEmpty() ? below.name() : path + " / " + below.name(), tags);
            }
        }
    }

    /** The stand-in takes set points from any client, by its type and range, and the plant follows. */
    @Test
    void theSimulatedPlantTakesSetPoints() throws Exception {
        OpcUaClient client = OpcUaConnection.connect(OpcUaAddress.read(server.address()), Duration.ofSeconds(5)).client();
        OpcUaBrowser browser = new OpcUaBrowser(client);
        NodeId setPoint = browser.node("nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Fan speed set point");
        NodeId fan = browser.node("nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Fan speed");
        assertThat(client.writeValues(List.of(setPoint, fan), List.of(DataValue.valueOnly(new Variant(40.0)), DataValue.valueOnly(new Variant(40.0))))
                .stream().map(StatusCode::isGood)).containsExactly(true, false);
        await().atMost(PATIENCE).until(() -> (Double) client.readValue(0, TimestampsToReturn.Both, fan).getValue().getValue() < 60);
        assertThat(client.readValue(0, TimestampsToReturn.Both, setPoint).getValue().getValue()).isEqualTo(40.0);
        client.disconnect();
    }

    private static final class Heard implements PlantLink.Listener {
        final Map<String, TagValue> values = new ConcurrentHashMap<>();
        volatile LinkState state = LinkState.NOT_PROVEN;
        volatile String sentence = "";

        @Override
        public void onBatch(List<TagChange> changes) {
            changes.forEach(change -> values.put(change.address(), change.value()));
        }

        @Override
        public void onState(LinkState state, String sentence) {
            this.state = state;
            this.sentence = sentence;
        }
    }

    @Test
    void deliversValuesAndComesBackAfterTheServerWasAway() throws Exception {
        Heard heard = new Heard();
        String gone = "nsu=" + PelletWorksServer.NAMESPACE + ";s=No such tag";
        String elsewhere = "nsu=urn:nobody;s=Nothing";
        try (PlantLink link = link(server.address())) {
            link.want(List.of(OUTLET, gone, elsewhere));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.size() == 3);
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);
            TagValue outlet = heard.values.get(OUTLET);
            assertThat(outlet.quality()).isEqualTo(Quality.GOOD);
            assertThat((Double) outlet.value().orElseThrow()).isBetween(20.0, 200.0);
            assertThat(outlet.sourceTime()).isCloseTo(Instant.now(), org.assertj.core.api.Assertions.within(Duration.ofSeconds(10)));
            assertThat(heard.values.get(gone).quality().words()).contains("Bad_NodeIdUnknown");
            assertThat(heard.values.get(elsewhere).quality().isBad()).isTrue();

            server.close();
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.AWAY);
            assertThat(heard.sentence).contains("Trying again");
            heard.values.clear();
            server = PelletWorksServer.start(port, 8);
            await().atMost(PATIENCE).until(() -> heard.values.containsKey(OUTLET));
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);

            String feed = "nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Wet chip feed";
            link.want(List.of(feed));
            await().atMost(PATIENCE).until(() -> heard.values.containsKey(feed));
        }
    }
}
