package dachshund.standins.postgresql;

import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.TimeUnit;

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
        waitUntilItTakesSessions(script);
    }

    /** It listens before it takes sessions; until then it refuses them: "the database system is starting up". */
    private void waitUntilItTakesSessions(Path script) {
        try {
            for (int i = 0; i < 600; i++) {
                if (PrivateProcess.run(folder, script, "ready", Integer.toString(port))
                                .waitFor()
                        == 0) {
                    return;
                }
                TimeUnit.MILLISECONDS.sleep(50);
            }
            throw new IllegalStateException(
                    "PostgreSQL takes no sessions: " + Files.readString(folder.resolve("script.log")));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
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
