package dachshund.bench;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.site.Person;
import dachshund.site.Site;
import dachshund.standins.business.Business;
import dachshund.standins.plant.PlantPast;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.atomic.AtomicLong;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A trend of 20 curves over the demo's 7 days, 16 tags and 4 columns of a table, as its page asks for them, in one answer over
 * HTTP in 1,500 points: the whole way from the request to the last byte, and the CPU of the application, against a bare client that
 * reads what such curves need: of each tag the blocks of its span or their summaries, of the table the two columns, every byte
 * taken, none decoded. Then what 20 people cost who have the trend before them live, by the CPU of the application beside itself alone.
 */
final class TrendBench implements Bench.Benchmark {

    private static final int TAGS = 16;
    private static final List<String> COLUMNS = List.of("moisture_pct", "durability_pct", "fines_pct", "ash_pct");
    private static final int POINTS = 1500;
    private static final int ROUNDS = 15;
    /** A program that has run for some minutes. */
    private static final int WARM_UP = 200;

    private static final int PEOPLE = 20;
    private static final int SECONDS = 60;
    private static final int SETTLE_SECONDS = 10;
    private static final int SETTLE_ROUNDS = 36;
    /** Of a core; the demo's recorders alone take a fifth. */
    private static final double SETTLED_SHARE = 0.3;
    /** Of Linux on all processors that Debian knows today; common practice, no source. */
    private static final double TICKS_A_SECOND = 100;

    private static final Pattern PICK = Pattern.compile("data-key=\"([^\"]+)\"[^>]*data-unit=\"([^\"]+)\"");
    private static final Pattern SEEN = Pattern.compile("name=\"seen\" value=\"(\\d+)\"");
    private static final Pattern LABORATORY = Pattern.compile("<option value=\"([0-9a-f]{8})\"[^>]*>Laboratory<");

