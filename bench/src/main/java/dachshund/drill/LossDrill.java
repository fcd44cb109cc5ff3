package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Site;
import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;

/**
 * What is kept beside the rows is lost or replaced: the local store, the journal, both by an older copy; and a second
 * installation is started by mistake on the same configuration. A row each 20 ms is counted in its table: none may be there
 * twice, none may be missing within a life, and what went with a lost journal is told.
 */
final class LossDrill implements Drill.Exercise {

    private static final long GOES_ON_MILLIS = 4000;
    /** Rows on their way when the journal went: the unforced ones, and what the database had not taken yet. */
    private static final long ON_THE_WAY_MILLIS = 1000;

    private static final List<String> LOCAL_STORE = List.of("local.db", "local.db-wal", "local.db-shm");
    private static final String JOURNAL = "journal";
    private static final List<String> ALL =
            Stream.concat(LOCAL_STORE.stream(), Stream.of(JOURNAL, "offered")).toList();

    private final List<Instant> ends = new ArrayList<>();

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 1);
        System.out.printf("losses: each %d times; a row each 20 ms, counted in its table%n", times);
        Path copy = Files.createTempDirectory("dachshund-copy");
        try (Site site = new Site()) {
            Ticks ticks = new Ticks(site);
            site.start();
            ticks.begin(site.patiently());
            for (int round = 0; round < times; round++) {
                killed(site, "the local store is lost");
                remove(site.folder(), LOCAL_STORE);
                goesOn(site, ticks);
                killed(site, "the journal is lost");
                remove(site.folder(), List.of(JOURNAL));
                goesOn(site, ticks);
                killed(site, "a copy is taken");
                remove(copy, ALL);
                copy(site.folder(), copy);
                goesOn(site, ticks);
                killed(site, "the copy comes back");
                remove(site.folder(), ALL);
                copy(copy, site.folder());
                goesOn(site, ticks);
                System.out.printf("%s a second installation is started on the same configuration%n", Drill.time());
                Instant from = Instant.now();
                try (Site.Second second = site.second()) {
                    second.patiently(() -> ticks.installationsSince(from) > 1);
                    Thread.sleep(GOES_ON_MILLIS);
                }
                ticks.caughtUp();
            }
            Thread.sleep(GOES_ON_MILLIS);
            site.stop();
            boolean good = account(ticks.lives(), times);
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            return good;
        } finally {
            PrivateProcess.remove(copy);
        }
    }

    private void killed(Site site, String why) throws InterruptedException {
        Thread.sleep(GOES_ON_MILLIS);
        System.out.printf("%s killed, and %s%n", Drill.time(), why);
        ends.add(Instant.now());
        site.kill();
    }

    private static void goesOn(Site site, Ticks ticks) throws IOException, InterruptedException {
        site.start();
        ticks.caughtUp();
    }

    private static void remove(Path folder, List<String> parts) {
        parts.stream().map(folder::resolve).filter(Files::exists).forEach(PrivateProcess::remove);
    }

    private static void copy(Path from, Path to) throws IOException {
        for (String part : ALL) {
            if (!Files.exists(from.resolve(part))) {
                continue;
            }
            try (Stream<Path> all = Files.walk(from.resolve(part))) {
                for (Path each : all.toList()) {
                    Files.copy(each, to.resolve(from.relativize(each).toString()));
                }
            }
        }
    }

    private boolean account(List<Life> lives, int times) {
        boolean good = true;
        int installations =
                (int) lives.stream().map(Life::installation).distinct().count();
        for (Life life : lives) {
            long lost = ends.stream()
                    .filter(end -> !end.isBefore(life.first()))
                    .findFirst()
                    .map(end -> Duration.between(life.last(), end).toMillis() - Ticks.PERIOD.toMillis())
                    .orElse(0L);
            boolean fine = life.doubled() == 0 && life.missing() == 0 && lost <= ON_THE_WAY_MILLIS;
            System.out.printf(
                    "%s %x: %d rows, %d doubled, %d missing, %d made late, %d ms before its end not there%s%n",
                    life.installation(),
                    life.epoch(),
                    life.rows(),
                    life.doubled(),
                    life.missing(),
                    life.skipped(),
                    Math.max(0, lost),
                    fine ? "" : "  <<< NOT AS PROMISED");
            good &= fine;
        }
        int promised = 1 + 2 * times; // each lost local store and each second installation is a new name
        System.out.printf("%d installations, %d lives%n", installations, lives.size());
        return good && installations == promised && lives.size() == 1 + 5 * times;
    }
}
