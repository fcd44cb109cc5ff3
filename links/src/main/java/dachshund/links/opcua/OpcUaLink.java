package dachshund.links.opcua;

import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.links.network.Reconnecting;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.LongAdder;
import java.util.function.Consumer;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.SessionActivityListener;
import org.eclipse.milo.opcua.sdk.client.UaSession;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;

/** A source over OPC UA: one session, one subscription. */
@SuppressWarnings("ReferenceEquality") // a client, a subscriber and what is wanted are themselves
final class OpcUaLink implements PlantLink {

    private static final Duration CONNECT_LIMIT = Duration.ofSeconds(5);
    private static final Duration ROUND_TRIP_EVERY = Duration.ofSeconds(10);

    private final LinkKind.Opening opening;
    private final OpcUaConnection connection;
    private final Object lock = new Object();
    private final Reconnecting<AtWork> connecting;
    private final LongAdder overflows = new LongAdder();
    private final LongAdder connects = new LongAdder();
    private Map<String, TagInfo> wanted = Map.of();
    private Listener listener;
    private volatile Optional<Duration> roundTrip = Optional.empty();

    /** A client with what it delivers. */
    private record AtWork(OpcUaConnection.Connected connected, OpcUaSubscriber subscriber) {
        OpcUaClient client() {
            return connected.client();
        }
    }

    OpcUaLink(LinkKind.Opening opening, OpcUaTrust trust) {
        this.opening = opening;
        this.connection = new OpcUaConnection(opening, trust);
        this.connecting = new Reconnecting<>(connection.address().toString(), new Making());
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        try {
            OpcUaConnection.Connected connected = connection.connect(limit);
            long millis = (System.nanoTime() - from) / 1_000_000;
            String server =
                    connected.endpoint().getServer().getApplicationName().getText();
            String security = connected.endpoint().getSecurityPolicyUri().replaceAll(".*#", "");
            OpcUaConnection.quietly(connected.client());
            return LinkTest.good(
                    ((server == null ? "A server" : server) + " answered at " + connected.address() + " in " + millis
                                    + " ms, "
                                    + (security.equals("None")
                                            ? "without security"
                                            : "with " + security + ", "
                                                    + connected.endpoint().getSecurityMode())
                                    + ", "
                                    + signIn() + ". " + connected.note())
                            .strip(),
                    server == null ? "" : server);
        } catch (LinkProblem problem) {
            return LinkTest.failed(problem.getMessage(), OpcUaKind.ADDRESS);
        }
    }

    private String signIn() {
        return switch (opening.setting("signin")) {
            case "user" -> "signed in as " + opening.setting("user");
            case "certificate" -> "signed in with our certificate";
            default -> "signed in anonymously";
        };
    }

    /** Something that needs a connected client. */
    private interface Asking<T> {
        T ask(OpcUaClient client) throws UaException, LinkProblem;
    }

