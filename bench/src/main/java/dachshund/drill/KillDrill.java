package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Person;
import dachshund.site.Site;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Random;

/**
 * kill -9 of the application, of the database, of both and of these with all that the plant has, and stops that are asked for, while a row is written each 20 ms: at
 * any moment of recording, of starting and of a changeover. What the plant counts meanwhile is the second witness. No row may be there twice, none may be missing but what was not on
 * disk yet when the application died.
 */
final class KillDrill implements Drill.Exercise {

    /** Rows are forced to disk so often; what is younger may be lost with the process. */
    private static final int FORCED_EVERY_MILLIS = 100;
    /** What a force itself may take on a busy machine. */
    private static final int FORCE_MILLIS = 100;

    /** The archive stores once a minute. */
    private static final Duration STORED_WITHIN = Duration.ofMinutes(5);

    /** Changes of the plant that are heard before some of the ends, so that there is something to be compared. */
    private static final int LISTENED_TO = 5;

    static final long STOPPED_WITHIN_MILLIS = 10_000;

    private enum Victim {
        APPLICATION,
        DATABASE,
        BOTH,
        /** Both of them, and the servers and the broker of the plant. */
        EVERYTHING,
        /** The application is asked to stop, also while it starts. */
        STOPPED
    }

    /**
     * The end of the application.
     *
     * @param at   when it was killed or asked to stop
     * @param over when the process was gone: until then it may have made rows
     */
    private record End(Instant at, Instant over, String when) {}

