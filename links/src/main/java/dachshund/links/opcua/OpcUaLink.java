package dachshund.links.opcua;

import dachshund.core.source.LinkHealth;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.links.network.GrowingPause;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.LongAdder;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.SessionActivityListener;
import org.eclipse.milo.opcua.sdk.client.UaSession;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;

/**
 * A source over OPC UA: one session, one subscription. When the session breaks, the client is thrown away and a new one
 * connects after a pause that grows from 1 s to 30 s; nothing is carried over from the old session, so there is no
 * state to get wrong.
 */
@SuppressWarnings("ReferenceEquality") // a client, a subscriber and what is wanted are themselves
final class OpcUaLink implements PlantLink {

    private static final Duration CONNECT_LIMIT = Duration.ofSeconds(5);
    private static final long ATTEMPT_SECONDS = 30;
    private static final long ROUND_TRIP_EVERY_SECONDS = 10;

    private final LinkKind.Opening opening;
    private final OpcUaConnection connection;
    private final Object lock = new Object();
    private final GrowingPause pause = new GrowingPause();
    private final LongAdder overflows = new LongAdder();
    private final LongAdder connects = new LongAdder();
    private Map<String, TagInfo> wanted = Map.of();
    private Listener listener;
    private ScheduledExecutorService work;
    private OpcUaClient client;
    private OpcUaSubscriber subscriber;
    private volatile Optional<Duration> roundTrip = Optional.empty();
    private boolean closed;
    /** Counts attempts to connect; the last one that came to an end. */
    private long attempt;

    private long done;

    OpcUaLink(LinkKind.Opening opening, OpcUaTrust trust) {
        this.opening = opening;
        this.connection = new OpcUaConnection(opening, trust);
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
        OpcUaClient connected;
        synchronized (lock) {
            connected = client;
        }
        try {
            if (connected != null) {
                return asking.ask(connected);
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
        int withoutDeadband;
        synchronized (lock) {
            withoutDeadband = subscriber == null ? 0 : subscriber.withoutDeadband();
        }
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
    public void start(Listener listener, ScheduledExecutorService work) {
        synchronized (lock) {
            this.listener = listener;
            this.work = work;
        }
        work.execute(this::connect);
    }

    /** One attempt at a time; one that does not end is given up, and what it may still bring is let go. */
    private void connect() {
        long mine;
        synchronized (lock) {
            if (closed || client != null) {
                return;
            }
            mine = ++attempt;
            work.schedule(() -> giveUp(mine), ATTEMPT_SECONDS, TimeUnit.SECONDS);
        }
        if (pause.first()) {
            listener.onState(LinkState.CONNECTING, "Connecting to " + connection.address() + ".");
        }
        OpcUaClient fresh = null;
        try {
            OpcUaConnection.Connected connected = connection.connect(CONNECT_LIMIT);
            fresh = connected.client();
            OpcUaClient owner = fresh;
            fresh.addSessionActivityListener(new SessionActivityListener() {
                @Override
                public void onSessionInactive(UaSession session) {
                    lost(owner, "The connection to " + connected.address() + " broke.");
                }
            });
            // Asked of the server with no lock held: whoever only wants to know how the link does must not wait for it.
            OpcUaSubscriber made =
                    new OpcUaSubscriber(fresh, opening, listener, overflows, sentence -> lost(owner, sentence));
            Map<String, TagInfo> now;
            synchronized (lock) {
                if (closed || attempt != mine) {
                    OpcUaConnection.quietly(fresh);
                    return;
                }
                client = fresh;
                subscriber = made;
                now = wanted;
            }
            made.follow(now);
            synchronized (lock) {
                if (client != owner) {
                    return; // lost meanwhile, and tried again
                }
                done = mine;
            }
            pause.worked();
            connects.increment();
            listener.onState(
                    LinkState.CONNECTED, ("Connected to " + connected.address() + ". " + connected.note()).strip());
            followAgain(made, now);
            measure(owner);
        } catch (LinkProblem problem) {
            if (ended(mine)) {
                again(problem.getMessage());
            }
        } catch (UaException | RuntimeException problem) {
            OpcUaConnection.quietly(fresh);
            if (ended(mine)) {
                again("The server at " + connection.address() + " took no subscription: " + OpcUaWords.of(problem)
                        + ".");
            }
        }
    }

    /** Whether this attempt is the present one; it is over then. */
    private boolean ended(long mine) {
        synchronized (lock) {
            if (closed || attempt != mine || done == mine) {
                return false;
            }
            done = mine;
            client = null;
            subscriber = null;
            return true;
        }
    }

    private void giveUp(long mine) {
        OpcUaClient hung;
        synchronized (lock) {
            hung = client;
        }
        if (ended(mine)) {
            OpcUaConnection.quietly(hung);
            again("Connecting to " + connection.address() + " did not come to an end within " + ATTEMPT_SECONDS
                    + " s.");
        }
    }

    /** What was wanted meanwhile. */
    private void followAgain(OpcUaSubscriber made, Map<String, TagInfo> before) {
        Map<String, TagInfo> now;
        synchronized (lock) {
            now = subscriber == made ? wanted : before;
        }
        if (now != before) {
            made.follow(now);
        }
    }

    /** Measures a round trip now and then, while this client is at work. */
    private void measure(OpcUaClient owner) {
        synchronized (lock) {
            if (closed || client != owner) {
                return;
            }
        }
        long from = System.nanoTime();
        owner.readValuesAsync(0, TimestampsToReturn.Neither, List.of(NodeIds.Server_ServerStatus_State))
                .thenAccept(value -> roundTrip = Optional.of(Duration.ofNanos(System.nanoTime() - from)));
        work.schedule(() -> measure(owner), ROUND_TRIP_EVERY_SECONDS, TimeUnit.SECONDS);
    }

    private void lost(OpcUaClient broken, String sentence) {
        synchronized (lock) {
            if (client != broken || closed) {
                return;
            }
            client = null;
            subscriber = null;
            done = attempt;
        }
        roundTrip = Optional.empty();
        OpcUaConnection.quietly(broken);
        again(sentence);
    }

    private void again(String sentence) {
        Duration next = pause.next();
        listener.onState(LinkState.AWAY, sentence + " Trying again in " + PeriodText.write(next) + ".");
        synchronized (lock) {
            if (!closed) {
                work.schedule(this::connect, next.toMillis(), TimeUnit.MILLISECONDS);
            }
        }
    }

    @Override
    public void want(Collection<TagInfo> tags) {
        Map<String, TagInfo> next = new LinkedHashMap<>();
        tags.forEach(tag -> next.put(tag.address(), tag));
        OpcUaSubscriber present;
        synchronized (lock) {
            wanted = next;
            present = done == attempt ? subscriber : null; // one that is being made looks again afterwards
        }
        if (present != null) {
            present.follow(next);
        }
    }

    @Override
    public void close() {
        synchronized (lock) {
            closed = true;
            OpcUaConnection.quietly(client);
            client = null;
            subscriber = null;
        }
    }
}
