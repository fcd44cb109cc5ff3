package dachshund.links.mqtt;

import com.hivemq.client.mqtt.MqttClientBuilder;
import com.hivemq.client.mqtt.MqttClientSslConfig;
import com.hivemq.client.mqtt.MqttGlobalPublishFilter;
import com.hivemq.client.mqtt.datatypes.MqttQos;
import com.hivemq.client.mqtt.exceptions.ConnectionClosedException;
import com.hivemq.client.mqtt.lifecycle.MqttClientDisconnectedContext;
import com.hivemq.client.mqtt.lifecycle.MqttDisconnectSource;
import com.hivemq.client.mqtt.mqtt3.Mqtt3AsyncClient;
import com.hivemq.client.mqtt.mqtt3.exceptions.Mqtt3ConnAckException;
import com.hivemq.client.mqtt.mqtt5.Mqtt5AsyncClient;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5ConnAckException;
import com.hivemq.client.mqtt.mqtt5.exceptions.Mqtt5DisconnectException;
import com.hivemq.client.mqtt.mqtt5.message.disconnect.Mqtt5DisconnectReasonCode;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.links.network.Trust;
import dachshund.links.network.UnknownAuthority;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Consumer;
import javax.net.ssl.SSLException;

/** One session with a broker, over MQTT 5 or 3.1.1; the two differ only in here. */
final class MqttSession implements AutoCloseable {

    /** A message from the broker. */
    record Message(String topic, ByteBuffer payload, boolean retained) {}

    private final String clientId;
    private final boolean chosenId;
    private final MqttQos qos;
    private final Optional<Mqtt5AsyncClient> five;
    private final Optional<Mqtt3AsyncClient> three;

    private MqttSession(LinkKind.Opening opening, Consumer<Message> messages, Consumer<String> lost)
            throws LinkProblem {
        String wanted = opening.setting("client");
        chosenId = !wanted.isEmpty();
        clientId = chosenId
                ? wanted
                : "dachshund-" + opening.source() + "-" + Long.toString(System.nanoTime() & 0xFFFFFFFL, 36);
        qos = MqttQos.fromCode(opening.whole("qos", 1));
        MqttClientBuilder builder = com.hivemq.client.mqtt.MqttClient.builder()
                .identifier(clientId)
                .serverHost(opening.setting("host"))
                .serverPort(opening.whole("port", 1883))
                .addDisconnectedListener(context -> lost.accept(words(context)));
        if (opening.on("tls")) {
            builder = builder.sslConfig(tls(opening.settings().getOrDefault("authority", "")));
        }
        String user = opening.setting("user");
        byte[] password = opening.settings().getOrDefault("password", "").getBytes(StandardCharsets.UTF_8);
        if (opening.setting("version").equals("3.1.1")) {
            var version = builder.useMqttVersion3();
            three = Optional.of((user.isEmpty()
                            ? version
                            : version.simpleAuth()
                                    .username(user)
                                    .password(password)
                                    .applySimpleAuth())
                    .buildAsync());
            five = Optional.empty();
            three.get()
                    .publishes(
                            MqttGlobalPublishFilter.ALL,
                            publish -> messages.accept(new Message(
                                    publish.getTopic().toString(),
                                    publish.getPayload().orElse(ByteBuffer.allocate(0)),
                                    publish.isRetain())));
        } else {
            var version = builder.useMqttVersion5();
            five = Optional.of((user.isEmpty()
                            ? version
                            : version.simpleAuth()
                                    .username(user)
                                    .password(password)
                                    .applySimpleAuth())
                    .buildAsync());
            three = Optional.empty();
            five.get()
                    .publishes(
                            MqttGlobalPublishFilter.ALL,
                            publish -> messages.accept(new Message(
                                    publish.getTopic().toString(),
                                    publish.getPayload().orElse(ByteBuffer.allocate(0)),
                                    publish.isRetain())));
        }
    }

    private static MqttClientSslConfig tls(String pem) throws LinkProblem {
        try {
            return MqttClientSslConfig.builder()
                    .trustManagerFactory(Trust.authorities(pem))
                    .build();
        } catch (GeneralSecurityException problem) {
            throw new LinkProblem(problem.getMessage(), problem);
        }
    }

    /**
     * Connects.
     *
     * @param messages hears every message, on the client's thread
     * @param lost     hears once, in words, when an established session ends other than by {@link #close}
     * @throws LinkProblem with a sentence
     */
    static MqttSession open(LinkKind.Opening opening, Consumer<Message> messages, Consumer<String> lost, Duration limit)
            throws LinkProblem {
        opening.check(opening.setting("host"), opening.whole("port", 1883));
        boolean[] established = new boolean[1];
        MqttSession session = new MqttSession(opening, messages, sentence -> {
            if (established[0]) {
                lost.accept(sentence);
            }
        });
        try {
            session.connect().get(limit.toMillis(), TimeUnit.MILLISECONDS);
            established[0] = true;
            return session;
        } catch (ExecutionException | TimeoutException problem) {
            session.close();
            throw new LinkProblem(refused(problem, opening), problem);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            session.close();
            throw new LinkProblem("Connecting was broken off.", interrupted);
        }
    }

    private CompletableFuture<?> connect() {
        return five.isPresent()
                ? five.get().connectWith().cleanStart(true).keepAlive(20).send()
                : three.orElseThrow()
                        .connectWith()
                        .cleanSession(true)
                        .keepAlive(20)
                        .send();
    }

