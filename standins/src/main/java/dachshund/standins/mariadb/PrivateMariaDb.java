package dachshund.standins.mariadb;

import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.time.Duration;

/**
 * A real mariadbd for tests and benchmarks: own folder, loopback, a free port, user root without password beside the
 * accounts that the launcher makes. Started by
 * the same script as the launcher's. {@link #kill} pulls the plug, {@link #start} puts it back.
 */
public final class PrivateMariaDb implements AutoCloseable {

    private final Path script = PrivateProcess.script("mariadb");
    private final Path folder;
    private final int port;
    private PrivateProcess process;

    public PrivateMariaDb() {
        this(PrivateProcess.folder("dachshund-db"));
    }

    /** With TLS: a certificate and its key, both PEM. */
    public static PrivateMariaDb withTls(String certificate, String key) {
        Path folder = PrivateProcess.folder("dachshund-db");
        PrivateProcess.tls(folder, certificate, key);
        return new PrivateMariaDb(folder);
    }

    /** @param folder empty, its own */
    public PrivateMariaDb(Path folder) {
        this.folder = folder;
        try {
            port = PrivateProcess.freePort();
            PrivateProcess.run(folder, script, "init", folder.toString()).waitFor();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
        start();
    }

    public int port() {
        return port;
    }

    /** JDBC address of a database, or of the server where the name is empty. */
    public String url(String database) {
        return "jdbc:mariadb://127.0.0.1:" + port + "/" + database + "?user=root";
    }

    /** Where the password of the application's own user is. */
    public Path ownPassword() {
        return folder.resolve("own.password");
    }

    public boolean runs() {
        return process.runs();
    }

    /** Processor time that the server has taken since it was started. */
    public Duration cpu() {
        return process.cpu();
    }

    /** Starts the server and waits until it listens. */
    public void start() {
        process = PrivateProcess.start(folder, port, script, "run", folder.toString(), Integer.toString(port), "open");
    }

    /** Ends the server at once, as a power cut would. */
    public void kill() {
        process.kill();
    }

    /** Ends the server and removes its folder. */
    @Override
    public void close() {
        process.close();
        PrivateProcess.remove(folder);
    }
}
