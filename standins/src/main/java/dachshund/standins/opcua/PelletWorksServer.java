package dachshund.standins.opcua;

import dachshund.standins.plant.PelletWorks;
import java.time.Instant;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.eclipse.milo.opcua.sdk.server.EndpointConfig;
import org.eclipse.milo.opcua.sdk.server.OpcUaServer;
import org.eclipse.milo.opcua.sdk.server.OpcUaServerConfig;
import org.eclipse.milo.opcua.sdk.server.identity.AnonymousIdentityValidator;
import org.eclipse.milo.opcua.stack.core.security.DefaultCertificateManager;
import org.eclipse.milo.opcua.stack.core.security.MemoryCertificateQuarantine;
import org.eclipse.milo.opcua.stack.core.transport.TransportProfile;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransport;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransportConfig;

/** The pellet works as a real OPC UA server on loopback: security None, anonymous, twice a second a step of the plant. */
public final class PelletWorksServer implements AutoCloseable {

    /** Namespace of the plant's nodes. */
    public static final String NAMESPACE = "urn:quillmoor:pelletworks";

    private static final long STEP_MILLIS = 500;

    private final OpcUaServer server;
    private final PlantNamespace namespace;
    private final PelletWorks plant;
    private final String address;
    private final ScheduledExecutorService driver = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread thread = new Thread(task, "pellet-works");
        thread.setDaemon(true);
        return thread;
    });

    /** Starts the server on a port; the plant begins at the present. */
    public static PelletWorksServer start(int port, long seed) throws InterruptedException {
        PelletWorks plant = new PelletWorks(seed, Instant.now().minusSeconds(1800));
        plant.runTo(Instant.now());
        return new PelletWorksServer(port, plant);
    }

    private PelletWorksServer(int port, PelletWorks plant) throws InterruptedException {
        this.plant = plant;
        this.address = "opc.tcp://127.0.0.1:" + port;
        EndpointConfig endpoint = EndpointConfig.newBuilder().setTransportProfile(TransportProfile.TCP_UASC_UABINARY)
                .setBindAddress("127.0.0.1").setHostname("127.0.0.1").setBindPort(port).setPath("").build();
        OpcUaServerConfig config = OpcUaServerConfig.builder()
                .setApplicationUri(NAMESPACE + ":server").setProductUri(NAMESPACE)
                .setApplicationName(LocalizedText.english("Quillmoor Pellet Works"))
                .setEndpoints(Set.of(endpoint))
                .setIdentityValidator(AnonymousIdentityValidator.INSTANCE)
                .setCertificateManager(new DefaultCertificateManager(new MemoryCertificateQuarantine()))
                .build();
        server = new OpcUaServer(config, profile -> new OpcTcpServerTransport(OpcTcpServerTransportConfig.newBuilder().build()));
        namespace = new PlantNamespace(server, plant.tags());
        namespace.startup();
        try {
            server.startup().get();
        } catch (ExecutionException e) {
            throw new IllegalStateException("The plant's OPC UA server could not listen on " + address, e.getCause());
        }
        driver.scheduleAtFixedRate(this::step, 0, STEP_MILLIS, TimeUnit.MILLISECONDS);
    }

    private void step() {
        plant.runTo(Instant.now());
        namespace.publish();
    }

    /** Address for clients. */
    public String address() {
        return address;
    }

    @Override
    public void close() {
        driver.shutdownNow();
        try {
            server.shutdown().get(5, TimeUnit.SECONDS);
        } catch (ExecutionException | java.util.concurrent.TimeoutException e) {
            throw new IllegalStateException("The plant's OPC UA server did not stop.", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