    private Site site;
    private Person engineer;
    private String trend;
    private final List<Long> keys = new ArrayList<>();

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        try (Site open = new Site()) {
            site = open;
            past();
            site.start();
            engineer = site.patiently();
            make();
            settle();
            Instant end = Instant.now();
            Instant begin = end.minus(Duration.ofDays(7));
            double[] ours = new double[ROUNDS];
            double[] bare = new double[ROUNDS];
            double[] cpu = new double[ROUNDS];
            long[] bytes = new long[2];
            try (Connection connection =
                    DriverManager.getConnection(site.database().url(ownDatabase()))) {
                for (int round = -WARM_UP; round < ROUNDS; round++) {
                    double cpuBefore = cpuSeconds();
                    long from = System.nanoTime();
                    bytes[0] = ask(begin, end);
                    double took = (System.nanoTime() - from) / 1e6;
                    double cpuTook = 1000 * (cpuSeconds() - cpuBefore);
                    from = System.nanoTime();
                    bytes[1] = read(connection, begin, end);
                    double plain = (System.nanoTime() - from) / 1e6;
                    if (round >= 0) {
                        ours[round] = took;
                        cpu[round] = cpuTook;
                        bare[round] = plain;
                    }
                }
            }
            double alone = cpuShare(0);
            double together = cpuShare(PEOPLE);
            double person = (together - alone) / PEOPLE;
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT,
                    "trend: %d curves over 7 days (%d tags, %d columns of a table) in %d points, %d rounds%nours, over HTTP %.0f ms (%.1f MB of points; CPU of the application meanwhile, recording with it, %.0f ms), bare reads %.0f ms (%.1f MB), ratio of time %.2f%n%d people live: %.1f %% of a core alone, %.1f %% with them, %.2f %% a person%nsteal %.1f %%%s%n",
                    TAGS + COLUMNS.size(),
                    TAGS,
                    COLUMNS.size(),
                    POINTS,
                    ROUNDS,
                    Machine.median(ours),
                    bytes[0] / 1e6,
                    Machine.median(cpu),
                    Machine.median(bare),
                    bytes[1] / 1e6,
                    Machine.median(ours) / Machine.median(bare),
                    PEOPLE,
                    alone,
                    together,
                    person,
                    steal,
                    steal > 5 ? ": VOID, above 5 %" : "");
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"trend\",\"ratio\":%.2f,\"ours_ms\":%.1f,\"cpu_ms\":%.1f,\"bare_ms\":%.1f,\"alone_percent\":%.2f,\"with_people_percent\":%.2f,\"person_percent\":%.3f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    Machine.median(ours) / Machine.median(bare),
                    Machine.median(ours),
                    Machine.median(cpu),
                    Machine.median(bare),
                    alone,
                    together,
                    person,
                    steal,
                    steal > 5);
        }
    }

    /** What the plant did in the week before, and what laboratory and orders have of it. */
    private void past() throws Exception {
        Path file = site.folder().resolve("plant-past.csv");
        PlantPast.Past past = PlantPast.write(7, Instant.now(), Duration.ofDays(7), file);
        site.environment(Map.of("DACHSHUND_DEMO_HISTORY", file.toString()));
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE IF NOT EXISTS quillmoor_lab");
            statement.execute("CREATE DATABASE IF NOT EXISTS quillmoor_orders");
            statement.execute(
                    "CREATE USER IF NOT EXISTS quillmoor_reader@'127.0.0.1' IDENTIFIED BY 'quillmoor-reader-demo'");
            statement.execute("GRANT SELECT ON quillmoor_lab.* TO quillmoor_reader@'127.0.0.1'");
            statement.execute("GRANT SELECT ON quillmoor_orders.* TO quillmoor_reader@'127.0.0.1'");
        }
        Business business = new Business("127.0.0.1:" + site.database().port(), "root", "");
        business.take(past.ended());
        business.work(Instant.now());
    }

    private String ownDatabase() throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "SELECT table_schema FROM information_schema.tables WHERE table_name = 'archive_block'")) {
            rows.next();
            return rows.getString(1);
        }
    }

    private void make() throws IOException, InterruptedException {
        HttpResponse<String> made = engineer.post("/review/trends/new", "window", "last 7 days");
        String location = made.headers().firstValue("Location").orElseThrow();
        trend = location.substring(location.lastIndexOf('/') + 1);
        List<String> picks = new ArrayList<>();
        for (String words : List.of("drying", "pl1", "pl2", "pl3", "hm1", "hm2", "cooler", "pellet works")) {
            Matcher pick = PICK.matcher(
                    engineer.get("/plant/pick?q=" + words.replace(" ", "+")).body());
            while (pick.find() && picks.size() < TAGS) {
                if (!picks.contains(pick.group(1))) {
                    picks.add(pick.group(1));
                }
            }
        }
        for (String key : picks) {
            engineer.post("/review/trends/" + trend + "/tag", "seen", seen(), "key", key);
            keys.add(TagKey.of(new TagRef(key.substring(0, key.indexOf(' ')), key.substring(key.indexOf(' ') + 1))));
        }
        String laboratory = Person.found(LABORATORY, page());
        for (String column : COLUMNS) {
            engineer.post(
                    "/review/trends/" + trend + "/table",
                    "seen",
                    seen(),
                    "database",
                    laboratory,
                    "table",
                    "quillmoor_lab\nsample",
                    "time",
                    "taken",
                    "value",
                    column);
        }
        if (keys.size() != TAGS) {
            throw new IllegalStateException("Only " + keys.size() + " tags were found.");
        }
    }

    private String page() throws IOException, InterruptedException {
        return engineer.get("/review/trends/" + trend).body();
    }

    private String seen() throws IOException, InterruptedException {
        return Person.found(SEEN, page());
    }

    private long ask(Instant begin, Instant end) throws IOException, InterruptedException {
        HttpResponse<String> answer = engineer.get("/review/trends/" + trend + "/drawn?begin=" + begin.toEpochMilli()
                + "&end=" + end.toEpochMilli() + "&only=curves&points=" + POINTS);
        long drawn = answer.body()
                .lines()
                .filter(line -> line.endsWith("\"problem\":\"\"}"))
                .count();
        if (answer.statusCode() != 200 || drawn != TAGS + COLUMNS.size()) {
            throw new IllegalStateException(drawn + " curves were drawn, status " + answer.statusCode());
        }
        return answer.body().length();
    }

    /** What they need, of both databases. */
    private long read(Connection connection, Instant begin, Instant end) throws SQLException {
        long first = ArchiveStore.spanOf(OpcUaTime.toTicks(begin));
        long last = ArchiveStore.spanOf(OpcUaTime.toTicks(end));
        long bytes = 0;
        try (PreparedStatement blocks = connection.prepareStatement(
                "SELECT span, first_time, last_time, COALESCE(minutes, data) FROM archive_block WHERE tag = ? AND span BETWEEN ? AND ?")) {
            for (long key : keys) {
                blocks.setLong(1, key);
                blocks.setLong(2, first - 1);
                blocks.setLong(3, last);
                try (ResultSet rows = blocks.executeQuery()) {
                    while (rows.next()) {
                        bytes += rows.getBytes(4).length;
                    }
                }
            }
        }
        for (String column : COLUMNS) {
            try (PreparedStatement samples = connection.prepareStatement(
                    "SELECT taken, " + column + " FROM quillmoor_lab.sample WHERE taken >= ? AND taken < ?")) {
                samples.setObject(1, LocalDateTime.ofInstant(begin, ZoneOffset.UTC));
                samples.setObject(2, LocalDateTime.ofInstant(end, ZoneOffset.UTC));
                try (ResultSet rows = samples.executeQuery()) {
                    while (rows.next()) {
                        bytes += rows.getString(1).length() + rows.getString(2).length();
                    }
                }
            }
        }
        return bytes;
    }

    /** The history that was brought in is put together first, as on any day but the first. */
    private void settle() throws Exception {
        for (int i = 0; i < SETTLE_ROUNDS; i++) {
            double before = cpuSeconds();
            Thread.sleep(1000L * SETTLE_SECONDS);
            if (cpuSeconds() - before < SETTLED_SHARE * SETTLE_SECONDS) {
                return;
            }
        }
        System.out.println("The application did not come to rest; the numbers have its other work in them.");
    }

    /** CPU that the application took so far, of all its threads. */
    private double cpuSeconds() throws IOException {
        String stat = Files.readString(Path.of("/proc", Long.toString(site.pid()), "stat"));
        String[] fields = stat.substring(stat.lastIndexOf(')') + 2).split(" ");
        return (Long.parseLong(fields[11]) + Long.parseLong(fields[12])) / TICKS_A_SECOND;
    }

    /** Percent of a core, over a minute with so many people who have the trend before them live. */
    private double cpuShare(int people) throws Exception {
        AtomicLong failed = new AtomicLong();
        Person[] all = new Person[people];
        for (int i = 0; i < people; i++) {
            all[i] = new Person(site.address()).signIn("engineer", "engineer-demo");
        }
        long until = System.nanoTime() + (SECONDS + 2) * 1_000_000_000L;
        List<Thread> threads = new ArrayList<>();
        for (Person person : all) {
            Thread thread = new Thread(() -> live(person, failed, until));
            thread.start();
            threads.add(thread);
        }
        Thread.sleep(1000);
        double before = cpuSeconds();
        Thread.sleep(SECONDS * 1000L);
        double share = 100 * (cpuSeconds() - before) / SECONDS;
        for (Thread thread : threads) {
            thread.join();
        }
        if (failed.get() > 0) {
            System.out.println(failed.get() + " requests failed.");
        }
        return share;
    }

    private void live(Person person, AtomicLong failed, long until) {
        while (System.nanoTime() < until) {
            try {
                if (person.get("/review/trends/" + trend + "/now").statusCode() != 200) {
                    failed.incrementAndGet();
                }
                Thread.sleep(1000);
            } catch (IOException cannot) {
                failed.incrementAndGet();
            } catch (InterruptedException stopped) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }
}
