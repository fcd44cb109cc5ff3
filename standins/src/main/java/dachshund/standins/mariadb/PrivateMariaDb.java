package dachshund.standins.mariadb;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;

/**
 * A real mariadbd for tests and benchmarks: own folder, loopback, a free port, user root without password. Started by
 * the same script as the launcher's. {@link #kill} pulls the plug, {@link #start} puts it back.
 */
public final class PrivateMariaDb implements AutoCloseable {

    private final Path script = findScript();
    private final Path folder;
    private final int port;
    private Process process;

    public PrivateMariaDb() {
        try {
            folder = Files.createTempDirectory("dachshund-db");
            port = freePort();
            run("init", folder.toString()).waitFor();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
        start();
    }

    private static Path findScript() {
        for (Path at = Path.of("").toAbsolutePath(); at != null; at = at.getParent()) {
            if (Files.isRegularFile(at.resolve("launcher/mariadb"))) {
                return at.resolve("launcher/mariadb");
            }
        }
        throw new IllegalStateException("launcher/mariadb was not found above the working folder.");
    }

    private Process run(String... arguments) throws IOException {
        String[] command = Stream.concat(Stream.of("bash", script.toString()), Stream.of(arguments)).toArray(String[]::new);
        ProcessBuilder builder = new ProcessBuilder(command).redirectErrorStream(true).redirectOutput(folder.resolve("script.log").toFile());
        return builder.start();
    }

    /** A port that nothing listens on now. */
    public static int freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            return socket.getLocalPort();
        }
    }

    public int port() {
        return port;
    }

    /** JDBC address of a database, or of the server where the name is empty. */
    public String url(String database) {
        return "jdbc:mariadb://127.0.0.1:" + port + "/" + database + "?user=root";
    }

    /** Starts the server and waits until it listens. */
    public void start() {
        try {
            process = run("run", folder.toString(), Integer.toString(port));
            for (int i = 0; i < 600; i++) {
                try (Socket socket = new Socket()) {
                    socket.connect(new InetSocketAddress("127.0.0.1", port), 500);
                    return;
                } catch (IOException notYet) {
                    if (!process.isAlive()) {
                        break;
                    }
                    TimeUnit.MILLISECONDS.sleep(50);
                }
            }
            throw new IllegalStateException("mariadbd did not start: " + Files.readString(folder.resolve("script.log")));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Ends the server at once, as a power cut would. */
    public void kill() {
        process.destroyForcibly();
        waitForEnd();
    }

    private void waitForEnd() {
        try {
            process.waitFor(30, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Ends the server and removes its folder. */
    @Override
    public void close() {
        process.destroy();
        waitForEnd();
        try (Stream<Path> files = Files.walk(folder)) {
            files.sorted(Comparator.reverseOrder()).forEach(file -> file.toFile().delete());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
