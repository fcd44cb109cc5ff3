package dachshund.links.opcua;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.SessionActivityListener;
import org.eclipse.milo.opcua.sdk.client.UaSession;
import org.eclipse.milo.opcua.sdk.client.subscriptions.MonitoredItemSynchronizationException;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaMonitoredItem;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaSubscription;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;

/**
 * A source over OPC UA: one session, one subscription. When the session breaks, the client is thrown away and a new one
 * connects after a pause that grows from 1 s to 30 s; nothing is carried over from the old session, so there is no
 * state to get wrong.
 */
final class OpcUaLink implements PlantLink {

    private static final Duration CONNECT_LIMIT = Duration.ofSeconds(5);
    private static final long FIRST_PAUSE_MILLIS = 1000;
    private static final long LONGEST_PAUSE_MILLIS = 30_000;
    private static final int QUEUE = 10;

    private final OpcUaAddress address;
    private final Duration rate;
    private final PlantClock clock;
    private final Object lock = new Object();
    private final Map<String, OpcUaMonitoredItem> items = new HashMap<>();
    private Set<String> wanted = Set.of();
    private Listener listener;
    private ScheduledExecutorService work;
    private OpcUaClient client;
    private OpcUaSubscription subscription;
    private int attempts;
    private boolean closed;

    OpcUaLink(OpcUaAddress address, Duration rate, PlantClock clock) {
        this.address = address;
        this.rate = rate;
        this.clock = clock;
    }

    @Override
    public LinkTest test(Duration limit) {
        long from = System.nanoTime();
        try {
            OpcUaConnection.Connected connected = OpcUaConnection.connect(address, limit);
            long millis = (System.nanoTime() - from) / 1_000_000;
            String server = connected.endpoint().getServer().getApplicationName().getText();
            OpcUaConnection.quietly(connected.client());
            return LinkTest.good((server == null ? "A server" : server) + " answered at " + address + " in " + millis
                    + " ms, without security and for anonymous users. " + connected.note(),
                    server == null ? "" : server);
        } catch (OpcUaConnection.CannotConnect problem) {
            return LinkTest.failed(problem.getMessage(), OpcUaKind.ADDRESS);
        }
    }

    @Override
    public List<Found> browse(String folder, String path) throws LinkProblem {
        OpcUaClient connected;
        synchronized (lock) {
            connected = client;
        }
        try {
            if (connected != null) {
                return new OpcUaBrowser(connected).below(folder, path);
            }
            OpcUaClient own = OpcUaConnection.connect(address, CONNECT_LIMIT).client();
            try {
                return new OpcUaBrowser(own).below(folder, path);
            } finally {
                OpcUaConnection.quietly(own);
            }
        } catch (OpcUaConnection.CannotConnect problem) {
            throw new LinkProblem(problem.getMessage(), problem);
        } catch (UaException | UaRuntimeException problem) {
            throw new LinkProblem("The server did not list what lies there: " + OpcUaConnection.words(problem) + ".", problem);
        }
    }

    @Override
    public void start(Listener listener, ScheduledExecutorService work) {
        synchronized (lock) {
            this.listener = listener;
            this.work = work;
        }
        work.execute(this::connect);
    }

    private void connect() {
        synchronized (lock) {
            if (closed || client != null) {
                return;
            }
        }
        if (attempts == 0) {
            listener.onState(LinkState.CONNECTING, "Connecting to " + address + ".");
        }
        try {
            OpcUaConnection.Connected connected = OpcUaConnection.connect(address, CONNECT_LIMIT);
            synchronized (lock) {
                if (closed) {
                    OpcUaConnection.quietly(connected.client());
                    return;
                }
                client = connected.client();
                attempts = 0;
                items.clear();
                client.addSessionActivityListener(new SessionActivityListener() {
                    @Override
                    public void onSessionInactive(UaSession session) {
                        lost(connected.client(), "The connection to " + address + " broke.");
                    }
                });
                subscribe();
            }
            listener.onState(LinkState.CONNECTED, ("Connected to " + address + ". " + connected.note()).strip());
        } catch (OpcUaConnection.CannotConnect problem) {
            again(problem.getMessage());
        } catch (UaException | RuntimeException problem) {
            lost(client, "The server at " + address + " took no subscription: " + OpcUaConnection.words(problem) + ".");
        }
    }

    private void lost(OpcUaClient broken, String sentence) {
        synchronized (lock) {
            if (client != broken || closed) {
                return;
            }
            client = null;
            subscription = null;
            items.clear();
        }
        OpcUaConnection.quietly(broken);
        again(sentence);
    }

