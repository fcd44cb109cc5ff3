package dachshund.standins.mqtt;

import com.hivemq.client.mqtt.MqttClient;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import dachshund.standins.plant.Silo;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CompletionException;

/**
 * The wireless sensors of the silos, publishing to a broker: {@code quillmoor/silos/S1/level} as a plain value,
 * {@code …/climate} as JSON with its own time, {@code …/fan} retained, {@code …/fan/set} as a command, and one status
 * topic with a last will.
 */
public final class SiloSensors implements AutoCloseable {

    public static final String ROOT = "quillmoor/silos/";
    private static final String STATUS = ROOT + "status";

    private final Mqtt5AsyncClient client;
    private final List<Silo> silos;

    /** Connects as soon as the broker is there, and again whenever it was away. */
    public SiloSensors(int port, List<Silo> silos) {
        this.silos = silos;
        client = MqttClient.builder()
                .useMqttVersion5()
                .identifier("quillmoor-silo-gateway")
                .serverHost("127.0.0.1")
                .serverPort(port)
                .automaticReconnectWithDefaultConfig()
                .addConnectedListener(context -> greet())
                .buildAsync();
        client.connectWith()
                .keepAlive(10)
                .willPublish()
                .topic(STATUS)
                .payload("offline".getBytes(StandardCharsets.UTF_8))
                .retain(true)
                .qos(MqttQos.AT_LEAST_ONCE)
                .applyWillPublish()
                .send();
    }

    private void greet() {
        send(STATUS, "online", true);
        silos.forEach(silo -> {
            send(ROOT + silo.name() + "/fan", Boolean.toString(silo.fanOn()), true);
            client.subscribeWith()
                    .topicFilter(ROOT + silo.name() + "/fan/set")
                    .qos(MqttQos.AT_LEAST_ONCE)
                    .callback(publish -> {
                        silo.fan(
                                "true".equals(new String(publish.getPayloadAsBytes(), StandardCharsets.UTF_8)),
                                Instant.now());
                        send(ROOT + silo.name() + "/fan", Boolean.toString(silo.fanOn()), true);
                    })
                    .send();
        });
    }

    /** Publishes what the sensors measure now. */
    public void publish() {
        if (!client.getState().isConnected()) {
            return;
        }
        for (Silo silo : silos) {
            send(ROOT + silo.name() + "/level", String.format(Locale.ROOT, "%.2f", silo.levelPercent()), false);
            send(
                    ROOT + silo.name() + "/climate",
                    String.format(
                            Locale.ROOT,
                            "{\"temperature\": %.2f, \"battery\": %.3f, \"ts\": \"%s\"}",
                            silo.celsius(),
                            silo.batteryVolts(),
                            Instant.now()),
                    false);
        }
    }

    private void send(String topic, String payload, boolean retain) {
        client.publishWith()
                .topic(topic)
                .payload(payload.getBytes(StandardCharsets.UTF_8))
                .retain(retain)
                .qos(MqttQos.AT_MOST_ONCE)
                .send();
    }

    @Override
    public void close() {
        try {
            client.disconnect().join();
        } catch (CompletionException notConnected) {
            // nothing to end
        }
    }
}
