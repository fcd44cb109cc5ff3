package dachshund.bench;

import dachshund.site.Person;
import dachshund.site.Site;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * The memory of the application over an hour of everything: the demo plant with a recorder at 20 ms, people on all pages, a
 * design that is changed and released each minute, the database killed and started again each ten. Each minute after a full
 * collection: what the heap holds, what the process has, threads and open files. Flat is a last quarter that is no more than a
 * twentieth above the second one.
 */
final class MemoryBench implements Bench.Benchmark {

    private static final int MINUTES = Integer.getInteger("bench.minutes", 60);
    private static final int PEOPLE = 5;
    private static final int OUTAGE_EACH = 10;
    private static final Duration OUTAGE = Duration.ofSeconds(20);
    private static final double FLAT = 1.05;
    /** Bytes of all objects that live. */
    private static final Pattern LIVE = Pattern.compile("(?m)^Total\\s+\\d+\\s+(\\d+)");

    private static final Pattern RESIDENT = Pattern.compile("VmRSS:\\s+(\\d+) kB");
    private static final Pattern THREADS = Pattern.compile("Threads:\\s+(\\d+)");
    private static final List<String> PAGES = List.of(
            "/plant",
            "/plant/tags",
            "/plant/keeping",
            "/records",
            "/records/RECORDER",
            "/records/RECORDER/now",
            "/records/RECORDER/last",
            "/records/transactions",
            "/records/transactions/TRANSACTION",
            "/review",
            "/review/trends/TREND",
            "/review/trends/TREND/drawn?begin=DAY_AGO&end=NOW&points=1500",
            "/review/trends/TREND/now",
            "/review/queries/QUERY/rows",
            "/review/queries/QUERY/rows.csv",
            "/deliver",
            "/watch",
            "/watch/strips",
            "/watch/RECORDER",
            "/watch/held",
            "/watch/aside",
            "/watch/ledger",
            "/release");

    private static final long DAY_MILLIS = 86_400_000;

    /** Pages that people were given, and those that were answered with another status, as while the database is away. */
    private record Asked(AtomicLong answered, AtomicLong refused) {}