    private void again(String sentence) {
        long pause = Math.min(LONGEST_PAUSE_MILLIS, FIRST_PAUSE_MILLIS << Math.min(attempts++, 10));
        listener.onState(LinkState.AWAY, sentence + " Trying again every " + pause / 1000 + " s.");
        work.schedule(this::connect, pause, TimeUnit.MILLISECONDS);
    }

    private void subscribe() throws UaException {
        OpcUaSubscription fresh = new OpcUaSubscription(client, rate.toMillis());
        OpcUaClient owner = client;
        fresh.setSubscriptionListener(new OpcUaSubscription.SubscriptionListener() {
            @Override
            public void onDataReceived(OpcUaSubscription from, List<OpcUaMonitoredItem> changed, List<DataValue> values) {
                deliver(changed, values);
            }

            @Override
            public void onWatchdogTimerElapsed(OpcUaSubscription from) {
                lost(owner, "The server at " + address + " sent nothing, not even a sign of life.");
            }

            @Override
            public void onStatusChanged(OpcUaSubscription from, StatusCode status) {
                lost(owner, "The server at " + address + " ended the subscription: " + OpcUaConnection.words(status) + ".");
            }

            @Override
            public void onTransferFailed(OpcUaSubscription from, StatusCode status) {
                lost(owner, "The server at " + address + " does not know the subscription any more.");
            }
        });
        fresh.create();
        subscription = fresh;
        follow();
    }

    private void deliver(List<OpcUaMonitoredItem> changed, List<DataValue> values) {
        Instant received = clock.now();
        List<TagChange> batch = new ArrayList<>(changed.size());
        for (int i = 0; i < changed.size(); i++) {
            String tag = (String) changed.get(i).getUserObject().orElseThrow();
            batch.add(new TagChange(tag, OpcUaValues.tagValue(values.get(i), received)));
        }
        listener.onBatch(batch);
    }

    @Override
    public void want(Collection<String> addresses) {
        synchronized (lock) {
            wanted = Set.copyOf(addresses);
            if (subscription != null) {
                work.execute(() -> {
                    synchronized (lock) {
                        if (subscription != null) {
                            follow();
                        }
                    }
                });
            }
        }
    }

    /** Makes the subscription hold what is wanted. */
    private void follow() {
        List<OpcUaMonitoredItem> gone = new ArrayList<>();
        items.entrySet().removeIf(entry -> {
            boolean unwanted = !wanted.contains(entry.getKey());
            if (unwanted) {
                gone.add(entry.getValue());
            }
            return unwanted;
        });
        subscription.removeMonitoredItems(gone);
        OpcUaBrowser browser = new OpcUaBrowser(client);
        List<TagChange> refused = new ArrayList<>();
        List<OpcUaMonitoredItem> come = new ArrayList<>();
        for (String tag : wanted) {
            if (items.containsKey(tag)) {
                continue;
            }
            try {
                OpcUaMonitoredItem item = OpcUaMonitoredItem.newDataItem(browser.node(tag));
                item.setSamplingInterval(rate.toMillis());
                item.setQueueSize(Unsigned.uint(QUEUE));
                item.setUserObject(tag);
                items.put(tag, item);
                come.add(item);
            } catch (UaException | UaRuntimeException unknown) {
                refused.add(bad(tag, Quality.bad(0x80330000L, "the server has no such namespace or the address cannot be read (Bad_NodeIdInvalid)")));
            }
        }
        subscription.addMonitoredItems(come);
        try {
            subscription.synchronizeMonitoredItems();
        } catch (MonitoredItemSynchronizationException someRefused) {
            // told one by one below
        }
        for (OpcUaMonitoredItem item : come) {
            Optional<StatusCode> result = item.getCreateResult();
            if (result.isPresent() && result.get().isBad()) {
                refused.add(bad((String) item.getUserObject().orElseThrow(), OpcUaValues.quality(result.get())));
            }
        }
        if (!refused.isEmpty()) {
            listener.onBatch(refused);
        }
    }

    private TagChange bad(String tag, Quality quality) {
        Instant now = clock.now();
        return new TagChange(tag, new TagValue(Optional.empty(), quality, now, now));
    }

    @Override
    public void close() {
        synchronized (lock) {
            closed = true;
            OpcUaConnection.quietly(client);
            client = null;
            subscription = null;
        }
    }
}
