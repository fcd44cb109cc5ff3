package dachshund.links.network;

import dachshund.core.source.LinkProblem;
import java.io.IOException;
import java.net.ConnectException;
import java.net.InetSocketAddress;
import java.net.NoRouteToHostException;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.concurrent.TimeoutException;

/** Whether a TCP port can be reached at all, and if not, in words that say what to look at. */
public final class Reach {

    private Reach() {}

    /**
     * Connects and disconnects. Not for devices that bear one connection only.
     *
     * @param what what should listen there, such as "OPC UA server"
     * @throws LinkProblem with a sentence
     */
    public static void check(String host, int port, String what, Duration limit) throws LinkProblem {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress(host, port), (int) limit.toMillis());
        } catch (IOException | IllegalArgumentException e) {
            throw problem(e, host, port, what, limit);
        }
    }

    /** What a failed attempt to connect says, by its innermost cause that is about the network. */
    public static LinkProblem problem(Throwable failure, String host, int port, String what, Duration limit) {
        for (Throwable each = failure; each != null; each = each.getCause()) {
            if (each instanceof UnknownHostException) {
                return new LinkProblem(
                        "There is no host named " + host
                                + ". Compare the name with the server's, or use its IP address.",
                        failure);
            }
            if (each instanceof SocketTimeoutException
                    || each instanceof TimeoutException
                    || each.getClass().getSimpleName().equals("ConnectTimeoutException")) {
                return new LinkProblem(
                        "Nothing answered at " + host + ":" + port + " within " + limit.toSeconds()
                                + " s. Compare the address; a firewall between here and there also looks like this.",
                        failure);
            }
            if (each instanceof NoRouteToHostException) {
                return new LinkProblem(
                        "There is no way through the network to " + host
                                + ". Compare the address and this machine's network.",
                        failure);
            }
            if (each instanceof ConnectException) {
                return new LinkProblem(
                        "The host " + host + " is there, but refuses port " + port + ". Is the " + what
                                + " running, and is that its port?",
                        failure);
            }
        }
        Throwable root = failure;
        while (root.getCause() != null) {
            root = root.getCause();
        }
        return new LinkProblem(
                "The network gave no connection to " + host + ":" + port + ": " + root.getMessage() + ".", failure);
    }
}