    private final List<End> ends = new ArrayList<>();
    private Random random;
    private long longestStop;

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 20);
        random = new Random(options.number("seed", 1));
        try (Site site = new Site()) {
            try {
                return run(site, times);
            } catch (Exception | Error failed) {
                left(site);
                throw failed;
            }
        }
    }

    private boolean run(Site site, int times) throws Exception {
        System.out.printf("kill: %d times each; a row each 20 ms, counted in its table%n", times);
        Ticks ticks = new Ticks(site);
        site.start();
        Person engineer = site.patiently();
        ticks.begin(engineer);
        try (PlantCount counted = new PlantCount(site)) {
            counted.begin(engineer);
            return run(site, times, ticks, counted);
        }
    }

    private boolean run(Site site, int times, Ticks ticks, PlantCount counted) throws Exception {
        for (int round = 0; round < times; round++) {
            for (Victim victim : Victim.values()) {
                if (victim == Victim.APPLICATION || victim == Victim.EVERYTHING) {
                    counted.heard(LISTENED_TO, Ticks.DRAINED_WITHIN);
                }
                round(site, ticks, victim);
            }
        }
        ticks.caughtUp();
        counted.stored(STORED_WITHIN);
        stopped(site, "stopped after all");
        boolean adds = account(ticks.lives());
        boolean countAdds = counted.account(ticks.lives());
        boolean archived = counted.archived();
        boolean good = adds && countAdds && archived && longestStop <= STOPPED_WITHIN_MILLIS;
        System.out.printf("the longest of its stops took %d ms (promised: %d)%n", longestStop, STOPPED_WITHIN_MILLIS);
        if (!good) {
            left(site);
        }
        return good;
    }

    private void stopped(Site site, String when) throws InterruptedException {
        Instant at = Instant.now();
        long millis = site.stop();
        ends.add(new End(at, Instant.now(), when));
        longestStop = Math.max(longestStop, millis);
        System.out.printf("%s %s, which took %d ms%n", Drill.time(), when, millis);
    }

    private static void left(Site site) {
        site.keep();
        System.out.println("What it left is in " + site.folder() + ".");
    }

    private void round(Site site, Ticks ticks, Victim victim) throws Exception {
        if (victim == Victim.DATABASE) {
            Thread.sleep(random.nextInt(2000));
            site.database().kill();
            System.out.printf("%s the database is killed%n", Drill.time());
            Thread.sleep(random.nextInt(4000));
            site.database().start();
            ticks.caughtUp();
            return;
        }
        if (victim == Victim.STOPPED) {
            int after = random.nextInt(6000);
            stopped(site, "stopped");
            site.start();
            Thread.sleep(after);
            stopped(site, "stopped " + after + " ms after its start");
            site.start();
            ticks.caughtUp();
            return;
        }
        String when = moment(site);
        boolean database = victim != Victim.APPLICATION;
        if (database && random.nextBoolean()) {
            site.database().kill();
        }
        Instant at = Instant.now();
        site.kill();
        ends.add(new End(at, Instant.now(), when));
        if (database) {
            site.database().kill();
        }
        if (victim == Victim.EVERYTHING) {
            site.endPlant();
        }
        System.out.printf(
                "%s %s killed %s%n",
                Drill.time(),
                victim == Victim.EVERYTHING ? "everything is" : database ? "both are" : "the application is",
                when);
        boolean first = random.nextBoolean();
        if (database && first) {
            site.database().start();
        }
        site.start();
        if (database && !first) {
            Thread.sleep(random.nextInt(5000));
            site.database().start();
        }
        if (victim == Victim.EVERYTHING) {
            Thread.sleep(random.nextInt(5000));
            site.beginPlant();
        }
        if (random.nextInt(4) == 0) {
            // And once more while it starts.
            Thread.sleep(random.nextInt(8000));
            at = Instant.now();
            site.kill();
            ends.add(new End(at, Instant.now(), "while it started"));
            System.out.printf("%s the application is killed while it starts%n", Drill.time());
            site.start();
        }
        ticks.caughtUp();
    }

    /** Lets some time pass, or begins a changeover. @return when that is, in words */
    private String moment(Site site) throws InterruptedException {
        if (random.nextInt(3) == 0) {
            try {
                Person engineer = site.patiently();
                Site.draftPeriod(
                        engineer, Site.recorder(engineer, "Mill vibration"), 500 + random.nextInt(2000) + " ms");
                Thread release = new Thread(() -> {
                    try {
                        Site.release(engineer);
                    } catch (IOException | IllegalStateException died) {
                        // as it should
                    } catch (InterruptedException e) {
                        Thread.currentThread().interrupt();
                    }
                });
                release.start();
                Thread.sleep(random.nextInt(400));
                return "at a changeover";
            } catch (IOException cannot) {
                return "while recording (no changeover: " + cannot.getMessage() + ")";
            }
        }
        Thread.sleep(random.nextInt(3000));
        return "while recording";
    }

    private boolean account(List<Life> lives) {
        boolean good = true;
        long rows = 0;
        long mostLost = 0;
        System.out.printf(
                "%n%-14s %9s %9s %9s %9s %12s  %s%n", "life", "rows", "doubled", "missing", "late", "lost ms", "ended");
        int end = 0;
        for (Life life : lives) {
            while (end < ends.size() && ends.get(end).over().isBefore(life.first())) {
                System.out.printf(
                        "%-14s %9d %58s%n",
                        "-", 0, "killed before it recorded, " + ends.get(end).when());
                end++;
            }
            if (end == ends.size()) {
                System.out.println("A life has rows of after its end: " + life);
                return false;
            }
            End its = ends.get(end++);
            long lost = Math.max(0, Duration.between(life.last(), its.at()).toMillis() - Ticks.PERIOD.toMillis());
            // Of the first life, only the rows of after its witness began to tick are counted.
            long missing = life.missing() + (its.equals(ends.get(0)) ? 0 : life.lowest() - 1);
            boolean fine = life.doubled() == 0
                    && missing == 0
                    && lost <= FORCED_EVERY_MILLIS + FORCE_MILLIS; // a stop that is asked for loses none at all
            System.out.printf(
                    "%-14x %9d %9d %9d %9d %12s  %s%s%n",
                    life.epoch(),
                    life.rows(),
                    life.doubled(),
                    missing,
                    life.skipped(),
                    lost,
                    its.when(),
                    fine ? "" : "  <<< NOT AS PROMISED");
            good &= fine;
            rows += life.rows();
            mostLost = Math.max(mostLost, lost);
        }
        System.out.printf(
                Locale.ROOT,
                "%n%,d rows in %d lives; at most %d ms were lost with a process (rows are forced each %d ms)%n",
                rows,
                lives.size(),
                mostLost,
                FORCED_EVERY_MILLIS);
        return good;
    }
}
