package dachshund.links.modbus;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;

import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.links.Heard;
import dachshund.standins.PrivateProcess;
import dachshund.standins.modbus.MeterServer;
import dachshund.standins.plant.PelletWorks;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BiFunction;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The Modbus link against the simulated meters over real sockets, and against devices that misbehave byte by byte. */
class ModbusLinkTest {

    private static final Duration PATIENCE = Duration.ofSeconds(60);
    private static final Duration LIMIT = Duration.ofSeconds(30);

    private final ScheduledExecutorService work = Executors.newScheduledThreadPool(4);
    private final PelletWorks plant = new PelletWorks(7, Instant.parse("2026-11-17T06:00:00Z"));
    private MeterServer meters;
    private int port;

    @BeforeEach
    void choosePort() throws IOException {
        port = PrivateProcess.freePort();
    }

    @AfterEach
    void stop() {
        work.shutdownNow();
        if (meters != null) {
            meters.close();
        }
    }

    private PlantLink link(String... more) {
        Map<String, String> settings =
                new HashMap<>(Map.of("host", "127.0.0.1", "port", Integer.toString(port), "timeout", "300"));
        for (int i = 0; i < more.length; i += 2) {
            settings.put(more[i], more[i + 1]);
        }
        return new ModbusKind().open(new LinkKind.Opening("a0000001", settings, Duration.ofMillis(100), Instant::now));
    }

    private static TagInfo tag(String address, String... how) {
        Map<String, String> description = new HashMap<>();
        for (int i = 0; i < how.length; i += 2) {
            description.put(how[i], how[i + 1]);
        }
        return new ModbusKind()
                .described(new TagInfo(address, "", address, DataKind.NUMBER, "", "", false).withHow(description));
    }

