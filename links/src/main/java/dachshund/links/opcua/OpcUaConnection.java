package dachshund.links.opcua;

import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.links.network.Reach;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.eclipse.milo.opcua.sdk.client.DiscoveryClient;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.OpcUaClientConfig;
import org.eclipse.milo.opcua.sdk.client.OpcUaClientConfigBuilder;
import org.eclipse.milo.opcua.sdk.client.identity.AnonymousProvider;
import org.eclipse.milo.opcua.sdk.client.identity.UsernameProvider;
import org.eclipse.milo.opcua.sdk.client.identity.X509IdentityProvider;
import org.eclipse.milo.opcua.stack.core.StatusCodes;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.security.CertificateValidator;
import org.eclipse.milo.opcua.stack.core.security.SecurityPolicy;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.MessageSecurityMode;
import org.eclipse.milo.opcua.stack.core.types.enumerated.UserTokenType;
import org.eclipse.milo.opcua.stack.core.types.structured.EndpointDescription;
import org.eclipse.milo.opcua.stack.core.util.CertificateUtil;
import org.eclipse.milo.opcua.stack.core.util.EndpointUtil;

/** Connects to a server, and puts what can go wrong into words: first the network, then the protocol, then the session. */
final class OpcUaConnection {

    /** A connected client, the endpoint and address it uses, and a note where there is something to say. */
    record Connected(OpcUaClient client, EndpointDescription endpoint, OpcUaAddress address, String note) {}

    private final LinkKind.Opening opening;
    private final OpcUaTrust trust;
    private final List<OpcUaAddress> addresses = new ArrayList<>();
    private final String security;
    private final UserTokenType signIn;
    private final String user;
    private final String password;

    OpcUaConnection(LinkKind.Opening opening, OpcUaTrust trust) {
        this.opening = opening;
        this.trust = trust;
        this.addresses.add(OpcUaAddress.read(opening.setting(OpcUaKind.ADDRESS)));
        opening.setting("alternates")
                .lines()
                .filter(line -> !line.isBlank())
                .map(OpcUaAddress::read)
                .forEach(addresses::add);
        this.security = opening.setting("security").isEmpty() ? "None" : opening.setting("security");
        this.signIn = switch (opening.setting("signin")) {
            case "user" -> UserTokenType.UserName;
            case "certificate" -> UserTokenType.Certificate;
            default -> UserTokenType.Anonymous;
        };
        this.user = opening.setting("user");
        this.password = opening.settings().getOrDefault("password", "");
    }

    /** The address to name in sentences: the first. */
    OpcUaAddress address() {
        return addresses.get(0);
    }

    /** Tries the addresses in their order. */
    Connected connect(Duration limit) throws LinkProblem {
        List<LinkProblem> problems = new ArrayList<>();
        for (OpcUaAddress address : addresses) {
            try {
                Connected connected = connect(address, limit);
                return problems.isEmpty()
                        ? connected
                        : new Connected(
                                connected.client(),
                                connected.endpoint(),
                                address,
                                ("This is address " + (problems.size() + 1) + " of " + addresses.size()
                                                + "; the first said: "
                                                + problems.get(0).getMessage() + " " + connected.note())
                                        .strip());
            } catch (LinkProblem problem) {
                problems.add(problem);
            }
        }
        throw problems.size() == 1
                ? problems.get(0)
                : new LinkProblem(
                        "None of the " + addresses.size() + " addresses works. "
                                + String.join(
                                        " ",
                                        problems.stream()
                                                .map(Throwable::getMessage)
                                                .toList()),
                        problems.get(0));
    }

