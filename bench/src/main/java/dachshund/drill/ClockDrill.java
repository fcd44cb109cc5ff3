package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Site;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Stream;

/**
 * The clock of the machine is set forward and back, by seconds, an hour and a day, while a row is written each 20 ms: the
 * application sees such a clock by way of libfaketime, and the monotonic one as it is. Rows go on at their pace after each step,
 * and none is missing or doubled by their running numbers.
 */
final class ClockDrill implements Drill.Exercise {

    private static final List<Duration> STEPS = List.of(
            Duration.ofHours(1),
            Duration.ofHours(-1),
            Duration.ofSeconds(3),
            Duration.ofSeconds(-3),
            Duration.ofDays(1),
            Duration.ofDays(-2),
            Duration.ofMillis(400),
            Duration.ofMillis(-400));
    /** As many as six seconds have. */
    private static final long ROWS = Duration.ofSeconds(6).dividedBy(Ticks.PERIOD);

    /** Where other things keep both cores busy, ticks are skipped; whoever waits for the clock of before writes nothing at all. */
    private static final Duration COME_WITHIN = Duration.ofSeconds(30);

    /** What libfaketime keeps of the offset before it looks again. */
    private static final Duration SEEN_WITHIN = Duration.ofSeconds(2);

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 1);
        Random random = new Random(options.number("seed", 1));
        System.out.printf("clock: each step %d times; a row each 20 ms, counted in its table%n", times);
        Path folder = Files.createTempDirectory("dachshund-clock");
        Path offset = folder.resolve("offset");
        set(offset, Duration.ZERO);
        try (Site site = new Site()) {
            site.environment(Map.of(
                    "LD_PRELOAD",
                    library().toString(),
                    "FAKETIME_TIMESTAMP_FILE",
                    offset.toString(),
                    "FAKETIME_CACHE_DURATION",
                    "1",
                    "FAKETIME_DONT_FAKE_MONOTONIC",
                    "1",
                    "FAKETIME_FORCE_MONOTONIC_FIX",
                    "0"));
            Ticks ticks = new Ticks(site);
            site.start();
            ticks.begin(site.patiently());
            ticks.countAll();
            boolean good = true;
            Duration at = Duration.ZERO;
            for (int round = 0; round < times; round++) {
                for (Duration step : STEPS) {
                    Thread.sleep(random.nextInt(1000));
                    at = at.plus(step);
                    set(offset, at);
                    Thread.sleep(SEEN_WITHIN.toMillis());
                    good &= goesOn(ticks, step, at);
                }
            }
            long stop = site.stop();
            List<Life> lives = ticks.lives();
            for (Life life : lives) {
                System.out.printf(
                        "%n%d rows, %d doubled, %d missing; stopped in %d ms (promised: %d)%n",
                        life.rows(), life.doubled(), life.missing(), stop, KillDrill.STOPPED_WITHIN_MILLIS);
                good &= life.doubled() == 0 && life.missing() == 0;
            }
            good &= lives.size() == 1 && stop <= KillDrill.STOPPED_WITHIN_MILLIS;
            if (!good) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            return good;
        }
    }

    private static boolean goesOn(Ticks ticks, Duration step, Duration at) throws Exception {
        long before = ticks.since(Instant.EPOCH);
        long from = System.nanoTime();
        long rows = 0;
        while (rows < ROWS && System.nanoTime() - from < COME_WITHIN.toNanos()) {
            Thread.sleep(100);
            rows = ticks.since(Instant.EPOCH) - before;
        }
        System.out.printf(
                "%s clock set by %d ms (now %d s off); %d rows in the %.1f s after%s%n",
                Drill.time(),
                step.toMillis(),
                at.toSeconds(),
                rows,
                (System.nanoTime() - from) / 1e9,
                rows >= ROWS ? "" : "  <<< NOT AS PROMISED");
        return rows >= ROWS;
    }

    /** In one step, so that nobody reads half of it. */
    private static void set(Path file, Duration offset) throws IOException {
        Path next = Files.writeString(
                file.resolveSibling("next"), String.format(java.util.Locale.ROOT, "%+.3f%n", offset.toMillis() / 1e3));
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE);
    }

    private static Path library() throws IOException {
        try (Stream<Path> all = Files.walk(Path.of("/usr/lib"), 3)) {
            return all.filter(path -> path.endsWith("faketime/libfaketime.so.1"))
                    .findFirst()
                    .orElseThrow(
                            () -> new IOException("libfaketime is not there; it is in Debian's package faketime."));
        }
    }
}
