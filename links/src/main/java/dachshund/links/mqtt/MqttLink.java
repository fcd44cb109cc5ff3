package dachshund.links.mqtt;

import com.hivemq.client.mqtt.datatypes.MqttTopic;
import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.links.network.Reach;
import dachshund.links.network.Reconnecting;
import dachshund.links.network.UnknownAuthority;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.LongAdder;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/**
 * A broker. One session; the topics that the source watches, and those of its tags that are not among them. A message
 * that cannot be read makes its tags bad and is counted, never more.
 */
final class MqttLink implements PlantLink {

    private static final Duration CONNECT_LIMIT = Duration.ofSeconds(5);
    private static final long LISTEN_MILLIS = 1500;
    private static final int LATEST = 12;
    private static final Duration STAYS = Duration.ofSeconds(10);
    private static final Duration SILENCE = Duration.ofSeconds(10);
    private static final Quality RETAINED =
            new Quality(Quality.Grade.GOOD, 0, "retained: the broker had it before we connected");
    private static final Quality NULL = Quality.bad(0x80B10000L, "the message says null (Bad_NoData)");

    private final LinkKind.Opening opening;
    private final String place;
    private final Set<String> filters;
    private final String statusFilter;
    private final String offlineText;
    private final Reconnecting<MqttSession> connecting;
    private final Topics topics = new Topics();
    private final LongAdder messages = new LongAdder();
    private final LongAdder malformed = new LongAdder();
    private final Map<String, TagValue> latest = new ConcurrentHashMap<>();
    private final Map<String, String> refusedFilters = new ConcurrentHashMap<>();
    private final Object lock = new Object();
    private volatile Map<String, List<TagInfo>> byTopic = Map.of();
    private volatile List<TagInfo> wanted = List.of();
    private Set<String> subscribed = Set.of();
    private Listener listener;
    private Instant connectedAt = Instant.EPOCH;

    MqttLink(LinkKind.Opening opening) {
        this.opening = opening;
        this.place = opening.setting("host") + ":" + opening.whole("port", 1883);
        this.filters = opening.settings()
                .getOrDefault("topics", "#")
                .lines()
                .map(String::strip)
                .filter(line -> !line.isEmpty())
                .collect(Collectors.toCollection(LinkedHashSet::new));
        this.statusFilter = opening.setting("status");
        this.offlineText = opening.setting("offline").isEmpty() ? "offline" : opening.setting("offline");
        this.connecting = new Reconnecting<>(place, new Making());
    }

    private MqttSession session(Consumer<String> lost, Duration limit) throws LinkProblem {
        Reach.check(opening.setting("host"), opening.whole("port", 1883), "MQTT broker", limit);
        return MqttSession.open(opening, this::hear, lost, limit);
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        try (MqttSession own = session(sentence -> {}, limit)) {
            long millis = (System.nanoTime() - from) / 1_000_000;
            return LinkTest.good(
                    "A broker answered at " + place + " in " + millis + " ms, MQTT "
                            + (opening.setting("version").equals("3.1.1") ? "3.1.1" : "5") + ", "
                            + (opening.on("tls") ? "with TLS" : "without TLS") + ", client id " + own.clientId() + ".",
                    "Broker " + opening.setting("host"));
        } catch (LinkProblem problem) {
            return LinkTest.failed(problem.getMessage(), "host")
                    .showing(UnknownAuthority.in(problem)
                            .map(UnknownAuthority::pem)
                            .orElse(""));
        }
    }

    /** Lists the topics heard so far; a link that does not run listens for a moment first. */
    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        if (connecting.present().isEmpty() && topics.all().isEmpty()) {
            try (MqttSession own = session(sentence -> {}, CONNECT_LIMIT)) {
                filters.forEach(own::subscribe);
                Thread.sleep(LISTEN_MILLIS);
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
        }
        return new Page(topics.under(folder, path), "");
    }

    @Override
    public void start(Listener heard, ScheduledExecutorService pool) {
        synchronized (lock) {
            listener = heard;
        }
        connecting.start(heard, pool);
    }

    private final class Making implements Reconnecting.Making<MqttSession> {

        @Override
        public MqttSession open(Consumer<String> lost) throws LinkProblem {
            return session(lost, CONNECT_LIMIT);
        }

        @Override
        public String begin(MqttSession fresh) throws LinkProblem {
            synchronized (lock) {
                subscribed = Set.of();
                refusedFilters.clear();
                connectedAt = opening.clock().now();
            }
            follow();
            if (!fresh.connected()) { // ended before it was known here, as when two clients throw each other out
                throw new LinkProblem("The broker ended the session at once.");
            }
            return "Connected to " + place + " as " + fresh.clientId() + ".";
        }