    /** Asks over the session at work, or over one of its own. */
    private <T> T ask(String what, Duration limit, Asking<T> asking) throws LinkProblem {
        Optional<AtWork> present = connecting.present();
        try {
            if (present.isPresent()) {
                return asking.ask(present.get().client());
            }
            OpcUaClient own = connection.connect(limit).client();
            try {
                return asking.ask(own);
            } finally {
                OpcUaConnection.quietly(own);
            }
        } catch (UaException | UaRuntimeException problem) {
            throw new LinkProblem("The server " + what + ": " + OpcUaWords.of(problem) + ".", problem);
        }
    }

    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        if (!from.matches("\\d{0,9}")) {
            throw new LinkProblem("It is not known from where this folder is to be read on. Open it again.");
        }
        return ask(
                "did not list what lies there", CONNECT_LIMIT, each -> new OpcUaBrowser(each).page(folder, path, from));
    }

    @Override
    public Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) throws LinkProblem {
        return ask("did not answer the reading", limit, each -> new OpcUaAccess(each, opening).read(List.copyOf(tags)));
    }

    @Override
    public void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        ask("did not take the value", limit, each -> {
            new OpcUaAccess(each, opening).write(tag, value);
            return true;
        });
    }

    @Override
    public List<TagValue> history(TagInfo tag, Instant from, Instant to, int most) throws LinkProblem {
        return ask(
                "gave no history", CONNECT_LIMIT, each -> new OpcUaAccess(each, opening).history(tag, from, to, most));
    }

    @Override
    public LinkHealth health() {
        List<String> remarks = new ArrayList<>();
        int withoutDeadband = connecting
                .present()
                .map(each -> each.subscriber().withoutDeadband())
                .orElse(0);
        if (overflows.sum() > 0) {
            remarks.add("Queues at the server were full " + overflows.sum()
                    + " times, so values in between were lost. Ask for values more often, or let tags queue more.");
        }
        if (withoutDeadband > 0) {
            remarks.add(withoutDeadband + " tags are sent without a dead band, because the server has none for them.");
        }
        Map<String, Long> counts = new LinkedHashMap<>();
        counts.put("sessions", connects.sum());
        counts.put("queue overflows", overflows.sum());
        return new LinkHealth(roundTrip, counts, remarks);
    }

    @Override
    public void start(Listener heard, ScheduledExecutorService pool) {
        synchronized (lock) {
            listener = heard;
        }
        connecting.start(heard, pool);
    }

    private final class Making implements Reconnecting.Making<AtWork> {

        @Override
        public AtWork open(Consumer<String> lost) throws LinkProblem {
            OpcUaConnection.Connected connected = connection.connect(CONNECT_LIMIT);
            try {
                connected.client().addSessionActivityListener(new SessionActivityListener() {
                    @Override
                    public void onSessionInactive(UaSession session) {
                        lost.accept("The connection to " + connected.address() + " broke.");
                    }
                });
                return new AtWork(
                        connected, new OpcUaSubscriber(connected.client(), opening, listener, overflows, lost));
            } catch (UaException | RuntimeException problem) {
                OpcUaConnection.quietly(connected.client());
                throw noSubscription(problem);
            }
        }

        @Override
        public String begin(AtWork fresh) throws LinkProblem {
            try {
                Map<String, TagInfo> first = wanted();
                fresh.subscriber().follow(first);
                Map<String, TagInfo> meanwhile = wanted();
                if (meanwhile != first) {
                    fresh.subscriber().follow(meanwhile);
                }
            } catch (RuntimeException problem) {
                throw noSubscription(problem);
            }
            connecting.worked();
            connects.increment();
            return ("Connected to " + fresh.connected().address() + ". "
                            + fresh.connected().note())
                    .strip();
        }

        /** What was wanted in the last moment of the beginning is followed now. */
        @Override
        public void atWork(AtWork connection) {
            connection.subscriber().follow(wanted());
            measure(connection);
        }

        @Override
        public void close(AtWork broken) {
            roundTrip = Optional.empty();
            OpcUaConnection.quietly(broken.client());
        }
    }

    private LinkProblem noSubscription(Exception problem) {
        return new LinkProblem(
                "The server at " + connection.address() + " took no subscription: " + OpcUaWords.of(problem) + ".",
                problem);
    }

    private Map<String, TagInfo> wanted() {
        synchronized (lock) {
            return wanted;
        }
    }

    /** Measures a round trip now and then, while this client is at work. */
    private void measure(AtWork owner) {
        if (!connecting.is(owner)) {
            return;
        }
        long from = System.nanoTime();
        owner.client()
                .readValuesAsync(0, TimestampsToReturn.Neither, List.of(NodeIds.Server_ServerStatus_State))
                .thenAccept(value -> roundTrip = Optional.of(Duration.ofNanos(System.nanoTime() - from)));
        connecting.schedule(() -> measure(owner), ROUND_TRIP_EVERY);
    }

    @Override
    public void want(Collection<TagInfo> tags) {
        Map<String, TagInfo> next = new LinkedHashMap<>();
        tags.forEach(tag -> next.put(tag.address(), tag));
        synchronized (lock) {
            wanted = next;
        }
        connecting.settled().ifPresent(each -> each.subscriber()
                .follow(next)); // one that begins looks again afterwards
    }

    @Override
    public void close() {
        connecting.close();
    }
}