    private static String refused(Exception problem, LinkKind.Opening opening) {
        String place = opening.setting("host") + ":" + opening.whole("port", 1883);
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (each instanceof Mqtt5ConnAckException refusal) {
                return "The broker at " + place + " refused the connection: "
                        + refusal.getMqttMessage()
                                .getReasonCode()
                                .name()
                                .toLowerCase(java.util.Locale.ROOT)
                                .replace('_', ' ')
                        + "." + who(opening);
            }
            if (each instanceof Mqtt3ConnAckException refusal) {
                return "The broker at " + place + " refused the connection: "
                        + refusal.getMqttMessage()
                                .getReturnCode()
                                .name()
                                .toLowerCase(java.util.Locale.ROOT)
                                .replace('_', ' ')
                        + "." + who(opening);
            }
            if (each instanceof UnknownAuthority) {
                return "The certificate of the broker at " + place
                        + " is signed by no authority that is known here. Paste the certificate of its authority, as PEM, or compare the one that it shows and accept it.";
            }
            if (each instanceof SSLException && UnknownAuthority.in(each).isEmpty()) {
                return "TLS with the broker at " + place + " failed: " + each.getMessage()
                        + ". Compare the port, and the authority that signed the broker's certificate.";
            }
            if (each instanceof TimeoutException) {
                return "Something listens at " + place
                        + " but did not answer as an MQTT broker in time. Is this the right port, and does it want TLS?";
            }
        }
        return "Something answered at " + place + ", but not as an MQTT broker"
                + (opening.setting("version").equals("3.1.1") ? "" : " of version 5")
                + ". Is this the right port, does it want TLS, or does it speak MQTT 3.1.1 only?";
    }

    private static String who(LinkKind.Opening opening) {
        return opening.setting("user").isEmpty()
                ? " It may want a user name and a password."
                : " Compare user name and password with the broker's.";
    }

    private String words(MqttClientDisconnectedContext context) {
        Throwable cause = context.getCause();
        if (cause instanceof Mqtt5DisconnectException told
                && told.getMqttMessage().getReasonCode() == Mqtt5DisconnectReasonCode.SESSION_TAKEN_OVER) {
            return "Another client signed in with our client id " + clientId
                    + ", and the broker keeps only the newest. Give each client its own id, or leave the id empty.";
        }
        if (cause instanceof Mqtt5DisconnectException told) {
            return "The broker ended the session: "
                    + told.getMqttMessage()
                            .getReasonCode()
                            .name()
                            .toLowerCase(java.util.Locale.ROOT)
                            .replace('_', ' ') + ".";
        }
        if (context.getSource() == MqttDisconnectSource.SERVER || cause instanceof ConnectionClosedException) {
            return "The broker closed the connection."
                    + (chosenId
                            ? " Another client may have signed in with the same client id " + clientId
                                    + "; then the broker keeps only the newest. Give each client its own id, or leave the id empty."
                            : "");
        }
        return "The connection to the broker broke.";
    }

    /** @return in the end, empty where the broker grants it, else why not */
    CompletableFuture<String> subscribe(String filter) {
        CompletableFuture<String> granted = five.isPresent()
                ? five.get()
                        .subscribeWith()
                        .topicFilter(filter)
                        .qos(qos)
                        .send()
                        .thenApply(ack -> ack.getReasonCodes().get(0).isError()
                                ? ack.getReasonCodes().get(0).name()
                                : "")
                : three.orElseThrow()
                        .subscribeWith()
                        .topicFilter(filter)
                        .qos(qos)
                        .send()
                        .thenApply(ack -> ack.getReturnCodes().get(0).isError() ? "refused" : "");
        return granted.handle((answer, failed) ->
                failed == null ? answer.toLowerCase(java.util.Locale.ROOT).replace('_', ' ') : "refused");
    }

    void unsubscribe(String filter) {
        five.ifPresent(client -> client.unsubscribeWith().topicFilter(filter).send());
        three.ifPresent(client -> client.unsubscribeWith().topicFilter(filter).send());
    }

    /** Publishes and waits until the broker has it (QoS 1). */
    void publish(String topic, String payload, boolean retained, Duration limit) throws LinkProblem {
        byte[] bytes = payload.getBytes(StandardCharsets.UTF_8);
        CompletableFuture<?> sent = five.isPresent()
                ? five.get()
                        .publishWith()
                        .topic(topic)
                        .qos(MqttQos.AT_LEAST_ONCE)
                        .retain(retained)
                        .payload(bytes)
                        .send()
                : three.orElseThrow()
                        .publishWith()
                        .topic(topic)
                        .qos(MqttQos.AT_LEAST_ONCE)
                        .retain(retained)
                        .payload(bytes)
                        .send();
        try {
            sent.get(limit.toMillis(), TimeUnit.MILLISECONDS);
        } catch (ExecutionException | TimeoutException problem) {
            throw new LinkProblem("The broker did not take the message for " + topic + ".", problem);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new LinkProblem("Publishing was broken off.", interrupted);
        }
    }

    /** Whether the broker has not ended it meanwhile. */
    boolean connected() {
        return five.map(client -> client.getState().isConnected())
                .orElseGet(() -> three.orElseThrow().getState().isConnected());
    }

    String clientId() {
        return clientId;
    }

    @Override
    public void close() {
        five.ifPresent(Mqtt5AsyncClient::disconnect);
        three.ifPresent(Mqtt3AsyncClient::disconnect);
    }
}
