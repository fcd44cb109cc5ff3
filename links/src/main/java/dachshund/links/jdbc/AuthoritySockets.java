package dachshund.links.jdbc;

import dachshund.links.network.Trust;
import java.io.IOException;
import java.net.InetAddress;
import java.net.Socket;
import java.security.GeneralSecurityException;
import java.util.Properties;
import javax.net.ssl.SSLSocketFactory;

/**
 * Sockets over TLS that believe the authorities of one destination, for a driver that asks for a class by its name and gives
 * it its properties. The driver itself compares the host's name with the certificate.
 */
public final class AuthoritySockets extends SSLSocketFactory {

    /** The property that holds the authorities as PEM; blank for those that this Java believes. */
    public static final String AUTHORITY = "sslfactoryarg";

    private final SSLSocketFactory sockets;

    /** @throws GeneralSecurityException with a sentence, where the authorities cannot be read */
    public AuthoritySockets(Properties properties) throws GeneralSecurityException {
        sockets = Trust.context(properties.getProperty(AUTHORITY, "")).getSocketFactory();
    }

    @Override
    public String[] getDefaultCipherSuites() {
        return sockets.getDefaultCipherSuites();
    }

    @Override
    public String[] getSupportedCipherSuites() {
        return sockets.getSupportedCipherSuites();
    }

    @Override
    public Socket createSocket(Socket over, String host, int port, boolean closes) throws IOException {
        return sockets.createSocket(over, host, port, closes);
    }

    @Override
    public Socket createSocket(String host, int port) throws IOException {
        return sockets.createSocket(host, port);
    }

    @Override
    public Socket createSocket(String host, int port, InetAddress local, int localPort) throws IOException {
        return sockets.createSocket(host, port, local, localPort);
    }

    @Override
    public Socket createSocket(InetAddress host, int port) throws IOException {
        return sockets.createSocket(host, port);
    }

    @Override
    public Socket createSocket(InetAddress host, int port, InetAddress local, int localPort) throws IOException {
        return sockets.createSocket(host, port, local, localPort);
    }
}