        /** A session that is thrown out at once must not begin with short pauses each time. */
        @Override
        public void atWork(MqttSession same) {
            connecting.schedule(
                    () -> {
                        if (connecting.is(same)) {
                            connecting.worked();
                        }
                    },
                    STAYS);
        }

        @Override
        public void close(MqttSession session) {
            session.close();
        }
    }

    @Override
    public void want(Collection<TagInfo> tags) {
        synchronized (lock) {
            wanted = List.copyOf(tags);
            byTopic = wanted.stream()
                    .collect(Collectors.groupingBy(tag -> tag.how().getOrDefault("topic", tag.address())));
        }
        if (connecting.present().isPresent()) {
            connecting.schedule(this::follow, Duration.ZERO);
        }
    }

    /** Subscribes to what is watched and wanted, each message once: a topic that a filter covers has no subscription of its own. */
    private void follow() {
        synchronized (lock) {
            Optional<MqttSession> present = connecting.present();
            if (present.isEmpty()) {
                return;
            }
            Set<String> next = new HashSet<>(filters);
            if (!statusFilter.isEmpty()) {
                next.add(statusFilter);
            }
            byTopic.keySet().stream()
                    .filter(topic -> filters.stream().noneMatch(filter -> Topics.matches(filter, topic)))
                    .forEach(next::add);
            MqttSession over = present.get();
            subscribed.stream().filter(filter -> !next.contains(filter)).forEach(over::unsubscribe);
            next.stream().filter(filter -> !subscribed.contains(filter)).forEach(filter -> over.subscribe(filter)
                    .thenAccept(why -> {
                        if (!why.isEmpty()) {
                            refusedFilters.put(filter, why);
                            listener.onProblem("The broker refused the topics " + filter + ": " + why + ".");
                        }
                    }));
            subscribed = next;
        }
        // Tags that are new get what their topic said last.
        byTopic.forEach((topic, tags) -> Optional.ofNullable(topics.all().get(topic))
                .filter(heard ->
                        heard.messages() > 0 && tags.stream().anyMatch(tag -> !latest.containsKey(tag.address())))
                .ifPresent(
                        heard -> deliver(tags, ByteBuffer.wrap(heard.text().getBytes(StandardCharsets.UTF_8)), true)));
    }

    private void hear(MqttSession.Message message) {
        messages.increment();
        topics.note(
                message.topic(),
                message.payload(),
                message.retained(),
                opening.clock().now());
        if (!statusFilter.isEmpty() && Topics.matches(statusFilter, message.topic())) {
            status(message);
        }
        List<TagInfo> tags = byTopic.get(message.topic());
        if (tags != null && listener != null) {
            deliver(tags, message.payload(), message.retained());
        }
    }

    private void deliver(List<TagInfo> tags, ByteBuffer bytes, boolean retained) {
        Instant now = opening.clock().now();
        List<TagChange> batch = new ArrayList<>(tags.size());
        try {
            Payload payload = new Payload(bytes);
            for (TagInfo tag : tags) {
                batch.add(new TagChange(tag.address(), value(tag, payload, retained, now)));
            }
        } catch (Payload.Malformed unreadable) {
            malformed.increment();
            tags.forEach(tag -> batch.add(new TagChange(tag.address(), bad(unreadable.getMessage(), now))));
        }
        batch.forEach(change -> latest.put(change.address(), change.value()));
        listener.onBatch(batch);
    }

    private TagValue value(TagInfo tag, Payload payload, boolean retained, Instant now) {
        try {
            String timePointer = tag.how().getOrDefault("time", "");
            Optional<Object> value = payload.value(tag.how().getOrDefault("pointer", ""), tag.kind());
            Instant sourceTime = timePointer.isEmpty() ? now : payload.time(timePointer);
            return new TagValue(value, value.isEmpty() ? NULL : retained ? RETAINED : Quality.GOOD, sourceTime, now);
        } catch (Payload.Malformed unreadable) {
            malformed.increment();
            return bad(unreadable.getMessage(), now);
        }
    }

    private static TagValue bad(String words, Instant now) {
        return new TagValue(Optional.empty(), Quality.bad(0x80070000L, words + " (Bad_DecodingError)"), now, now);
    }

