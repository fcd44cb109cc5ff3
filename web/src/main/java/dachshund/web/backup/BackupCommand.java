package dachshund.web.backup;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import dachshund.engine.clock.SystemClock;
import dachshund.office.own.DachshundSettings;
import java.io.IOException;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import org.slf4j.LoggerFactory;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.core.env.SimpleCommandLinePropertySource;
import org.springframework.core.env.StandardEnvironment;
import org.springframework.core.io.support.ResourcePropertySource;

/**
 * {@code backup FILE}, {@code restore FILE}, {@code check FILE}, then settings as the application takes them.
 */
public final class BackupCommand {

    public static final List<String> WORDS = List.of("backup", "restore", "check");
    private static final int SHORTEST = 12;

    private BackupCommand() {}

    /** With the passphrase of the environment, DACHSHUND_PASSPHRASE. */
    public static int run(String[] args) {
        ((Logger) LoggerFactory.getLogger(Logger.ROOT_LOGGER_NAME)).setLevel(Level.WARN);
        return run(args, System.getenv().getOrDefault("DACHSHUND_PASSPHRASE", ""));
    }

    /** @return 0 where it is done, else 1 with a sentence in the error stream */
    public static int run(String[] args, String passphrase) {
        try {
            if (args.length < 2) {
                throw new IOException("Name the file: " + args[0] + " FILE.");
            }
            if (passphrase.length() < SHORTEST) {
                throw new IOException(
                        "A passphrase of " + SHORTEST
                                + " characters or more is needed in DACHSHUND_PASSPHRASE. The key of this installation is sealed with it.");
            }
            Backup backup = new Backup(settings(Arrays.copyOfRange(args, 2, args.length)));
            Path file = Path.of(args[1]);
            Instant now = new SystemClock().now();
            List<String> lines =
                    switch (args[0]) {
                        case "backup" -> backup.make(file, passphrase, now);
                        case "restore" -> backup.restore(file, passphrase, now);
                        default -> backup.check(file, passphrase, now);
                    };
            lines.forEach(line -> System.out.println("  " + line));
            return 0;
        } catch (IOException | SQLException | RuntimeException cannot) {
            System.err.println(cannot.getMessage() == null ? cannot.toString() : cannot.getMessage());
            return 1;
        }
    }

    private static DachshundSettings settings(String[] args) throws IOException {
        StandardEnvironment environment = new StandardEnvironment();
        environment.getPropertySources().addFirst(new SimpleCommandLinePropertySource(args));
        environment.getPropertySources().addLast(new ResourcePropertySource("classpath:application.properties"));
        return Binder.get(environment)
                .bind("dachshund", DachshundSettings.class)
                .get();
    }
}
