package dachshund.standins;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.BindException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;

/** A server of Debian's packages that a test runs by itself, on loopback, started by a script of the launcher. */
public final class PrivateProcess implements AutoCloseable {

    private static final int FIRST_PORT = 16_000;
    private static final int PORTS = 16_000;
    private static final AtomicInteger nextPort =
            new AtomicInteger(ThreadLocalRandom.current().nextInt(PORTS));

    private final Process process;

    private PrivateProcess(Process process) {
        this.process = process;
    }

    /** A script in the launcher's folder. */
    public static Path script(String name) {
        for (Path at = Path.of("").toAbsolutePath(); at != null; at = at.getParent()) {
            if (Files.isRegularFile(at.resolve("launcher").resolve(name))) {
                return at.resolve("launcher").resolve(name);
            }
        }
        throw new IllegalStateException("launcher/" + name + " was not found above the working folder.");
    }

    /**
     * A port that nothing listens on now. From below the ports that systems give to outgoing connections, so that none of them
     * takes it before it is listened on; each process begins at another one.
     */
    public static int freePort() throws IOException {
        for (int tried = 0; tried < PORTS; tried++) {
            int port = FIRST_PORT + Math.floorMod(nextPort.getAndIncrement(), PORTS);
            try (ServerSocket socket = new ServerSocket(port, 1, InetAddress.getLoopbackAddress())) {
                return socket.getLocalPort();
            } catch (BindException taken) {
                // The next one.
            }
        }
        throw new IOException("None of " + PORTS + " ports from " + FIRST_PORT + " on is free.");
    }

    /** An empty folder among the temporary ones. */
    public static Path folder(String name) {
        try {
            return Files.createTempDirectory(name);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Puts a certificate and its key where the scripts look for them. */
    public static void tls(Path folder, String certificate, String key) {
        try {
            Files.createDirectories(folder.resolve("tls"));
            Files.writeString(folder.resolve("tls/server.pem"), certificate);
            Files.writeString(folder.resolve("tls/server.key"), key);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    public boolean runs() {
        return process.isAlive();
    }

    /** Processor time that it has taken. */
    public Duration cpu() {
        return process.toHandle().info().totalCpuDuration().orElse(Duration.ZERO);
    }

    /** Runs a script in the background; its words go to script.log in the folder. */
    public static Process run(Path folder, Path script, String... arguments) throws IOException {
        List<String> command = Stream.concat(Stream.of("bash", script.toString()), Stream.of(arguments))
                .toList();
        return new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(
                        folder.resolve("script.log").toFile()))
                .start();
    }

    /** Starts a server and waits until it listens. */
    public static PrivateProcess start(Path folder, int port, Path script, String... arguments) {
        try {
            Process process = run(folder, script, arguments);
            for (int i = 0; i < 600; i++) {
                try (Socket socket = new Socket()) {
                    socket.connect(new InetSocketAddress("127.0.0.1", port), 500);
                    return new PrivateProcess(process);
                } catch (IOException notYet) {
                    if (!process.isAlive()) {
                        break;
                    }
                    TimeUnit.MILLISECONDS.sleep(50);
                }
            }
            process.destroyForcibly();
            throw new IllegalStateException(
                    script.getFileName() + " did not start: " + Files.readString(folder.resolve("script.log")));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** Ends it at once, as a power cut would. */
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

    @Override
    public void close() {
        process.destroy();
        waitForEnd();
    }

    /** Removes a folder with all in it. */
    public static void remove(Path folder) {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.deleteIfExists(file);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
