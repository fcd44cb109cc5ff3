package dachshund.links.opcua;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;

import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.links.Heard;
import dachshund.links.Tear;
import dachshund.standins.PrivateProcess;
import dachshund.standins.SimulatedPlant;
import dachshund.standins.opcua.PelletWorksServer;
import java.net.ServerSocket;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.AtomicInteger;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The OPC UA link against a real server over a real socket. */
class OpcUaLinkTest {

    private static final String OUTLET =
            "nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Outlet temperature";
    private static final Duration PATIENCE = Duration.ofSeconds(60);

    private final ScheduledExecutorService work = Executors.newScheduledThreadPool(2);
    private SimulatedPlant server;
    private int port;

    @BeforeEach
    void startServer() throws Exception {
        port = PrivateProcess.freePort();
        server = SimulatedPlant.start(port, 7);
    }

    @AfterEach
    void stop() {
        work.shutdownNow();
        server.close();
    }

    @TempDir
    Path folder;

    private OpcUaTrust trust;

    private PlantLink link(String address) {
        return link(Map.of("address", address));
    }

    private PlantLink link(Map<String, String> settings) {
        trust = trust == null ? new OpcUaTrust(folder) : trust;
        return new OpcUaKind(trust)
                .open(new LinkKind.Opening("a0000001", settings, Duration.ofMillis(250), Instant::now));
    }

    private static TagInfo tag(String address) {
        return new TagInfo(address, "", address, DataKind.NUMBER, "", "", true);
    }

    private static TagInfo plant(String path) {
        return tag("nsu=" + PelletWorksServer.NAMESPACE + ";s=" + path);
    }

    @Test
    void testSaysWhoAnswered() {
        LinkTest test = link(server.address()).test(PATIENCE);
        assertThat(test.worked()).as(test.sentence()).isTrue();
        assertThat(test.sentence()).startsWith("Quillmoor Pellet Works answered at " + server.address());
    }

    @Test
    void eachWayToFailHasItsOwnSentence() throws Exception {
        assertThat(link("opc.tcp://no-such-host.invalid:4840").test(PATIENCE).sentence())
                .startsWith("There is no host named no-such-host.invalid.");
        assertThat(link("opc.tcp://127.0.0.1:" + PrivateProcess.freePort())
                        .test(PATIENCE)
                        .sentence())
                .contains("refuses port");
        assertThat(link(server.address() + "/wrong/path").test(PATIENCE).sentence())
                .contains("has no endpoint /wrong/path");
        try (ServerSocket silent = new ServerSocket(0)) {
            assertThat(link("opc.tcp://127.0.0.1:" + silent.getLocalPort())
                            .test(Duration.ofSeconds(1))
                            .sentence())
                    .contains("did not answer as an OPC UA server");
        }
    }

    @Test
    void browsingFindsFoldersAndTagsWithTheirFacts() throws Exception {
        PlantLink link = link(server.address());
        List<TagInfo> tags = new ArrayList<>();
        collect(link, "", "", tags);
        assertThat(tags).hasSizeGreaterThanOrEqualTo(95);
        TagInfo outlet = tags.stream()
                .filter(tag -> tag.address().equals(OUTLET))
                .findFirst()
                .orElseThrow();
        assertThat(outlet)
                .isEqualTo(new TagInfo(
                                OUTLET,
                                "Drying / Drum dryer",
                                "Outlet temperature",
                                DataKind.NUMBER,
                                "°C",
                                "Exhaust air after the drum",
                                false)
                        .withRange(Optional.of(new Range(0, 200))));
        assertThat(tags).anyMatch(tag -> tag.name().equals("Lot ID") && tag.kind() == DataKind.TEXT);
        assertThat(tags).anyMatch(tag -> tag.name().equals("Bag count") && tag.kind() == DataKind.INTEGER);
        assertThat(tags).anyMatch(tag -> tag.name().equals("Outlet temperature set point") && tag.writable());
        assertThatThrownBy(() -> link.browse("", "", "a,b\nc;d"))
                .isInstanceOf(LinkProblem.class)
                .hasMessageContaining("Open it again");
    }

