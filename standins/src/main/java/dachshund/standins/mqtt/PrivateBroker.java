package dachshund.standins.mqtt;

import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** A real mosquitto for tests and benchmarks: loopback, a free port. */
public final class PrivateBroker implements AutoCloseable {

    private final Path folder;
    private final int port;
    private final List<String> settings;
    private PrivateProcess process;

    /** @param settings more lines of its configuration, such as a password file */
    public PrivateBroker(int port, String... settings) {
        try {
            this.folder = Files.createTempDirectory("dachshund-broker");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        this.port = port;
        this.settings = List.of(settings);
        start();
    }

    public int port() {
        return port;
    }

    public Path folder() {
        return folder;
    }

    public void start() {
        process = PrivateProcess.start(
                folder,
                port,
                PrivateProcess.script("mosquitto"),
                folder.toString(),
                Integer.toString(port),
                String.join("\n", settings));
    }

    /** Ends the broker at once. */
    public void kill() {
        process.kill();
    }

    @Override
    public void close() {
        process.close();
        PrivateProcess.remove(folder);
    }
}
