package dachshund.bench;

import dachshund.site.Person;
import dachshund.site.Site;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.io.IOException;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicLong;

/**
 * What people on the pages cost a recorder of 100 ms: the application as it is started, with the demo plant, alone and with 50
 * people on its pages, who look at a page for a while, with what a page asks for by itself, and go on to the next. Ticks that
 * are missing are counted in the table, by a client of its own.
 */
final class PeopleBench implements Bench.Benchmark {

    private static final int PEOPLE = Integer.getInteger("bench.people", 50);
    private static final int SECONDS = 60;
    private static final int SETTLE_SECONDS = 5;
    private static final int TICKS_A_SECOND = 10;
    private static final int POLLS = 5;

    private record Share(double missedPercent, double requestsPerSecond, double medianMillis, double p95Millis) {}

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        try (Site site = new Site()) {
            PrivateMariaDb database = site.database();
            String address = site.address();
            site.start();
            Person engineer = site.patiently();
            String id = Site.recorder(engineer, "Dryer log");
            Site.draftPeriod(engineer, id, "100 ms");
            Site.release(engineer);
            Thread.sleep(SETTLE_SECONDS * 1000L);
            System.out.printf(
                    "people: a recorder of 100 ms in the demo plant, %d s alone and %d s with %d people%n",
                    SECONDS, SECONDS, PEOPLE);
            Share alone = share(database, address, id, 0);
            Share together = share(database, address, id, PEOPLE);
            double steal = machine.stealPercent();
            System.out.printf(
                    Locale.ROOT, "%-12s %12s %12s %10s %10s%n", "", "missed %", "requests/s", "median ms", "p95 ms");
            for (int people : new int[] {0, PEOPLE}) {
                Share share = people == 0 ? alone : together;
                System.out.printf(
                        Locale.ROOT,
                        "%-12s %12.2f %12.1f %10.1f %10.1f%n",
                        people == 0 ? "alone" : people + " people",
                        share.missedPercent(),
                        share.requestsPerSecond(),
                        share.medianMillis(),
                        share.p95Millis());
            }
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"people\",\"people\":%d,\"alone_missed_percent\":%.3f,\"missed_percent\":%.3f,\"requests_per_s\":%.1f,\"p95_ms\":%.1f,\"steal_percent\":%.1f,\"void\":%b}%n",
                    PEOPLE,
                    alone.missedPercent(),
                    together.missedPercent(),
                    together.requestsPerSecond(),
                    together.p95Millis(),
                    steal,
                    steal > 5);
        }
    }

    private static Share share(PrivateMariaDb database, String address, String id, int people) throws Exception {
        List<String> pages =
                List.of("/plant", "/records", "/records/" + id, "/review", "/deliver", "/watch", "/release");
        ConcurrentLinkedQueue<Long> nanos = new ConcurrentLinkedQueue<>();
        AtomicLong failed = new AtomicLong();
        Person[] all = new Person[people];
        for (int i = 0; i < people; i++) {
            all[i] = new Person(address).signIn("viewer", "viewer-demo");
        }
        long until = System.nanoTime() + SECONDS * 1_000_000_000L;
        Thread[] threads = new Thread[people];
        for (int i = 0; i < people; i++) {
            Person person = all[i];
            int first = i;
            threads[i] = new Thread(() -> {
                for (int page = first; System.nanoTime() < until; page++) {
                    look(person, pages.get(page % pages.size()), id, nanos, failed, until);
                }
            });
            threads[i].start();
        }
        String from = now(database);
        Thread.sleep(SECONDS * 1000L);
        String to = now(database);
        for (Thread thread : threads) {
            thread.join();
        }
        Thread.sleep(SETTLE_SECONDS * 1000L);
        long rows = rows(database, from, to);
        double seconds = Double.parseDouble(to) - Double.parseDouble(from);
        double due = seconds * TICKS_A_SECOND;
        if (failed.get() > 0) {
            System.out.println(failed.get() + " requests failed.");
        }
        long[] sorted = nanos.stream().mapToLong(Long::longValue).sorted().toArray();
        return new Share(
                Math.max(0, 100 * (due - rows) / due),
                sorted.length / (double) SECONDS,
                sorted.length == 0 ? 0 : sorted[sorted.length / 2] / 1e6,
                sorted.length == 0 ? 0 : sorted[(int) (sorted.length * 0.95)] / 1e6);
    }

    /** A page, and then what it asks for by itself, once a second. */
    private static void look(
            Person person, String page, String id, ConcurrentLinkedQueue<Long> nanos, AtomicLong failed, long until) {
        List<String> own = page.endsWith(id)
                ? List.of(page + "/now", page + "/last", page + "/ribbon", page + "/status")
                : page.equals("/plant")
                        ? List.of("/plant/tags", "/plant/sources-state")
                        : page.equals("/watch")
                                ? List.of("/watch/strips")
                                : page.equals("/records") ? List.of("/records/lines") : List.of();
        ask(person, page, nanos, failed);
        for (int poll = 0; poll < POLLS && System.nanoTime() < until; poll++) {
            try {
                Thread.sleep(1000);
            } catch (InterruptedException stopped) {
                Thread.currentThread().interrupt();
                return;
            }
            own.forEach(part -> ask(person, part, nanos, failed));
        }
    }

    private static void ask(Person person, String path, ConcurrentLinkedQueue<Long> nanos, AtomicLong failed) {
        long began = System.nanoTime();
        try {
            if (person.get(path).statusCode() >= 500) {
                failed.incrementAndGet();
            }
            nanos.add(System.nanoTime() - began);
        } catch (IOException cannot) {
            failed.incrementAndGet();
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
        }
    }

    private static String now(PrivateMariaDb database) throws SQLException {
        return one(database, "SELECT UNIX_TIMESTAMP(UTC_TIMESTAMP(6))");
    }

    private static long rows(PrivateMariaDb database, String from, String to) throws SQLException {
        return Long.parseLong(one(
                database,
                "SELECT COUNT(DISTINCT record_time) FROM quillmoor_records.dryer_log WHERE UNIX_TIMESTAMP(record_time) >= "
                        + from + " AND UNIX_TIMESTAMP(record_time) < " + to));
    }

    private static String one(PrivateMariaDb database, String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(database.url(""));
                Statement statement = connection.createStatement();
                ResultSet result = statement.executeQuery(sql)) {
            result.next();
            return result.getString(1);
        }
    }
}
