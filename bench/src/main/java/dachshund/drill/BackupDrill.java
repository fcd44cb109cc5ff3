package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Site;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.util.List;

/**
 * A backup is made while a row is written each 20 ms; the machine dies some seconds later; the backup is brought back onto an
 * empty one, which goes on. No row may be there twice; of the rows that the first machine made, none may be missing but those
 * that were on its disk alone; the second machine's are all there.
 */
final class BackupDrill implements Drill.Exercise {

    private static final long GOES_ON_MILLIS = 4000;

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 1);
        System.out.printf("backup: made while a row is written each 20 ms, brought back %d times%n", times);
        Path folder = Files.createTempDirectory("dachshund-backup");
        try (Site site = new Site()) {
            Ticks ticks = new Ticks(site);
            site.start();
            ticks.begin(site.patiently());
            for (int round = 0; round < times; round++) {
                Path file = folder.resolve("backup-" + round);
                System.out.printf("%s backup%n%s", Drill.time(), site.command("backup", file));
                System.out.printf("%s check%n%s", Drill.time(), site.command("check", file));
                Thread.sleep(GOES_ON_MILLIS);
                site.kill();
                drop(site);
                site.moveToAnotherMachine();
                System.out.printf("%s restore%n%s", Drill.time(), site.command("restore", file));
                Files.delete(file);
                site.start();
                ticks.caughtUp();
                Thread.sleep(GOES_ON_MILLIS);
            }
            site.stop();
            boolean good = account(ticks.lives(), times + 1);
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            return good;
        } finally {
            Files.delete(folder);
        }
    }

    /** The first machine's own database is gone with it; where the rows are stays. */
    private static void drop(Site site) throws Exception {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("DROP DATABASE dachshund");
        }
    }

    private static boolean account(List<Life> lives, int machines) {
        boolean good = lives.size() == machines;
        for (Life life : lives) {
            long missing = life.missing() + (life.equals(lives.get(0)) ? 0 : life.lowest() - 1);
            System.out.printf(
                    "machine %d: %d rows, %d doubled, %d missing between its first and its last, %d made late%n",
                    lives.indexOf(life) + 1, life.rows(), life.doubled(), missing, life.skipped());
            good &= life.doubled() == 0 && missing == 0;
        }
        return good;
    }
}
