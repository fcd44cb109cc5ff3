package dachshund.links.opcua;

import java.io.IOException;
import java.net.ConnectException;
import java.net.InetSocketAddress;
import java.net.NoRouteToHostException;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.eclipse.milo.opcua.sdk.client.DiscoveryClient;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.OpcUaClientConfig;
import org.eclipse.milo.opcua.stack.core.StatusCodes;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.security.SecurityPolicy;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.UserTokenType;
import org.eclipse.milo.opcua.stack.core.types.structured.EndpointDescription;
import org.eclipse.milo.opcua.stack.core.util.EndpointUtil;

/** Connects to a server, and puts what can go wrong into words: first the network, then the protocol, then the session. */
final class OpcUaConnection {

    /** Could not connect. The message is a sentence that says what failed and what to look at. */
    static final class CannotConnect extends Exception {
        CannotConnect(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    /** A connected client, the endpoint it uses, and a note on the address where there is something to say. */
    record Connected(OpcUaClient client, EndpointDescription endpoint, String note) {
    }

    private OpcUaConnection() {
    }

    static Connected connect(OpcUaAddress address, Duration limit) throws CannotConnect {
        reach(address, limit);
        EndpointDescription offered = endpoint(address, limit);
        String note = offered.getEndpointUrl().contains("://" + address.host() + ":" + address.port()) ? ""
                : "The server calls itself " + offered.getEndpointUrl() + "; the address as typed is used.";
        EndpointDescription endpoint = EndpointUtil.updateUrl(offered, address.host(), address.port());
        OpcUaClientConfig config = OpcUaClientConfig.builder()
                .setApplicationName(LocalizedText.english("Dachshund")).setApplicationUri("urn:dachshund:client")
                .setEndpoint(endpoint).setRequestTimeout(Unsigned.uint(limit.toMillis()))
                .setKeepAliveInterval(Unsigned.uint(2000)).setKeepAliveTimeout(Unsigned.uint(3000)).setKeepAliveFailuresAllowed(Unsigned.uint(1))
                .setSessionEndpointValidationEnabled(false)
                .build();
        OpcUaClient client = null;
        try {
            client = OpcUaClient.create(config, transport -> transport.setConnectTimeout(Unsigned.uint(limit.toMillis())));
            client.connectAsync().get(limit.toMillis(), TimeUnit.MILLISECONDS);
            return new Connected(client, endpoint, note);
        } catch (UaException | ExecutionException | TimeoutException e) {
            quietly(client);
            throw new CannotConnect("The server at " + address + " answered but gave no session: " + words(e) + ".", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            quietly(client);
            throw new CannotConnect("Connecting to " + address + " was broken off.", e);
        }
    }

    static void quietly(OpcUaClient client) {
        if (client != null) {
            client.disconnectAsync();
        }
    }

    private static void reach(OpcUaAddress address, Duration limit) throws CannotConnect {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress(address.host(), address.port()), (int) limit.toMillis());
        } catch (UnknownHostException e) {
            throw new CannotConnect("There is no host named " + address.host() + ". Compare the name with the server's, or use its IP address.", e);
        } catch (ConnectException e) {
            throw new CannotConnect("The host " + address.host() + " is there, but refuses port " + address.port()
                    + ". Is the OPC UA server running, and is that its port?", e);
        } catch (SocketTimeoutException e) {
            throw new CannotConnect("Nothing answered at " + address.host() + ":" + address.port() + " within " + limit.toSeconds()
                    + " s. Compare the address; a firewall between here and there also looks like this.", e);
        } catch (NoRouteToHostException e) {
            throw new CannotConnect("There is no way through the network to " + address.host() + ". Compare the address and this machine's network.", e);
        } catch (IOException | IllegalArgumentException e) {
            throw new CannotConnect("The network gave no connection to " + address.host() + ":" + address.port() + ": " + e.getMessage() + ".", e);
        }
    }

    private static EndpointDescription endpoint(OpcUaAddress address, Duration limit) throws CannotConnect {
        List<EndpointDescription> endpoints;
        try {
            endpoints = DiscoveryClient.getEndpoints(address.toString(), transport -> transport
                    .setConnectTimeout(Unsigned.uint(limit.toMillis())).setAcknowledgeTimeout(Unsigned.uint(limit.toMillis())))
                    .get(limit.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            throw new CannotConnect("Something listens at " + address.host() + ":" + address.port()
                    + " but did not answer as an OPC UA server within " + limit.toSeconds() + " s. Is this the right port?", e);
        } catch (ExecutionException e) {
            if (code(e) == StatusCodes.Bad_TcpEndpointUrlInvalid) {
                throw new CannotConnect("An OPC UA server answered at " + address.host() + ":" + address.port() + ", but it has no endpoint "
                        + (address.path().isEmpty() ? "without a path" : address.path()) + ". Compare the part after the port with the server's settings.", e);
            }
            throw new CannotConnect("Something answered at " + address.host() + ":" + address.port() + ", but not as an OPC UA server: "
                    + words(e) + ". Is this the right port?", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new CannotConnect("Asking " + address + " was broken off.", e);
        }
        Optional<EndpointDescription> usable = endpoints.stream()
                .filter(endpoint -> SecurityPolicy.None.getUri().equals(endpoint.getSecurityPolicyUri()))
                .filter(endpoint -> endpoint.getUserIdentityTokens() == null
                        || java.util.Arrays.stream(endpoint.getUserIdentityTokens()).anyMatch(token -> token.getTokenType() == UserTokenType.Anonymous))
                .findFirst();
        return usable.orElseThrow(() -> new CannotConnect("The server offers " + endpoints.size()
                + " endpoints, but none without security and for anonymous users, which is all that this version can use.", null));
    }

    private static long code(Throwable problem) {
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (each instanceof UaException ua) {
                return ua.getStatusCode().getValue();
            }
        }
        return 0;
    }

    /** What a failure says, without class names. */
    static String words(Throwable problem) {
        long code = code(problem);
        if (code != 0) {
            return words(code);
        }
        Throwable root = problem;
        while (root.getCause() != null) {
            root = root.getCause();
        }
        return root.getMessage() == null ? "no reason given" : root.getMessage();
    }

    /** A status code in words, with its name (OPC 10000-6, annex A.2). */
    static String words(long code) {
        return StatusCodes.lookup(code).map(nameAndWords -> nameAndWords[1].replaceAll("\\.$", "") + " (" + nameAndWords[0] + ")")
                .orElse(String.format("status 0x%08X", code));
    }

    static String words(StatusCode status) {
        return words(status.getValue());
    }
}
