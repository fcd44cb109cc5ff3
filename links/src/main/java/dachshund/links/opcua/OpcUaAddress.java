package dachshund.links.opcua;

import java.net.URI;
import java.net.URISyntaxException;

/** An address such as {@code opc.tcp://host:4840/path}. The port is 4840 where none is given (OPC 10000-6, 7.2). */
record OpcUaAddress(String host, int port, String path) {

    private static final int USUAL_PORT = 4840;

    /** @throws IllegalArgumentException with a sentence, see {@link #problem} */
    static OpcUaAddress read(String text) {
        String problem = problem(text);
        if (!problem.isEmpty()) {
            throw new IllegalArgumentException(problem);
        }
        URI uri = URI.create(text.strip());
        return new OpcUaAddress(
                uri.getHost(),
                uri.getPort() < 0 ? USUAL_PORT : uri.getPort(),
                uri.getRawPath() == null ? "" : uri.getRawPath());
    }

    /** A sentence on what is wrong with the text; empty where nothing is. */
    static String problem(String text) {
        String wanted = " Write it like opc.tcp://192.168.10.20:4840.";
        if (text.isBlank() || text.strip().equals("opc.tcp://")) {
            return "The address of the server is needed." + wanted;
        }
        if (!text.contains("://")) {
            return "An OPC UA address begins with opc.tcp://." + wanted;
        }
        try {
            URI uri = new URI(text.strip());
            if (!"opc.tcp".equalsIgnoreCase(uri.getScheme())) {
                return "An OPC UA address begins with opc.tcp://." + wanted;
            }
            if (uri.getHost() == null) {
                return "There is no host name in this address, or one with characters that host names do not have."
                        + wanted;
            }
            return uri.getPort() == 0 || uri.getPort() > 65535 ? "A port is a whole number from 1 to 65535." : "";
        } catch (URISyntaxException notAnAddress) {
            return "This is not an address: it breaks off at character " + (notAnAddress.getIndex() + 1) + "." + wanted;
        }
    }

    @Override
    public String toString() {
        return "opc.tcp://" + host + ":" + port + path;
    }
}
