package dachshund.standins.opcua;

import dachshund.standins.plant.PelletWorks;
import java.security.KeyPair;
import java.security.Security;
import java.security.cert.X509Certificate;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.bouncycastle.jce.provider.BouncyCastleProvider;
import org.eclipse.milo.opcua.sdk.server.EndpointConfig;
import org.eclipse.milo.opcua.sdk.server.OpcUaServer;
import org.eclipse.milo.opcua.sdk.server.OpcUaServerConfig;
import org.eclipse.milo.opcua.sdk.server.identity.AnonymousIdentityValidator;
import org.eclipse.milo.opcua.sdk.server.identity.CompositeValidator;
import org.eclipse.milo.opcua.sdk.server.identity.UsernameIdentityValidator;
import org.eclipse.milo.opcua.sdk.server.identity.X509IdentityValidator;
import org.eclipse.milo.opcua.stack.core.security.CertificateValidator;
import org.eclipse.milo.opcua.stack.core.security.DefaultApplicationGroup;
import org.eclipse.milo.opcua.stack.core.security.DefaultCertificateManager;
import org.eclipse.milo.opcua.stack.core.security.MemoryCertificateQuarantine;
import org.eclipse.milo.opcua.stack.core.security.MemoryCertificateStore;
import org.eclipse.milo.opcua.stack.core.security.MemoryTrustListManager;
import org.eclipse.milo.opcua.stack.core.security.RsaSha256CertificateFactory;
import org.eclipse.milo.opcua.stack.core.security.SecurityPolicy;
import org.eclipse.milo.opcua.stack.core.transport.TransportProfile;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.enumerated.MessageSecurityMode;
import org.eclipse.milo.opcua.stack.core.types.enumerated.UserTokenType;
import org.eclipse.milo.opcua.stack.core.types.structured.UserTokenPolicy;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransport;
import org.eclipse.milo.opcua.stack.transport.server.tcp.OpcTcpServerTransportConfig;

/**
 * The pellet works as a real OPC UA server on loopback: with and without security, for anonymous users, for user
 * {@code operator} with password {@code pellets}, and for a user's certificate. It trusts every client.
 */
public final class PelletWorksServer implements AutoCloseable {

    /** Namespace of the plant's nodes. */
    public static final String NAMESPACE = "urn:quillmoor:pelletworks";

    private static final List<SecurityPolicy> POLICIES = List.of(
            SecurityPolicy.Basic256Sha256, SecurityPolicy.Aes128_Sha256_RsaOaep, SecurityPolicy.Aes256_Sha256_RsaPss);

    static {
        // The policy Aes256-Sha256-RsaPss asks for signatures that the JDK has under another name only.
        if (Security.getProvider(BouncyCastleProvider.PROVIDER_NAME) == null) {
            Security.addProvider(new BouncyCastleProvider());
        }
    }

    private final OpcUaServer server;
    private final PlantNamespace namespace;
    private final String address;

    /** Starts the server on a port. */
    public PelletWorksServer(int port, PelletWorks plant) throws InterruptedException {
        this.address = "opc.tcp://127.0.0.1:" + port;
        DefaultApplicationGroup certificates = certificates();
        X509Certificate own = certificates.getCertificateEntries().get(0).certificateChain[0];
        OpcUaServerConfig config = OpcUaServerConfig.builder()
                .setApplicationUri(NAMESPACE + ":server")
                .setProductUri(NAMESPACE)
                .setApplicationName(LocalizedText.english("Quillmoor Pellet Works"))
                .setEndpoints(endpoints(port, own))
                .setIdentityValidator(new CompositeValidator(
                        AnonymousIdentityValidator.INSTANCE,
                        new UsernameIdentityValidator(
                                challenge -> challenge.getUsername().equals("operator")
                                        && challenge.getPassword().equals("pellets")),
                        new X509IdentityValidator(certificate -> true)))
                .setCertificateManager(new DefaultCertificateManager(new MemoryCertificateQuarantine(), certificates))
                .build();
        server = new OpcUaServer(
                config,
                profile -> new OpcTcpServerTransport(
                        OpcTcpServerTransportConfig.newBuilder().build()));
        namespace = new PlantNamespace(server, plant.tags());
        namespace.startup();
        try {
            server.startup().get();
        } catch (ExecutionException e) {
            throw new IllegalStateException("The plant's OPC UA server could not listen on " + address, e.getCause());
        }
    }

    private static DefaultApplicationGroup certificates() {
        CertificateValidator everyone = (chain, uri, hosts) -> {};
        try {
            return DefaultApplicationGroup.createAndInitialize(
                    new MemoryTrustListManager(),
                    new MemoryCertificateStore(),
                    new RsaSha256CertificateFactory() {
                        @Override
                        protected KeyPair createRsaSha256KeyPair() {
                            return ServerIdentity.ofAll().keys();
                        }

                        @Override
                        protected X509Certificate[] createRsaSha256CertificateChain(KeyPair keys) {
                            return new X509Certificate[] {ServerIdentity.ofAll().certificate()};
                        }
                    },
                    everyone);
        } catch (Exception e) { // the library declares no narrower one
            throw new IllegalStateException("The plant's certificate could not be made.", e);
        }
    }

    private static Set<EndpointConfig> endpoints(int port, X509Certificate own) {
        EndpointConfig.Builder builder = EndpointConfig.newBuilder()
                .setTransportProfile(TransportProfile.TCP_UASC_UABINARY)
                .setBindAddress("127.0.0.1")
                .setHostname("127.0.0.1")
                .setBindPort(port)
                .setPath("")
                .setCertificate(own)
                .addTokenPolicies(
                        new UserTokenPolicy("anonymous", UserTokenType.Anonymous, null, null, null),
                        new UserTokenPolicy(
                                "user", UserTokenType.UserName, null, null, SecurityPolicy.Basic256Sha256.getUri()),
                        new UserTokenPolicy(
                                "certificate",
                                UserTokenType.Certificate,
                                null,
                                null,
                                SecurityPolicy.Basic256Sha256.getUri()));
        Set<EndpointConfig> endpoints = new LinkedHashSet<>();
        endpoints.add(builder.copy()
                .setSecurityPolicy(SecurityPolicy.None)
                .setSecurityMode(MessageSecurityMode.None)
                .build());
        for (SecurityPolicy policy : POLICIES) {
            for (MessageSecurityMode mode : List.of(MessageSecurityMode.Sign, MessageSecurityMode.SignAndEncrypt)) {
                endpoints.add(builder.copy()
                        .setSecurityPolicy(policy)
                        .setSecurityMode(mode)
                        .build());
            }
        }
        return endpoints;
    }

    /** Hands clients' writes to the plant, and what changed in the plant to clients. */
    public void publish() {
        namespace.publish();
    }

    /** Address for clients. */
    public String address() {
        return address;
    }

    @Override
    public void close() {
        try {
            server.shutdown().get(5, TimeUnit.SECONDS);
        } catch (ExecutionException | TimeoutException e) {
            throw new IllegalStateException("The plant's OPC UA server did not stop.", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
