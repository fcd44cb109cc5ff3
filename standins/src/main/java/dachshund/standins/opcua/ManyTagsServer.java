package dachshund.standins.opcua;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.LongAdder;
import org.eclipse.milo.opcua.sdk.core.AccessLevel;
import org.eclipse.milo.opcua.sdk.core.Reference;
import org.eclipse.milo.opcua.sdk.server.EndpointConfig;
import org.eclipse.milo.opcua.sdk.server.ManagedNamespaceWithLifecycle;
import org.eclipse.milo.opcua.sdk.server.OpcUaServer;
import org.eclipse.milo.opcua.sdk.server.OpcUaServerConfig;
import org.eclipse.milo.opcua.sdk.server.identity.AnonymousIdentityValidator;
import org.eclipse.milo.opcua.sdk.server.items.DataItem;
import org.eclipse.milo.opcua.sdk.server.items.MonitoredItem;
import org.eclipse.milo.opcua.sdk.server.nodes.UaFolderNode;
import org.eclipse.milo.opcua.sdk.server.nodes.UaVariableNode;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.security.DefaultCertificateManager;
import org.eclipse.milo.opcua.stack.core.security.MemoryCertificateQuarantine;
import org.eclipse.milo.opcua.stack.core.transport.TransportProfile;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransport;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransportConfig;

/**
 * The plant at any size, for benchmarks: so many numbers over real OPC UA on loopback, in folders of a thousand, each
 * changing at a steady pace. Changes are pushed in ticks; the source time of a change is the moment of its push.
 */
@SuppressWarnings("deprecation") // the library offers no other way to name a node by its context
public final class ManyTagsServer implements AutoCloseable {

    public static final String NAMESPACE = "urn:quillmoor:many";

    private static final int FOLDER = 1000;

    private final OpcUaServer server;
    private final Many namespace;
    private final ScheduledExecutorService driver = Executors.newSingleThreadScheduledExecutor();
    private int next;
    private double number;

    /**
     * @param tags       how many
     * @param perSecond  changes a second, all together
     * @param tickMillis changes are pushed in portions, so often
     */
    public ManyTagsServer(int port, int tags, int perSecond, int tickMillis) throws InterruptedException {
        EndpointConfig endpoint = EndpointConfig.newBuilder()
                .setTransportProfile(TransportProfile.TCP_UASC_UABINARY)
                .setBindAddress("127.0.0.1")
                .setHostname("127.0.0.1")
                .setBindPort(port)
                .setPath("")
                .build();
        server = new OpcUaServer(
                OpcUaServerConfig.builder()
                        .setApplicationUri(NAMESPACE)
                        .setProductUri(NAMESPACE)
                        .setApplicationName(LocalizedText.english("Many tags"))
                        .setEndpoints(Set.of(endpoint))
                        .setIdentityValidator(AnonymousIdentityValidator.INSTANCE)
                        .setCertificateManager(new DefaultCertificateManager(new MemoryCertificateQuarantine()))
                        .build(),
                profile -> new OpcTcpServerTransport(
                        OpcTcpServerTransportConfig.newBuilder().build()));
        namespace = new Many(server, tags);
        namespace.startup();
        try {
            server.startup().get();
        } catch (ExecutionException e) {
            throw new IllegalStateException("The server could not listen on port " + port, e.getCause());
        }
        int portion = Math.max(1, (int) ((long) perSecond * tickMillis / 1000));
        driver.scheduleAtFixedRate(() -> push(portion), tickMillis, tickMillis, TimeUnit.MILLISECONDS);
    }

    /** Address of a tag, with the namespace URI. */
    public static String address(int tag) {
        return "nsu=" + NAMESPACE + ";s=t" + tag;
    }

    private void push(int portion) {
        DateTime now = new DateTime(Instant.now());
        for (int i = 0; i < portion; i++) {
            number += 0.25;
            namespace.push(next, new DataValue(new Variant(number), StatusCode.GOOD, now, now));
            next = (next + 1) % namespace.nodes.size();
        }
    }

    /** How many changes were pushed so far. */
    public long pushed() {
        return namespace.pushed.sum();
    }

    private static final class Many extends ManagedNamespaceWithLifecycle {
        private final List<UaVariableNode> nodes = new ArrayList<>();
        private final Map<NodeId, List<DataItem>> items = new ConcurrentHashMap<>();
        private final LongAdder pushed = new LongAdder();

        Many(OpcUaServer server, int tags) {
            super(server, NAMESPACE);
            getLifecycleManager().addStartupTask(() -> {
                UaFolderNode folder = null;
                for (int i = 0; i < tags; i++) {
                    if (i % FOLDER == 0) {
                        folder = new UaFolderNode(
                                getNodeContext(),
                                newNodeId("f" + i / FOLDER),
                                newQualifiedName("Area " + i / FOLDER),
                                LocalizedText.english("Area " + i / FOLDER));
                        getNodeManager().addNode(folder);
                        folder.addReference(new Reference(
                                folder.getNodeId(), NodeIds.Organizes, NodeIds.ObjectsFolder.expanded(), false));
                    }
                    UaVariableNode node = UaVariableNode.builder(getNodeContext())
                            .setNodeId(newNodeId("t" + i))
                            .setBrowseName(newQualifiedName("Value " + i))
                            .setDisplayName(LocalizedText.english("Value " + i))
                            .setDataType(NodeIds.Double)
                            .setTypeDefinition(NodeIds.BaseDataVariableType)
                            .setAccessLevel(AccessLevel.READ_ONLY)
                            .setUserAccessLevel(AccessLevel.READ_ONLY)
                            .setValue(new DataValue(new Variant(0.0)))
                            .build();
                    getNodeManager().addNode(node);
                    folder.addOrganizes(node);
                    nodes.add(node);
                }
            });
        }

        private void push(int tag, DataValue value) {
            UaVariableNode node = nodes.get(tag);
            node.setValue(value);
            items.getOrDefault(node.getNodeId(), List.of()).forEach(item -> item.setValue(value));
            pushed.increment();
        }

        @Override
        public void onDataItemsCreated(List<DataItem> created) {
            created.forEach(item -> {
                items.computeIfAbsent(item.getReadValueId().getNodeId(), id -> new CopyOnWriteArrayList<>())
                        .add(item);
                item.setValue(new DataValue(new Variant(0.0)));
            });
        }

        @Override
        public void onDataItemsModified(List<DataItem> modified) {
            // changes are pushed, whatever the sampling interval
        }

        @Override
        public void onDataItemsDeleted(List<DataItem> deleted) {
            deleted.forEach(item -> items.getOrDefault(item.getReadValueId().getNodeId(), new ArrayList<>())
                    .remove(item));
        }

        @Override
        public void onMonitoringModeChanged(List<MonitoredItem> changed) {
            // an item that is switched off does not take values by itself
        }
    }

    @Override
    public void close() {
        driver.shutdownNow();
        try {
            server.shutdown().get(5, TimeUnit.SECONDS);
        } catch (ExecutionException | TimeoutException e) {
            throw new IllegalStateException("The server did not stop.", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