    @ParameterizedTest
    @ValueSource(strings = {"tcp", "rtu"})
    void readsEveryTypeAndWritesSingleMultipleAndBits(String framing) throws Exception {
        meters = MeterServer.start(port, framing.equals("rtu"), plant.meters());
        TagInfo power = tag("power", "unit_id", "1", "register", "30001", "type", "float32");
        TagInfo lowFirst = tag("low", "unit_id", "7", "register", "30001", "type", "float32", "order", "cdab");
        TagInfo energy =
                tag("energy", "unit_id", "4", "table", "input", "register", "10", "type", "uint32", "scale", "0.1");
        TagInfo wide = tag("wide", "unit_id", "4", "table", "input", "register", "12", "type", "uint64");
        TagInfo factor = tag("factor", "unit_id", "1", "register", "30021", "type", "uint16", "scale", "0.001");
        TagInfo serial = tag("serial", "unit_id", "3", "register", "40201", "type", "text", "length", "8");
        TagInfo bit = tag("bit", "unit_id", "1", "register", "30031", "type", "bit", "bit", "0");
        TagInfo tariff = tag("tariff", "unit_id", "2", "register", "40101");
        TagInfo pulse = tag("pulse", "unit_id", "2", "register", "00001");
        try (PlantLink link = link("framing", framing, "timeout", "5000")) {
            Heard heard = new Heard();
            link.want(List.of(power, lowFirst, energy, wide, factor, serial, bit, tariff, pulse));
            link.start(heard, work);
            await().atMost(PATIENCE)
                    .until(() -> heard.values.size() == 9 && heard.sentence.contains("All 5 devices answer"));
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);
            assertThat((Double) heard.values.get("power").value().orElseThrow())
                    .isEqualTo(Double.valueOf(
                            Float.toString((float) plant.meters().get(0).powerKilowatts())));
            assertThat((Double) heard.values.get("low").value().orElseThrow())
                    .isEqualTo(Double.valueOf(
                            Float.toString((float) plant.meters().get(6).powerKilowatts())));
            assertThat((Double) heard.values.get("energy").value().orElseThrow())
                    .isEqualTo(plant.meters().get(3).energyTenths() / 10.0);
            assertThat(heard.values.get("wide").value())
                    .contains(plant.meters().get(3).energyTenths() * 100);
            assertThat(heard.values.get("serial").value()).contains("QM-1703");
            assertThat(heard.values.get("bit").value()).contains(true);
            assertThat(heard.values)
                    .allSatisfy((address, value) -> assertThat(value.quality()).isEqualTo(Quality.GOOD));

            link.write(tariff, 3L, LIMIT);
            link.write(pulse, false, LIMIT);
            link.write(tag("t1", "unit_id", "2", "register", "40101", "type", "bit", "bit", "2"), true, LIMIT);
            link.write(tag("wide", "unit_id", "2", "register", "40300", "type", "float32"), 12.25, LIMIT);
            assertThat(link.read(
                            List.of(tariff, pulse, tag("w", "unit_id", "2", "register", "40300", "type", "float32")),
                            LIMIT))
                    .satisfies(read -> {
                        assertThat(read.get("tariff").value()).contains(7L);
                        assertThat(read.get("pulse").value()).contains(false);
                        assertThat(read.get("w").value()).contains(12.25);
                    });
            assertThatThrownBy(() -> link.write(tariff, 70_000L, LIMIT))
                    .isInstanceOf(LinkProblem.class)
                    .hasMessageContaining("65535")
                    .hasMessageContaining("Nothing was written");
            assertThatThrownBy(() -> link.write(power, 1.0, LIMIT)).hasMessageContaining("cannot be written");
            assertThat(link.health().counts()).containsEntry("answers that could not be read", 0L);
        }
    }

    @Test
    void aDeadMeterDoesNotSlowTheOthersAndIsNamed() throws Exception {
        meters = MeterServer.start(port, false, plant.meters());
        meters.silence(2, true);
        AtomicInteger ofOne = new AtomicInteger();
        Heard heard = new Heard() {
            @Override
            public void onBatch(List<dachshund.core.tag.TagChange> changes) {
                super.onBatch(changes);
                changes.stream()
                        .filter(change -> change.address().equals("one"))
                        .forEach(change -> ofOne.incrementAndGet());
            }
        };
        try (PlantLink link = link("timeout", "1500")) {
            link.want(List.of(
                    tag("one", "unit_id", "1", "register", "30001", "type", "float32"),
                    tag("two", "unit_id", "2", "register", "30001", "type", "float32")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.containsKey("two"));
            assertThat(ofOne.get())
                    .as("readings of the living meter while the dead one was waited for")
                    .isGreaterThanOrEqualTo(4);
            assertThat(heard.values.get("two").quality().isBad()).isTrue();
            await().atMost(PATIENCE)
                    .until(() -> heard.sentence.contains("1 of 2 devices answer") && heard.sentence.contains("unit 2"));
            meters.silence(2, false);
            await().atMost(PATIENCE)
                    .until(() -> heard.values.get("two").quality().isGood()
                            && heard.sentence.contains("All 2 devices answer"));
        }
    }

    @Test
    void registersThatDoNotExistInAGapCutTheRequestFromThenOn() throws Exception {
        meters = MeterServer.start(port, false, plant.meters());
        Heard heard = new Heard();
        try (PlantLink link = link()) {
            link.want(List.of(
                    tag("flow", "unit_id", "9", "register", "30011"),
                    tag("back", "unit_id", "9", "register", "30015"),
                    tag("none", "unit_id", "9", "register", "30500")));
            link.start(heard, work);
            await().atMost(PATIENCE)
                    .until(() -> heard.values.containsKey("flow")
                            && heard.values.get("flow").quality().isGood()
                            && heard.values.get("back").quality().isGood());
            assertThat(heard.values.get("none").quality().words()).contains("no such address (exception 2)");
            assertThat(link.health().remarks()).anyMatch(remark -> remark.contains("cut at the gaps"));
            assertThat(heard.state).isEqualTo(LinkState.CONNECTED);
        }
    }

    @Test
    void comesBackAfterTheDeviceWasAwayAndSaysSoMeanwhile() throws Exception {
        assertThat(link().test(LIMIT).sentence()).contains("refuses port");
        meters = MeterServer.start(port, false, plant.meters());
        assertThat(link().test(LIMIT).sentence()).contains("unit 1 answers");
        Heard heard = new Heard();
        try (PlantLink link = link()) {
            link.want(List.of(tag("one", "unit_id", "1", "register", "30001", "type", "float32")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> heard.values.containsKey("one") && heard.state == LinkState.CONNECTED);
            Object last = heard.values.get("one").value().orElseThrow();
            meters.close();
            await().atMost(PATIENCE)
                    .until(() -> heard.state == LinkState.AWAY && heard.sentence.contains("Trying again"));
            assertThat(heard.values.get("one").value())
                    .as("the last value stays in sight")
                    .contains(last);
            meters = MeterServer.start(port, false, plant.meters());
            await().atMost(PATIENCE)
                    .until(() -> heard.state == LinkState.CONNECTED
                            && heard.values.get("one").quality().isGood());
        }
    }

    /** A device that answers what it is told to, byte by byte. */
    private final class Scripted implements AutoCloseable {
        private final ServerSocket socket = new ServerSocket(port, 5, InetAddress.getLoopbackAddress());

        Scripted(BiFunction<byte[], Integer, byte[]> answer) throws IOException {
            AtomicInteger count = new AtomicInteger();
            for (int i = 0; i < 2; i++) {
                work.execute(() -> {
                    while (!socket.isClosed()) {
                        try (Socket client = socket.accept()) {
                            byte[] request = new byte[12];
                            while (client.getInputStream().readNBytes(request, 0, 12) == 12) {
                                client.getOutputStream().write(answer.apply(request, count.incrementAndGet()));
                                client.getOutputStream().flush();
                            }
                        } catch (IOException gone) {
                            // the next one may come
                        }
                    }
                });
            }
        }

        @Override
        public void close() throws IOException {
            socket.close();
        }
    }

    /**
     * The worked example of V1.1b3, 6.3 (read holding registers 108 to 110, here from memory): request 03 00 6B 00 03,
     * answer 03 06 02 2B 00 00 00 64, which is 555, 0 and 100. And 6.4 (input register 9): answer 04 02 00 0A, which is 10.
     */
    @Test
    void theWorkedFramesOfTheSpecification() throws Exception {
        HexFormat hex = HexFormat.of();
        try (Scripted device = new Scripted((request, n) -> {
                    String pdu = hex.formatHex(request, 7, 12);
                    String answer = pdu.equals("03006b0003")
                            ? "0306022b00000064"
                            : pdu.equals("0400080001") ? "0402000a" : "8302";
                    byte[] bytes = hex.parseHex(answer);
                    byte[] frame = new byte[7 + bytes.length];
                    System.arraycopy(request, 0, frame, 0, 4);
                    frame[5] = (byte) (bytes.length + 1);
                    frame[6] = request[6];
                    System.arraycopy(bytes, 0, frame, 7, bytes.length);
                    return frame;
                });
                PlantLink link = link()) {
            var read = link.read(
                    List.of(
                            tag("108", "register", "40108"),
                            tag("109", "register", "40109"),
                            tag("110", "register", "40110")),
                    LIMIT);
            assertThat(read.get("108").value()).contains(555L);
            assertThat(read.get("109").value()).contains(0L);
            assertThat(read.get("110").value()).contains(100L);
            assertThat(link.read(List.of(tag("9", "register", "30009")), LIMIT)
                            .get("9")
                            .value())
                    .contains(10L);
        }
    }

    private static boolean good(Heard heard, String address) {
        return heard.values.containsKey(address)
                && heard.values.get(address).quality().isGood();
    }

    /** A gateway whose unit 2 answers after its limit, and all others at once. */
    private final class SlowUnit implements AutoCloseable {

        private final ServerSocket socket;
        final AtomicInteger connections = new AtomicInteger();
        private final long slowMillis;

        SlowUnit(long slowMillis) throws IOException {
            this.slowMillis = slowMillis;
            socket = new ServerSocket(port, 50, java.net.InetAddress.getLoopbackAddress());
            Thread accepting = new Thread(this::accept);
            accepting.setDaemon(true);
            accepting.start();
        }

        private void accept() {
            while (!socket.isClosed()) {
                try {
                    Socket client = socket.accept();
                    connections.incrementAndGet();
                    Thread serving = new Thread(() -> serve(client));
                    serving.setDaemon(true);
                    serving.start();
                } catch (IOException closed) {
                    return;
                }
            }
        }

        private void serve(Socket client) {
            try {
                while (true) {
                    byte[] request = client.getInputStream().readNBytes(12);
                    if (request.length < 12) {
                        return;
                    }
                    byte[] answer = {request[0], request[1], 0, 0, 0, 5, request[6], 3, 2, 0, 42};
                    if (request[6] == 2) {
                        Thread late = new Thread(() -> send(client, answer, slowMillis));
                        late.setDaemon(true);
                        late.start();
                    } else {
                        send(client, answer, 0);
                    }
                }
            } catch (IOException gone) {
                // the next one may come
            }
        }

        private void send(Socket client, byte[] answer, long after) {
            try {
                Thread.sleep(after);
                synchronized (client) {
                    client.getOutputStream().write(answer);
                    client.getOutputStream().flush();
                }
            } catch (IOException | InterruptedException gone) {
                // it does not want it any more
            }
        }

        @Override
        public void close() throws IOException {
            socket.close();
        }
    }

    @Test
    void aUnitThatAnswersTooLateIsLateAloneAndTheConnectionStays() throws Exception {
        Heard heard = new Heard();
        // The limit is one that a quick unit keeps on a busy machine, too: with 200 ms it did not always.
        try (SlowUnit gateway = new SlowUnit(1_300);
                PlantLink link = new ModbusKind()
                        .open(new LinkKind.Opening(
                                "a0000001",
                                Map.of("host", "127.0.0.1", "port", Integer.toString(port), "timeout", "1000"),
                                Duration.ofMillis(900),
                                Instant::now))) {
            link.want(List.of(
                    tag("quick", "register", "40001", "unit_id", "1"),
                    tag("late", "register", "40001", "unit_id", "2"),
                    tag("also", "register", "40002", "unit_id", "2")));
            link.start(heard, work);
            await().atMost(PATIENCE).until(() -> good(heard, "quick") && heard.values.containsKey("late"));
            long until = System.nanoTime() + Duration.ofSeconds(8).toNanos();
            while (System.nanoTime() < until) {
                assertThat(good(heard, "quick"))
                        .as("the quick unit all the time")
                        .isTrue();
                Thread.sleep(20);
            }
            assertThat(gateway.connections.get()).as("connections").isEqualTo(1);
            assertThat(heard.values.get("late").quality().isBad()).isTrue();
        }
    }

    @Test
    void tenThousandMalformedAnswersAreCountedAndTheNextGoodOneIsTaken() throws Exception {
        Random random = new Random(11);
        AtomicInteger sent = new AtomicInteger();
        int wanted = 10_000;
        try (Scripted device = new Scripted((request, n) -> {
                    sent.incrementAndGet();
                    byte[] good = new byte[] {request[0], request[1], 0, 0, 0, 5, request[6], 3, 2, 0, 42};
                    if (n > wanted) {
                        return good;
                    }
                    return switch (n % 5) {
                        case 0 ->
                            new byte[] {request[0], request[1], 0, 0, 0, 4, request[6], 3, 1, 0
                            }; // one byte for a register
                        case 1 ->
                            new byte[] {request[0], request[1], 0, 0, 0, 5, request[6], 7, 2, 0, 42
                            }; // an answer to another function
                        case 2 ->
                            new byte[] {
                                request[0], request[1], 0, 0, 0, 3, request[6], (byte) 0x83, (byte) random.nextInt(256)
                            }; // some exception
                        case 3 ->
                            new byte[] {request[0], request[1], 0, 0, 0, 7, request[6], 3, 4, 0, 42, 0, 1
                            }; // two registers where one was asked for
                        default ->
                            new byte[] {request[0], request[1], 0, 0, 0, 2, request[6], 3}; // it ends before it begins
                    };
                });
                PlantLink link = new ModbusKind()
                        .open(new LinkKind.Opening(
                                "a0000001",
                                Map.of("host", "127.0.0.1", "port", Integer.toString(port), "timeout", "50"),
                                Duration.ofMillis(1),
                                Instant::now))) {
            TagInfo tag = tag("one", "register", "40001");
            int failed = 0;
            for (int i = 0; i < wanted; i++) {
                try {
                    assertThat(link.read(List.of(tag), LIMIT).get("one").value())
                            .isNotPresent();
                } catch (LinkProblem told) {
                    failed++;
                }
            }
            assertThat(failed).isEqualTo(wanted);
            Map<String, Long> counts = link.health().counts();
            assertThat(counts.get("refused by a device")
                            + counts.get("not answered in time")
                            + counts.get("answers that could not be read")
                            + counts.get("cut off with the connection"))
                    .isEqualTo(wanted);
            await().atMost(PATIENCE).until(() -> {
                try {
                    return link.read(List.of(tag), LIMIT).get("one").value().equals(Optional.of(42L));
                } catch (LinkProblem notYet) {
                    return false;
                }
            });
        }
    }

    @Test
    void randomBytesBreakTheConnectionAndAreSurvived() throws Exception {
        Random random = new Random(5);
        Heard heard = new Heard();
        AtomicInteger sent = new AtomicInteger();
        try (Scripted device = new Scripted((request, n) -> {
                    if (sent.incrementAndGet() > 3) {
                        return new byte[] {request[0], request[1], 0, 0, 0, 5, request[6], 3, 2, 0, 42};
                    }
                    byte[] noise = new byte[1 + random.nextInt(300)];
                    random.nextBytes(noise);
                    return noise;
                });
                PlantLink link = link("timeout", "100")) {
            link.want(List.of(tag("one", "register", "40001")));
            link.start(heard, work);
            await().atMost(Duration.ofSeconds(60))
                    .until(() -> heard.values.containsKey("one")
                            && heard.values.get("one").value().isPresent());
            assertThat(heard.values.get("one").value()).contains(42L);
            Map<String, Long> counts = link.health().counts();
            assertThat(counts.get("not answered in time")
                            + counts.get("answers that could not be read")
                            + counts.get("cut off with the connection"))
                    .isGreaterThanOrEqualTo(3);
        }
    }
}