    /** A last will or its counterpart: all tags beside and under the status topic are bad while it says offline. */
    private void status(MqttSession.Message message) {
        String folder = message.topic().substring(0, message.topic().lastIndexOf('/') + 1);
        String text = StandardCharsets.UTF_8
                .decode(message.payload().duplicate())
                .toString()
                .strip();
        if (!text.equalsIgnoreCase(offlineText) || listener == null) {
            return;
        }
        Instant now = opening.clock().now();
        List<TagChange> batch = new ArrayList<>();
        byTopic.forEach((topic, tags) -> {
            if (topic.startsWith(folder) && !topic.equals(message.topic())) {
                tags.forEach(tag -> batch.add(new TagChange(
                        tag.address(),
                        Optional.ofNullable(latest.get(tag.address()))
                                .orElse(TagValue.NONE)
                                .withQuality(
                                        Quality.bad(Quality.AWAY.code(), message.topic() + " says " + text), now))));
            }
        });
        if (!batch.isEmpty()) {
            listener.onBatch(batch);
        }
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) {
        Map<String, TagValue> values = new HashMap<>();
        Instant now = opening.clock().now();
        tags.forEach(tag -> values.put(
                tag.address(),
                latest.getOrDefault(tag.address(), new TagValue(Optional.empty(), Quality.WAITING, now, now))));
        return values;
    }

    @Override
    public void publish(String topic, String payload, boolean retained, Duration limit) throws LinkProblem {
        try {
            MqttTopic.of(topic);
        } catch (IllegalArgumentException no) {
            throw new LinkProblem("\"" + topic + "\" is no topic to publish to.", no);
        }
        MqttSession session = connecting
                .present()
                .orElseThrow(() -> new LinkProblem("The broker at " + place + " is not connected."));
        session.publish(topic, payload, retained, limit);
    }

    @Override
    public void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        String topic = tag.how().getOrDefault("write", "");
        if (topic.isBlank()) {
            throw new LinkProblem("This tag has no topic to write to.");
        }
        Optional<MqttSession> present = connecting.present();
        TagValue before = latest.get(tag.address());
        if (present.isPresent()) {
            present.get().publish(topic, TagText.write(value), false, limit);
            awaitEcho(tag, before, limit);
        } else {
            try (MqttSession own = session(sentence -> {}, limit)) {
                own.publish(topic, TagText.write(value), false, limit);
            }
        }
    }

    /** A broker has no reading: what is read back is the next message on the tag's own topic, if one comes in time. */
    @SuppressWarnings("ReferenceEquality") // another message, also of the same value
    private void awaitEcho(TagInfo tag, TagValue before, Duration limit) {
        long until = System.nanoTime() + limit.toNanos() / 2;
        while (System.nanoTime() < until && latest.get(tag.address()) == before) {
            LockSupport.parkNanos(5_000_000);
        }
    }

    @Override
    public LinkHealth health() {
        Map<String, Long> counts = new LinkedHashMap<>();
        counts.put("messages", messages.sum());
        counts.put("topics heard", (long) topics.all().size());
        counts.put("values that could not be read", malformed.sum());
        if (topics.left() > 0) {
            counts.put("messages of topics beyond the first " + Topics.MOST, topics.left());
        }
        return new LinkHealth(Optional.empty(), counts, silence(), topics.newest(LATEST));
    }

    /** Why nothing comes from a topic, in words. */
    private List<String> silence() {
        List<String> remarks = new ArrayList<>();
        Instant since;
        if (connecting.present().isEmpty()) {
            return remarks;
        }
        synchronized (lock) {
            since = connectedAt;
        }
        Duration connected = Duration.between(since, opening.clock().now());
        if (connected.compareTo(SILENCE) < 0) {
            return remarks;
        }
        refusedFilters.forEach((filter, why) -> remarks.add(
                filter + ": the broker refused it (" + why + "). Ask its administrator for the right to read it."));
        Set<String> silent = new TreeSet<>(filters);
        silent.addAll(byTopic.keySet());
        silent.removeIf(filter -> refusedFilters.containsKey(filter)
                || topics.all().containsKey(filter)
                || filters.contains(filter)
                        && topics.all().keySet().stream().anyMatch(topic -> Topics.matches(filter, topic)));
        silent.stream()
                .limit(10)
                .forEach(
                        filter -> remarks.add(
                                filter + ": nothing since connecting " + PeriodText.roughly(connected)
                                        + " ago; nothing retained. Compare the spelling, upper and lower case included, with what the sender publishes."));
        if (silent.size() > 10) {
            remarks.add("And " + (silent.size() - 10) + " more topics from which nothing came.");
        }
        return remarks;
    }

    @Override
    public void close() {
        connecting.close();
    }
}