    private Connected connect(OpcUaAddress address, Duration limit) throws LinkProblem {
        opening.check(address.host(), address.port());
        Reach.check(address.host(), address.port(), "OPC UA server", limit);
        EndpointDescription offered = endpoint(address, limit);
        String note = offered.getEndpointUrl().contains("://" + address.host() + ":" + address.port())
                ? ""
                : "The server calls itself " + offered.getEndpointUrl() + "; the address as typed is used.";
        EndpointDescription endpoint = EndpointUtil.updateUrl(offered, address.host(), address.port());
        boolean secured = endpoint.getSecurityMode() != MessageSecurityMode.None;
        boolean passwordInClear = signIn == UserTokenType.UserName && !secured && plainPassword(endpoint);
        if (secured || signIn == UserTokenType.UserName && !passwordInClear) {
            checkTrust(endpoint); // a password is encrypted for the holder of this certificate
        }
        OpcUaClientConfigBuilder config = OpcUaClientConfig.builder()
                .setApplicationName(LocalizedText.english("Dachshund"))
                .setApplicationUri(OpcUaTrust.APPLICATION_URI)
                .setEndpoint(endpoint)
                .setRequestTimeout(Unsigned.uint(limit.toMillis()))
                .setKeepAliveInterval(Unsigned.uint(2000))
                .setKeepAliveTimeout(Unsigned.uint(3000))
                .setKeepAliveFailuresAllowed(Unsigned.uint(1))
                .setSessionEndpointValidationEnabled(false)
                .setCertificateValidator(accepted());
        if (secured || signIn == UserTokenType.Certificate) {
            OpcUaTrust.Own own = own();
            config.setCertificate(own.certificate())
                    .setCertificateChain(new X509Certificate[] {own.certificate()})
                    .setKeyPair(own.keys());
        }
        config.setIdentityProvider(
                switch (signIn) {
                    case UserName -> new UsernameProvider(user, password, accepted());
                    case Certificate ->
                        new X509IdentityProvider(
                                own().certificate(), own().keys().getPrivate());
                    default -> AnonymousProvider.INSTANCE;
                });
        String clear = passwordInClear ? " The password travels unencrypted." : "";
        return new Connected(session(config.build(), address, limit), endpoint, address, (note + clear).strip());
    }

    private OpcUaTrust.Own own() throws LinkProblem {
        try {
            return trust.own();
        } catch (IllegalStateException cannot) {
            throw new LinkProblem(cannot.getMessage(), cannot);
        }
    }