    private static void collect(PlantLink link, String folder, String path, List<TagInfo> tags) throws Exception {
        for (Found found : link.browse(folder, path, "").found()) {
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
        OpcUaClient client = new OpcUaConnection(
                        new LinkKind.Opening(
                                "a0000001", Map.of("address", server.address()), Duration.ofSeconds(1), Instant::now),
                        new OpcUaTrust(folder))
                .connect(PATIENCE)
                .client();
        OpcUaBrowser browser = new OpcUaBrowser(client);
        NodeId setPoint =
                browser.node("nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Fan speed set point");
        NodeId fan = browser.node("nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Fan speed");
        assertThat(client
                        .writeValues(
                                List.of(setPoint, fan),
                                List.of(DataValue.valueOnly(new Variant(40.0)), DataValue.valueOnly(new Variant(40.0))))
                        .stream()
                        .map(StatusCode::isGood))
                .containsExactly(true, false);
        await().atMost(PATIENCE)
                .until(() -> (Double) client.readValue(0, TimestampsToReturn.Both, fan)
                                .getValue()
                                .getValue()
                        < 60);
        assertThat(client.readValue(0, TimestampsToReturn.Both, setPoint)
                        .getValue()
                        .getValue())
                .isEqualTo(40.0);
        client.disconnect();
    }

    /** Part 2 of the security model in practice: no certificate is trusted before a person said so. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "best",
                "Basic256Sha256 SignAndEncrypt",
                "Basic256Sha256 Sign",
                "Aes128_Sha256_RsaOaep SignAndEncrypt",
                "Aes256_Sha256_RsaPss SignAndEncrypt"
            })
    void withSecurityAPersonMustFirstAcceptTheServersCertificate(String security) {
        Map<String, String> settings = Map.of(
                "address",
                server.address(),
                "security",
                security,
                "signin",
                "user",
                "user",
                "operator",
                "password",
                "pellets");
        LinkTest before = link(settings).test(PATIENCE);
        assertThat(before.worked()).isFalse();
        assertThat(before.sentence()).contains("has not been accepted yet");
        assertThat(trust.seen())
                .hasSize(1)
                .allMatch(seen -> !seen.trusted() && seen.subject().contains("Quillmoor Pellet Works"));
        trust.trust(trust.seen().get(0).fingerprint());
        LinkTest after = link(settings).test(PATIENCE);
        assertThat(after.worked()).as(after.sentence()).isTrue();
        assertThat(after.sentence()).contains("signed in as operator");
        trust.distrust(trust.seen().get(0).fingerprint());
        assertThat(link(settings).test(PATIENCE).worked()).isFalse();
    }

    @Test
    void usersAndCertificatesSignInAndWrongOnesAreToldSo() {
        Map<String, String> operator =
                Map.of("address", server.address(), "signin", "user", "user", "operator", "password", "pellets");
        assertThat(link(operator).test(PATIENCE).sentence())
                .as("a password is encrypted for a certificate, so that must be accepted")
                .contains("has not been accepted yet");
        trust.trust(trust.seen().get(0).fingerprint());
        LinkTest user = link(operator).test(PATIENCE);
        assertThat(user.worked()).as(user.sentence()).isTrue();
        assertThat(link(Map.of("address", server.address(), "signin", "user", "user", "operator", "password", "wrong"))
                        .test(PATIENCE)
                        .sentence())
                .contains("gave no session")
                .contains("Compare user name and password");
        LinkTest certificate = link(Map.of("address", server.address(), "signin", "certificate"))
                .test(PATIENCE);
        assertThat(certificate.worked()).as(certificate.sentence()).isTrue();
        assertThat(link(Map.of("address", server.address(), "security", "Basic128Rsa15 SignAndEncrypt"))
                        .test(PATIENCE)
                        .sentence())
                .contains("none with Basic128Rsa15")
                .contains("It offers: ");
    }

    @Test
    void anotherAddressIsUsedWhenTheFirstFails() throws Exception {
        LinkTest test = link(Map.of(
                        "address", "opc.tcp://127.0.0.1:" + PrivateProcess.freePort(), "alternates", server.address()))
                .test(PATIENCE);
        assertThat(test.worked()).isTrue();
        assertThat(test.sentence()).contains("address 2 of 2").contains("refuses port");
    }

    @Test
    void writesByTypeReadsBackAndRefusesWhatDoesNotFit() throws Exception {
        TagInfo setPoint = plant("Drying/Drum dryer/Fan speed set point");
        try (PlantLink link = link(server.address())) {
            link.write(setPoint, 44.5, PATIENCE);
            assertThat(link.read(List.of(setPoint), PATIENCE)
                            .get(setPoint.address())
                            .value())
                    .contains(44.5);
            assertThatThrownBy(() -> link.write(setPoint, "fast", PATIENCE))
                    .isInstanceOf(LinkProblem.class)
                    .hasMessageContaining("Double");
            assertThatThrownBy(() -> link.write(plant("Drying/Drum dryer/Fan speed"), 5.0, PATIENCE))
                    .hasMessageContaining("refused the value");
        }
    }

    @Test
    void elementsAndFieldsAreTagsOfTheirOwn() throws Exception {
        List<TagInfo> tags = new ArrayList<>();
        PlantLink browsed = link(server.address());
        collect(browsed, "", "", tags);
        assertThat(tags).extracting(TagInfo::name).contains("Roller bearing temperatures [1]", "Accepted weights .Low");
        TagInfo second = tags.stream()
                .filter(tag -> tag.name().equals("Roller bearing temperatures [1]"))
                .findFirst()
                .orElseThrow();
        TagInfo low = tags.stream()
                .filter(tag -> tag.name().equals("Accepted weights .Low"))
                .findFirst()
                .orElseThrow();
        assertThat(second.kind()).isEqualTo(DataKind.NUMBER);
        assertThat(browsed.read(List.of(second, low), PATIENCE).values())
                .allMatch(value -> value.value().orElse(null) instanceof Double);
        Heard heard = new Heard();
        try (PlantLink link = link(server.address())) {
            link.want(List.of(
                    second,
                    low,
                    OpcUaPart.element(plant("Pelleting/PL1/Roller bearing temperatures"), DataKind.NUMBER, 17)));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.size() == 3);
            assertThat((Double) heard.values.get(second.address()).value().orElseThrow())
                    .isBetween(20.0, 120.0);
            assertThat((Double) heard.values.get(low.address()).value().orElseThrow())
                    .isBetween(14_000.0, 15_500.0);
            assertThat(heard.values
                            .get(plant("Pelleting/PL1/Roller bearing temperatures")
                                            .address() + " [17]")
                            .quality()
                            .words())
                    .contains("Bad_IndexRangeNoData");
        }
    }

    @Test
    void anEnumerationIsAWholeNumberWithTheServersWordsForIt() throws Exception {
        List<TagInfo> tags = new ArrayList<>();
        try (PlantLink browsed = link(server.address())) {
            collect(browsed, "", "", tags);
            TagInfo phase = tags.stream()
                    .filter(tag -> tag.name().equals("Phase"))
                    .findFirst()
                    .orElseThrow();
            assertThat(phase.kind()).isEqualTo(DataKind.INTEGER);
            assertThat(phase.states()).isEqualTo("0=idle\n1=run\n2=fault\n3=clean");
            assertThat(phase.state("2")).contains("fault");
            assertThat(phase.state("7")).isEmpty();
            TagInfo weight = tags.stream()
                    .filter(tag -> tag.name().equals("Weight class"))
                    .findFirst()
                    .orElseThrow();
            assertThat(weight.kind()).isEqualTo(DataKind.INTEGER);
            assertThat(weight.states()).as("of a definition").isEqualTo("-1=under\n0=within\n1=over");
            assertThat(tags.stream().filter(tag -> tag.name().equals("Interlocks")))
                    .as("numbers of bits are no values")
                    .singleElement()
                    .matches(tag -> tag.states().isEmpty());
            assertThat(browsed.read(List.of(phase), PATIENCE)
                            .get(phase.address())
                            .value())
                    .contains(1L);
        }
    }

    @Test
    void bytesAreBase64OrHexadecimalByChoice() throws Exception {
        TagInfo chip = plant("Pelleting/PL1/Die chip");
        Map<String, String> settings = Map.of("address", server.address());
        try (PlantLink link = link(settings)) {
            assertThat(link.read(List.of(chip), PATIENCE).get(chip.address()).value())
                    .contains("DayFAC8=");
        }
        settings = Map.of("address", server.address(), "bytes", "hex");
        Heard heard = new Heard();
        try (PlantLink link = link(settings)) {
            assertThat(link.read(List.of(chip), PATIENCE).get(chip.address()).value())
                    .contains("0DAC85002F");
            link.want(List.of(chip));
            link.start(heard, work);
            await().atMost(PATIENCE)
                    .until(() -> heard.values.containsKey(chip.address())
                            && heard.values.get(chip.address()).value().equals(Optional.of("0DAC85002F")));
        }
    }

    @Test
    void theServersHistoryComesInOrderAndWithinItsWindow() throws Exception {
        Instant from = Instant.now();
        TagInfo fan = plant("Drying/Drum dryer/Fan speed");
        try (PlantLink link = link(server.address())) {
            await().atMost(PATIENCE)
                    .until(() -> link.history(fan, from, Instant.now(), 100).size() >= 4);
            List<TagValue> all = link.history(fan, from, Instant.now(), 100);
            assertThat(all).extracting(TagValue::sourceTime).isSorted().allMatch(time -> !time.isBefore(from));
            assertThat(link.history(fan, from, Instant.now(), 2))
                    .extracting(TagValue::value)
                    .isEqualTo(all.stream().limit(2).map(TagValue::value).toList());
        }
    }

    @Test
    void aDeadBandKeepsSmallChangesAway() {
        TagInfo fan = plant("Drying/Drum dryer/Fan speed").withRange(Optional.of(new Range(0, 100)));
        TagInfo feed = plant("Drying/Drum dryer/Wet chip feed");
        AtomicInteger fans = new AtomicInteger();
        AtomicInteger feeds = new AtomicInteger();
        Heard heard = new Heard() {
            @Override
            public void onBatch(List<TagChange> changes) {
                changes.forEach(change -> (change.address().equals(fan.address()) ? fans : feeds).incrementAndGet());
            }
        };
        Heard all = new Heard() {
            @Override
            public void onBatch(List<TagChange> changes) {
                changes.stream()
                        .filter(change -> change.address().equals(fan.address()))
                        .forEach(change -> feeds.incrementAndGet());
            }
        };
        try (PlantLink banded = link(Map.of("address", server.address(), "deadband", "50"));
                PlantLink plain = link(server.address())) {
            banded.want(List.of(fan, feed));
            plain.want(List.of(fan));
            banded.start(heard, work);
            plain.start(all, work);
            await().atMost(PATIENCE).until(() -> feeds.get() >= 6);
            assertThat(fans.get())
                    .as("only the first value, because no change is larger than 50 %")
                    .isEqualTo(1);
        }
    }

    @Test
    void deliversValuesAndComesBackAfterTheServerWasAway() throws Exception {
        Heard heard = new Heard();
        String gone = "nsu=" + PelletWorksServer.NAMESPACE + ";s=No such tag";
        String elsewhere = "nsu=urn:nobody;s=Nothing";
        try (PlantLink link = link(server.address())) {
            link.want(List.of(tag(OUTLET), tag(gone), tag(elsewhere)));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.size() == 3);
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);
            TagValue outlet = heard.values.get(OUTLET);
            assertThat(outlet.quality()).isEqualTo(Quality.GOOD);
            assertThat((Double) outlet.value().orElseThrow()).isBetween(20.0, 200.0);
            assertThat(outlet.sourceTime())
                    .isCloseTo(Instant.now(), org.assertj.core.api.Assertions.within(Duration.ofSeconds(10)));
            assertThat(heard.values.get(gone).quality().words()).contains("Bad_NodeIdUnknown");
            assertThat(heard.values.get(elsewhere).quality().isBad()).isTrue();

            server.close();
            await().atMost(PATIENCE).until(() -> heard.state == LinkState.AWAY);
            assertThat(heard.sentence).contains("Trying again");
            heard.values.clear();
            server = SimulatedPlant.start(port, 8);
            await().atMost(PATIENCE).until(() -> heard.values.containsKey(OUTLET));
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);

            String feed = "nsu=" + PelletWorksServer.NAMESPACE + ";s=Drying/Drum dryer/Wet chip feed";
            link.want(List.of(tag(feed)));
            await().atMost(PATIENCE).until(() -> heard.values.containsKey(feed));
        }
    }

    /** Wherever a server falls silent or dies while it is connected to, the link says so, answers its page, and comes back. */
    @Test
    void aServerThatDiesAnywhereWhileItIsConnectedToIsSaidAndFoundAgain() throws Exception {
        List<Tear> tears = new ArrayList<>();
        List<PlantLink> links = new ArrayList<>();
        List<Heard> heard = new ArrayList<>();
        TagInfo outlet = tag(OUTLET);
        ScheduledExecutorService threads = Executors.newScheduledThreadPool(16);
        try {
            for (long after : new long[] {0, 40, 900, 2500}) {
                for (boolean silently : new boolean[] {true, false}) {
                    Tear tear = new Tear(port, after, silently);
                    PlantLink link = link("opc.tcp://127.0.0.1:" + tear.port());
                    link.want(List.of(outlet));
                    tears.add(tear);
                    links.add(link);
                    heard.add(new Heard());
                    link.start(heard.get(heard.size() - 1), threads);
                }
            }
            await().atMost(PATIENCE).until(() -> tears.stream().allMatch(Tear::torn));
            await().atMost(PATIENCE).until(() -> heard.stream().allMatch(each -> each.state == LinkState.AWAY));
            assertThat(heard).allSatisfy(each -> assertThat(each.sentence).contains("Trying again in"));
            long from = System.nanoTime();
            links.forEach(PlantLink::health);
            assertThat(Duration.ofNanos(System.nanoTime() - from)).isLessThan(PATIENCE);
            tears.forEach(Tear::mend);
            await().atMost(PATIENCE).until(() -> heard.stream()
                    .allMatch(each -> each.state == LinkState.CONNECTED && each.values.containsKey(OUTLET)));
        } finally {
            for (PlantLink link : links) {
                link.close();
            }
            for (Tear tear : tears) {
                tear.close();
            }
            threads.shutdownNow();
        }
    }
}
