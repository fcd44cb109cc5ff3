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

/** Whether a TCP port can be reached at all, and if not, in words that say what to look at. */
public final class Reach {

    private Reach() {
    }

    /**
     * Connects and disconnects.
     *
     * @param what what should listen there, such as "OPC UA server"
     * @throws LinkProblem with a sentence
     */
    public static void check(String host, int port, String what, Duration limit) throws LinkProblem {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress(host, port), (int) limit.toMillis());
        } catch (UnknownHostException e) {
            throw new LinkProblem("There is no host named " + host + ". Compare the name with the server's, or use its IP address.", e);
        } catch (ConnectException e) {
            throw new LinkProblem("The host " + host + " is there, but refuses port " + port + ". Is the " + what + " running, and is that its port?", e);
        } catch (SocketTimeoutException e) {
            throw new LinkProblem("Nothing answered at " + host + ":" + port + " within " + limit.toSeconds()
                    + " s. Compare the address; a firewall between here and there also looks like this.", e);
        } catch (NoRouteToHostException e) {
            throw new LinkProblem("There is no way through the network to " + host + ". Compare the address and this machine's network.", e);
        } catch (IOException | IllegalArgumentException e) {
            throw new LinkProblem("The network gave no connection to " + host + ":" + port + ": " + e.getMessage() + ".", e);
        }
    }
}