    /** After one minute. */
    private record Moment(double heap, double resident, int threads, int files) {}

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        System.out.printf(
                "memory: the demo plant, a recorder at 20 ms, %d people, a release a minute, the database killed each %d minutes, for %d minutes; -Xmx1g%n",
                PEOPLE, OUTAGE_EACH, MINUTES);
        List<Moment> moments = new ArrayList<>();
        Asked asked = new Asked(new AtomicLong(), new AtomicLong());
        try (Site site = new Site()) {
            site.start();
            Person engineer = site.patiently();
            String dryer = Site.recorder(engineer, "Dryer log");
            String mill = Site.recorder(engineer, "Mill vibration");
            Site.draftPeriod(engineer, dryer, "20 ms");
            Site.release(engineer);
            List<String> pages = pages(engineer, dryer);
            AtomicBoolean over = new AtomicBoolean();
            List<Thread> people = new ArrayList<>();
            for (int i = 0; i < PEOPLE; i++) {
                Person person = new Person(site.address()).signIn("viewer", "viewer-demo");
                int first = i * 3;
                people.add(new Thread(() -> look(person, pages, first, over, asked)));
            }
            people.forEach(Thread::start);
            System.out.printf("%6s %10s %12s %8s %6s%n", "minute", "heap MB", "process MB", "threads", "files");
            for (int minute = 1; minute <= MINUTES; minute++) {
                long until = System.nanoTime() + Duration.ofMinutes(1).toNanos();
                if (minute % OUTAGE_EACH == OUTAGE_EACH / 2) {
                    site.database().kill();
                    Thread.sleep(OUTAGE.toMillis());
                    site.database().start();
                    Thread.sleep(10_000);
                }
                Site.draftPeriod(engineer, mill, minute % 2 == 0 ? "500 ms" : "700 ms");
                Site.release(engineer);
                Thread.sleep(Math.max(0, (until - System.nanoTime()) / 1_000_000));
                Moment now = moment(site.pid());
                moments.add(now);
                System.out.printf(
                        Locale.ROOT,
                        "%6d %10.1f %12.1f %8d %6d%n",
                        minute,
                        now.heap(),
                        now.resident(),
                        now.threads(),
                        now.files());
            }
            over.set(true);
            for (Thread person : people) {
                person.join();
            }
        }
        int quarter = moments.size() / 4;
        Moment second = usual(moments.subList(quarter, 2 * quarter));
        Moment last = usual(moments.subList(moments.size() - quarter, moments.size()));
        double heap = last.heap() / second.heap();
        double resident = last.resident() / second.resident();
        System.out.printf(
                Locale.ROOT,
                "last quarter to second: heap %.3f, process %.3f, threads %d to %d, files %d to %d; %,d pages, %,d not answered with 200: %s%n",
                heap,
                resident,
                second.threads(),
                last.threads(),
                second.files(),
                last.files(),
                asked.answered().get(),
                asked.refused().get(),
                heap <= FLAT && resident <= FLAT ? "flat" : "NOT FLAT");
        System.out.printf(
                Locale.ROOT,
                "{\"bench\":\"memory\",\"minutes\":%d,\"heap_ratio\":%.3f,\"process_ratio\":%.3f,\"heap_mb\":%.1f,\"process_mb\":%.1f,\"threads\":%d,\"files\":%d,\"steal_percent\":%.1f}%n",
                moments.size(),
                heap,
                resident,
                last.heap(),
                last.resident(),
                last.threads(),
                last.files(),
                machine.stealPercent());
    }

    /** The median of each. */
    private static Moment usual(List<Moment> moments) {
        return new Moment(
                Machine.median(moments.stream().mapToDouble(Moment::heap).toArray()),
                Machine.median(moments.stream().mapToDouble(Moment::resident).toArray()),
                (int) Machine.median(
                        moments.stream().mapToDouble(Moment::threads).toArray()),
                (int) Machine.median(moments.stream().mapToDouble(Moment::files).toArray()));
    }

    /** The pages, with something of each kind for what they are of. */
    private static List<String> pages(Person engineer, String recorder) throws IOException, InterruptedException {
        String trend = first(engineer, "/review/trends");
        String query = first(engineer, "/review/queries");
        String transaction = first(engineer, "/records/transactions");
        return PAGES.stream()
                .map(page -> page.replace("RECORDER", recorder)
                        .replace("TREND", trend)
                        .replace("QUERY", query)
                        .replace("TRANSACTION", transaction))
                .toList();
    }

    private static String first(Person engineer, String list) throws IOException, InterruptedException {
        return Person.found(
                Pattern.compile("href=\"" + list + "/([0-9a-f]{8})\""),
                engineer.get(list).body());
    }

    private static void look(Person person, List<String> pages, int first, AtomicBoolean over, Asked asked) {
        for (int page = first; !over.get(); page++) {
            try {
                long now = System.currentTimeMillis();
                HttpResponse<String> answer = person.get(pages.get(page % pages.size())
                        .replace("DAY_AGO", Long.toString(now - DAY_MILLIS))
                        .replace("NOW", Long.toString(now)));
                (answer.statusCode() == 200 ? asked.answered() : asked.refused()).incrementAndGet();
                Thread.sleep(500);
            } catch (IOException away) {
                // the next page
            } catch (InterruptedException stopped) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }

    private static Moment moment(long pid) throws IOException, InterruptedException {
        // It collects and counts at one stop: what is made between a collection and a look at the heap is not in it.
        Matcher live = LIVE.matcher(said("jcmd", Long.toString(pid), "GC.class_histogram"));
        String status = Files.readString(Path.of("/proc", Long.toString(pid), "status"));
        try (Stream<Path> files = Files.list(Path.of("/proc", Long.toString(pid), "fd"))) {
            return new Moment(
                    live.find() ? Long.parseLong(live.group(1)) / 1024.0 / 1024.0 : Double.NaN,
                    Long.parseLong(Person.found(RESIDENT, status)) / 1024.0,
                    Integer.parseInt(Person.found(THREADS, status)),
                    (int) files.count());
        }
    }

    private static String said(String... words) throws IOException, InterruptedException {
        Process process = new ProcessBuilder(words).redirectErrorStream(true).start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        if (!process.waitFor(60, TimeUnit.SECONDS)) {
            process.destroyForcibly();
        }
        return said;
    }
}