    private OpcUaClient session(OpcUaClientConfig config, OpcUaAddress address, Duration limit) throws LinkProblem {
        OpcUaClient client = null;
        try {
            client = OpcUaClient.create(
                    config, transport -> transport.setConnectTimeout(Unsigned.uint(limit.toMillis())));
            client.connectAsync().get(limit.toMillis(), TimeUnit.MILLISECONDS);
            return client;
        } catch (UaException | ExecutionException | TimeoutException e) {
            quietly(client);
            throw new LinkProblem(
                    "The server at " + address + " answered but gave no session: " + OpcUaWords.of(e) + "."
                            + advice(OpcUaWords.code(e)),
                    e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            quietly(client);
            throw new LinkProblem("Connecting to " + address + " was broken off.", e);
        }
    }

    private String advice(long code) {
        if (code == StatusCodes.Bad_IdentityTokenRejected
                || code == StatusCodes.Bad_UserAccessDenied
                || code == StatusCodes.Bad_IdentityTokenInvalid) {
            return " Compare user name and password with the server's list of users.";
        }
        boolean aboutOurs = code == StatusCodes.Bad_SecurityChecksFailed
                || code == StatusCodes.Bad_CertificateUntrusted
                || code == StatusCodes.Bad_CertificateUseNotAllowed
                || code == StatusCodes.Bad_CertificateInvalid;
        if (!aboutOurs) {
            return "";
        }
        try {
            return " The server does not trust our certificate yet: accept it there (fingerprint SHA-1 ends in "
                    + OpcUaTrust.sha1(own().certificate()).substring(32)
                    + ", subject Dachshund), then test again.";
        } catch (LinkProblem none) {
            return " " + none.getMessage();
        }
    }

    private CertificateValidator accepted() {
        return (chain, uri, hosts) -> {
            if (!trust.trusts(chain.get(0))) {
                throw new UaException(
                        StatusCodes.Bad_CertificateUntrusted, "the server's certificate has not been accepted");
            }
        };
    }

    private void checkTrust(EndpointDescription endpoint) throws LinkProblem {
        X509Certificate certificate;
        try {
            certificate = CertificateUtil.decodeCertificate(
                    endpoint.getServerCertificate().bytesOrEmpty());
        } catch (UaException e) {
            throw new LinkProblem(
                    "The server sent no certificate that can be read, so it cannot be connected to with security.", e);
        }
        if (!trust.trusts(certificate)) {
            throw new LinkProblem("The certificate of "
                    + endpoint.getServer().getApplicationName().getText()
                    + " has not been accepted yet. Compare its fingerprint under Certificates and accept it there (SHA-256 begins with "
                    + OpcUaTrust.fingerprint(certificate).substring(0, 8) + "); the server must trust ours, too.");
        }
    }

    private static boolean plainPassword(EndpointDescription endpoint) {
        return Arrays.stream(endpoint.getUserIdentityTokens())
                .filter(token -> token.getTokenType() == UserTokenType.UserName)
                .noneMatch(token -> token.getSecurityPolicyUri() != null
                        && !token.getSecurityPolicyUri().isBlank()
                        && !SecurityPolicy.None.getUri().equals(token.getSecurityPolicyUri()));
    }

    static void quietly(OpcUaClient client) {
        if (client != null) {
            client.disconnectAsync();
        }
    }

    private EndpointDescription endpoint(OpcUaAddress address, Duration limit) throws LinkProblem {
        List<EndpointDescription> offered = offered(address, limit);
        return offered.stream()
                .filter(this::wanted)
                .filter(this::letsIn)
                .max(Comparator.comparingInt(OpcUaConnection::strength))
                .orElseThrow(() -> new LinkProblem("The server offers " + offered.size() + " endpoints, but none "
                        + (security.equals("None")
                                ? "without security"
                                : security.equals("best")
                                        ? "that we can use"
                                        : "with " + security.replace("SignAndEncrypt", "signed and encrypted"))
                        + " for "
                        + (signIn == UserTokenType.UserName
                                ? "user name and password"
                                : signIn == UserTokenType.Certificate ? "a user's certificate" : "anonymous users")
                        + ". It offers: "
                        + String.join(
                                "; ",
                                offered.stream()
                                        .map(OpcUaConnection::words)
                                        .distinct()
                                        .toList()) + "."));
    }

    private boolean wanted(EndpointDescription endpoint) {
        String policy = SecurityPolicy.fromUriSafe(endpoint.getSecurityPolicyUri())
                .map(Enum::name)
                .orElse("unknown");
        boolean ours = !policy.equals("unknown")
                && "http://opcfoundation.org/UA-Profile/Transport/uatcp-uasc-uabinary"
                        .equals(endpoint.getTransportProfileUri());
        return ours
                && (security.equals("best")
                        || (policy + " " + endpoint.getSecurityMode().name()).startsWith(security));
    }

    private boolean letsIn(EndpointDescription endpoint) {
        return endpoint.getUserIdentityTokens() == null
                || endpoint.getUserIdentityTokens().length == 0
                || Arrays.stream(endpoint.getUserIdentityTokens()).anyMatch(token -> token.getTokenType() == signIn);
    }

    private static int strength(EndpointDescription endpoint) {
        SecurityPolicy policy =
                SecurityPolicy.fromUriSafe(endpoint.getSecurityPolicyUri()).orElse(SecurityPolicy.None);
        return policy.ordinal() * 10 + endpoint.getSecurityMode().getValue();
    }

    private static String words(EndpointDescription endpoint) {
        String users = endpoint.getUserIdentityTokens() == null
                ? ""
                : String.join(
                        ", ",
                        Arrays.stream(endpoint.getUserIdentityTokens())
                                .map(token -> token.getTokenType().name())
                                .distinct()
                                .toList());
        return SecurityPolicy.fromUriSafe(endpoint.getSecurityPolicyUri())
                        .map(Enum::name)
                        .orElse("unknown policy") + " "
                + endpoint.getSecurityMode().name() + " (" + users + ")";
    }

    private static List<EndpointDescription> offered(OpcUaAddress address, Duration limit) throws LinkProblem {
        try {
            return DiscoveryClient.getEndpoints(address.toString(), transport -> transport
                            .setConnectTimeout(Unsigned.uint(limit.toMillis()))
                            .setAcknowledgeTimeout(Unsigned.uint(limit.toMillis())))
                    .get(limit.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            throw new LinkProblem(
                    "Something listens at " + address.host() + ":" + address.port()
                            + " but did not answer as an OPC UA server within " + limit.toSeconds()
                            + " s. Is this the right port?",
                    e);
        } catch (ExecutionException e) {
            if (OpcUaWords.code(e) == StatusCodes.Bad_TcpEndpointUrlInvalid) {
                throw new LinkProblem(
                        "An OPC UA server answered at " + address.host() + ":" + address.port()
                                + ", but it has no endpoint "
                                + (address.path().isEmpty() ? "without a path" : address.path())
                                + ". Compare the part after the port with the server's settings.",
                        e);
            }
            throw new LinkProblem(
                    "Something answered at " + address.host() + ":" + address.port() + ", but not as an OPC UA server: "
                            + OpcUaWords.of(e) + ". Is this the right port?",
                    e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new LinkProblem("Asking " + address + " was broken off.", e);
        }
    }
}
