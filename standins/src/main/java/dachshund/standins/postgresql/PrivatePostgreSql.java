package dachshund.standins.postgresql;

import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;

/** A real PostgreSQL for tests and benchmarks: own folder, loopback, a free port, user postgres without password. */
public final class PrivatePostgreSql implements AutoCloseable {

    private final Path folder;
    private final int port;
    private final PrivateProcess process;

    public PrivatePostgreSql() {
        this("", "");
    }

    /** With TLS: a certificate and its key, both PEM; without where they are empty. */
    public PrivatePostgreSql(String certificate, String key) {
        Path script = PrivateProcess.script("postgresql");
        try {
            folder = Files.createTempDirectory("dachshund-pg");
            port = PrivateProcess.freePort();
            if (PrivateProcess.run(folder, script, "init", folder.toString()).waitFor() != 0) {
                throw new IllegalStateException(
                        "PostgreSQL could not be initialised: " + Files.readString(folder.resolve("script.log")));
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
        if (!certificate.isEmpty()) {
            PrivateProcess.tls(folder, certificate, key);
        }
        process = PrivateProcess.start(folder, port, script, "run", folder.toString(), Integer.toString(port));
    }

    public int port() {
        return port;
    }

    /** JDBC address of a database. */
    public String url(String database) {
        return "jdbc:postgresql://127.0.0.1:" + port + "/" + database + "?user=postgres";
    }

    @Override
    public void close() {
        process.close();
        PrivateProcess.remove(folder);
    }
}
