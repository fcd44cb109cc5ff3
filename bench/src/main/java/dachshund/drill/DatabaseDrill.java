package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Site;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;

/**
 * The database hangs, cuts its connections, does what is asked and does not say so, answers after a minute, can be read only:
 * it is the application's own as well as the destination. No row of a 20 ms recorder may be missing or there twice. How many
 * ticks came too late is told, and is no promise of this drill.
 */
final class DatabaseDrill implements Drill.Exercise {

    private static final int LONG_ENOUGH_FOR_A_LIMIT = 70_000;
    private static final int SHORT = 12_000;

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 3);
        Random random = new Random(options.number("seed", 1));
        System.out.printf("database: each fault %d times; a row each 20 ms, counted in its table%n", times);
        try (Site site = new Site();
                Proxy proxy = new Proxy(site.database().port())) {
            site.reachDatabaseBy(proxy.port());
            Ticks ticks = new Ticks(site);
            site.start();
            ticks.begin(site.patiently());
            try (Connection admin = DriverManager.getConnection(site.database().url(""))) {
                for (int round = 0; round < times; round++) {
                    for (Proxy.Mode fault : List.of(Proxy.Mode.HANGS, Proxy.Mode.CUTS, Proxy.Mode.MUTE)) {
                        fault(proxy, ticks, fault, 200 + random.nextInt(SHORT));
                    }
                    readOnly(admin, proxy, ticks, 200 + random.nextInt(SHORT));
                }
            }
            fault(proxy, ticks, Proxy.Mode.SLOW, LONG_ENOUGH_FOR_A_LIMIT);
            fault(proxy, ticks, Proxy.Mode.HANGS, LONG_ENOUGH_FOR_A_LIMIT);
            long stop = site.stop();
            boolean good = account(ticks.lives()) && stop <= KillDrill.STOPPED_WITHIN_MILLIS;
            System.out.printf("stopped in %d ms (promised: %d)%n", stop, KillDrill.STOPPED_WITHIN_MILLIS);
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            return good;
        }
    }

    private static void fault(Proxy proxy, Ticks ticks, Proxy.Mode fault, int millis) throws Exception {
        proxy.mode(fault);
        Thread.sleep(millis);
        proxy.mode(Proxy.Mode.PASSES);
        said(ticks, fault.name().toLowerCase(java.util.Locale.ROOT), millis);
    }

    private static void said(Ticks ticks, String fault, int millis) throws InterruptedException {
        Instant mended = Instant.now();
        ticks.caughtUp();
        System.out.printf(
                "%s %-10s for %5d ms; rows of now landed %5d ms after it was over%n",
                Drill.time(),
                fault,
                millis,
                Duration.between(mended, Instant.now()).toMillis());
    }

    /** An administrator may write even then, so the right to is taken from everybody who signs in anew. */
    private static void readOnly(Connection admin, Proxy proxy, Ticks ticks, int millis) throws Exception {
        List<String> users = new ArrayList<>();
        try (Statement statement = admin.createStatement()) {
            try (var rows = statement.executeQuery(
                    "SELECT CONCAT('''', user, '''@''', host, '''') FROM mysql.global_priv WHERE user = 'root' AND host IN ('localhost', '127.0.0.1', '::1')")) {
                while (rows.next()) {
                    users.add(rows.getString(1));
                }
            }
            each(statement, "REVOKE READ ONLY ADMIN ON *.* FROM ", users);
            statement.execute("SET GLOBAL read_only = 1");
        }
        proxy.mode(Proxy.Mode.CUTS); // those who sign in from now on may not
        proxy.mode(Proxy.Mode.PASSES);
        Thread.sleep(millis);
        try (Statement statement = admin.createStatement()) {
            statement.execute("SET GLOBAL read_only = 0");
            each(statement, "GRANT READ ONLY ADMIN ON *.* TO ", users);
        }
        said(ticks, "read only", millis);
    }

    private static void each(Statement statement, String what, List<String> users) throws SQLException {
        for (String user : users) {
            statement.execute(what + user);
        }
    }

    private static boolean account(List<Life> lives) {
        boolean good = lives.size() == 1;
        for (Life life : lives) {
            System.out.printf(
                    "%n%d rows, %d doubled, %d missing, %d made late%n",
                    life.rows(), life.doubled(), life.missing(), life.skipped());
            good &= life.doubled() == 0 && life.missing() == 0;
        }
        return good;
    }
}
