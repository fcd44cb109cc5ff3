package dachshund.drill;

import dachshund.drill.Ticks.Life;
import dachshund.site.Person;
import dachshund.site.Site;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Random;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Disks that are really full, each a file system of its own in memory: the application's, up to the room that the journal leaves to
 * others and up to the last byte (journal, local store, counts, files), and the database's. Rows that could not be kept are
 * counted as refused, as many as are missing in the table; nothing is set aside, doubled, or forgotten. At last it is killed and
 * started on a full disk. Needs root.
 */
final class FullDrill implements Drill.Exercise {

    private static final int STARTED_FOR_SECONDS = 15;
    private static final Pattern ACCOUNT = Pattern.compile("id=\"account\".*?<tbody>(.*?)</tbody>", Pattern.DOTALL);
    private static final Pattern NUMBER = Pattern.compile("<td class=\"num mono\">([0-9,]+)</td>");

    /** As the page of a recorder shows it. */
    private record Account(List<Long> numbers) {

        long aside() {
            return numbers.get(3);
        }

        long refused() {
            return numbers.get(4);
        }

        long gone() {
            return numbers.get(5) + numbers.get(6) + numbers.get(7);
        }
    }

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int times = options.number("times", 2);
        Random random = new Random(options.number("seed", 1));
        if (!System.getProperty("user.name").equals("root")) {
            System.out.println("full: not done, since only root can make a small disk");
            return true;
        }
        System.out.printf("full: each disk %d times; a row each 20 ms, counted in its table%n", times);
        try (Disk ours = new Disk(900);
                Disk theirs = new Disk(500)) {
            Path database = Files.createDirectory(theirs.at.resolve("db"));
            try (Site site = new Site(new PrivateMariaDb(database), Files.createDirectory(ours.at.resolve("var")))) {
                return run(site, ours, theirs, times, random);
            }
        }
    }

    private static boolean run(Site site, Disk ours, Disk theirs, int times, Random random) throws Exception {
        Ticks ticks = new Ticks(site);
        site.start();
        Person engineer = site.patiently();
        String witness = Site.recorder(engineer, "Dryer log");
        ticks.begin(engineer);
        Account before = account(site.engineer(), witness);
        boolean good = true;
        for (int round = 0; round < times; round++) {
            good &= filled(site, ticks, ours, 300, "our disk, but for 300 MB", random);
            good &= filled(site, ticks, ours, 0, "our disk", random);
            good &= databasesFilled(site, engineer, ticks, theirs, random);
        }
        Thread.sleep(1000);
        Account after = account(site.engineer(), witness);
        long stopped = site.stop();
        long missing = 0;
        long doubled = 0;
        long rows = 0;
        List<Life> lives = ticks.lives();
        for (Life life : lives) {
            missing += life.missing();
            doubled += life.doubled();
            rows += life.rows();
        }
        long refused = after.refused() - before.refused();
        long aside = after.aside() - before.aside();
        System.out.printf(
                "%n%d rows in %d lives, %d doubled, %d missing; the page says: %d refused, %d set aside, %d discarded, damaged or lost; stopped in %d ms%n",
                rows, lives.size(), doubled, missing, refused, aside, after.gone(), stopped);
        good &= lives.size() == 1 && doubled == 0 && missing == refused && aside == 0 && after.gone() == 0;
        return startedOnAFullDisk(site, ticks, ours) && good;
    }

    /** It ends on a full disk and is started on it, by whoever starts what ended: it comes up with a sentence, or as soon as there is room. */
    private static boolean startedOnAFullDisk(Site site, Ticks ticks, Disk disk) throws Exception {
        site.start();
        ticks.caughtUp();
        disk.fill(0);
        site.kill();
        int starts = 0;
        for (int seconds = 0; seconds < STARTED_FOR_SECONDS; seconds++) {
            starts += startedIfEnded(site);
            Thread.sleep(1000);
        }
        boolean up = site.runs();
        disk.free();
        long from = System.nanoTime();
        boolean there = false;
        while (!there && System.nanoTime() - from < Ticks.DRAINED_WITHIN.toNanos()) {
            starts += startedIfEnded(site);
            try {
                ticks.caughtUp(Duration.ofSeconds(1));
                there = true;
            } catch (IllegalStateException notYet) {
                // it is looked at again
            }
        }
        long doubled = ticks.lives().stream().mapToLong(Life::doubled).sum();
        System.out.printf(
                "started %d times on a full disk, %s after %d s; rows of now were there %d ms after there was room; %d doubled%s%n",
                starts,
                up ? "at work" : "ended",
                STARTED_FOR_SECONDS,
                (System.nanoTime() - from) / 1_000_000,
                doubled,
                there && doubled == 0 ? "" : "  <<< NOT AS PROMISED");
        return there && doubled == 0;
    }

    private static int startedIfEnded(Site site) throws IOException {
        if (site.runs()) {
            return 0;
        }
        site.start();
        return 1;
    }

    private static boolean filled(Site site, Ticks ticks, Disk disk, int left, String what, Random random)
            throws Exception {
        int millis = 3000 + random.nextInt(7000);
        disk.fill(left);
        Thread.sleep(millis);
        String said = site.runs() ? "" : "  <<< THE APPLICATION IS GONE";
        disk.free();
        long from = System.nanoTime();
        ticks.caughtUp();
        System.out.printf(
                "%s full: %s, for %d ms; rows of now were there %d ms after%s%n",
                Drill.time(), what, millis, (System.nanoTime() - from) / 1_000_000, said);
        return said.isEmpty();
    }

    /** What the table has room for by itself is taken by rows of a transaction that is never committed. */
    private static boolean databasesFilled(Site site, Person engineer, Ticks ticks, Disk disk, Random random)
            throws Exception {
        int millis = 5000 + random.nextInt(7000);
        boolean held;
        try (Connection admin = DriverManager.getConnection(site.database().url("quillmoor_records"));
                Statement statement = admin.createStatement()) {
            admin.setAutoCommit(false);
            disk.fill(0);
            for (int rows = 1000; rows > 0; rows /= 10) {
                takeRoom(statement, rows);
            }
            Thread.sleep(millis);
            held = engineer.get("/watch/held").body().contains("Dryer log");
            disk.free();
            giveRoom(site, admin);
        }
        long from = System.nanoTime();
        ticks.caughtUp();
        System.out.printf(
                "%s full: the database's disk, for %d ms; its rows were %s; rows of now were there %d ms after%n",
                Drill.time(),
                millis,
                held ? "held" : "not held  <<< NOT AS PROMISED",
                (System.nanoTime() - from) / 1_000_000);
        return held;
    }

    /** A server that has ended of its full disk is started again, as whoever keeps it would. */
    private static void giveRoom(Site site, Connection admin) {
        try {
            admin.rollback();
        } catch (SQLException gone) {
            if (!site.database().runs()) {
                System.out.printf("%s the database's server has ended of it and is started again%n", Drill.time());
                site.database().start();
            }
        }
    }

    private static void takeRoom(Statement statement, int rows) {
        try {
            while (true) {
                statement.execute(
                        "INSERT INTO dryer_log (row_id, record_time) SELECT LPAD(UUID(), 40, 'z'), '2000-01-01' FROM seq_1_to_"
                                + rows);
            }
        } catch (SQLException full) {
            // as wanted
        }
    }

    private static Account account(Person engineer, String recorder) throws IOException, InterruptedException {
        Matcher table = ACCOUNT.matcher(engineer.get("/watch/" + recorder).body());
        if (!table.find()) {
            throw new IllegalStateException("The page of the recorder shows no account.");
        }
        return new Account(NUMBER.matcher(table.group(1))
                .results()
                .map(number -> Long.parseLong(number.group(1).replace(",", "")))
                .collect(Collectors.toList()));
    }

    /** A small file system in memory. */
    private static final class Disk implements AutoCloseable {

        private final Path at = PrivateProcess.folder("dachshund-disk");

        private Disk(int megabytes) throws IOException, InterruptedException {
            command("mount", "-t", "tmpfs", "-o", "size=" + megabytes + "m", "none", at.toString());
        }

        private static void command(String... words) throws IOException, InterruptedException {
            if (new ProcessBuilder(words).inheritIO().start().waitFor() != 0) {
                throw new IOException(String.join(" ", words) + " failed.");
            }
        }

        /** Takes what is free, but for so many megabytes; where none are left, to the last byte, and what is freed meanwhile, too. */
        private void fill(int left) throws IOException {
            byte[] piece = new byte[1 << 20];
            try (OutputStream out = Files.newOutputStream(at.resolve("filler"))) {
                while (left == 0 || (at.toFile().getUsableSpace() >> 20) > left) {
                    out.write(piece);
                }
            } catch (IOException full) {
                byte[] few = new byte[1];
                try (OutputStream out = Files.newOutputStream(at.resolve("filler-2"))) {
                    while (true) {
                        out.write(few);
                    }
                } catch (IOException toTheLast) {
                    // as wanted
                }
            }
        }

        private void free() throws IOException {
            Files.deleteIfExists(at.resolve("filler"));
            Files.deleteIfExists(at.resolve("filler-2"));
        }

        @Override
        public void close() throws IOException, InterruptedException {
            command("umount", "-l", at.toString());
            Files.deleteIfExists(at);
        }
    }
}
