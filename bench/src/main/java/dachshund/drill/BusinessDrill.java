package dachshund.drill;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.office.filing.Filed;
import dachshund.office.release.ConfigurationFile;
import dachshund.site.Person;
import dachshund.site.Site;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.regex.Pattern;
import java.util.stream.StreamSupport;

/**
 * Two transactions add to the same rows of orders, in any order of the rows, beside a client of somebody else's who does so,
 * too: dead locks, a procedure that raises an error, a key that is there already, a tag write that is refused, the database
 * gone in the middle, and a thousand requests in a second. In the end the books are compared: each request has one answer,
 * what was told to be done stands in the tables once, what was told to have failed does not, and the orders are what all of
 * it adds up to.
 */
final class BusinessDrill implements Drill.Exercise {

    private static final String BOOK = "b0000001";
    private static final String BONUS = "b0000002";
    private static final int TOO_HEAVY = 900;
    /** Beyond what the set point of the line takes. */
    private static final int REFUSED = 900;

    private static final int FEED = 9;
    private static final int ORDERS = 3;
    private static final Duration WITHIN = Duration.ofMinutes(3);
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Pattern TOKEN = Pattern.compile("id=\"clear-token\">([^<]+)<");

    private final HttpClient http =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
    private final Map<String, Asked> answers = new ConcurrentHashMap<>();
    private final List<String> wrong = new ArrayList<>();
    private final AtomicLong again = new AtomicLong();

    /** What was asked for, and how it ended. */
    private record Asked(String thing, String lot, int kilos, int first, int second, String outcome, String said) {
        boolean stands() {
            return outcome.equals("Done") || outcome.equals("Done, but") || outcome.equals("Done before");
        }
    }

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int requests = options.number("requests", 1500);
        Random random = new Random(options.number("seed", 1));
        System.out.printf(
                "business: %,d requests by 8 clients, then 1,000 in a second, beside another client%n", requests);
        try (Site site = new Site()) {
            site.start();
            Person engineer = site.patiently();
            tables(site);
            begin(engineer);
            String token = token(site);
            soon(() -> ask(site, token, BONUS, "first", "first", 1, 1, 1, FEED).isPresent());
            AtomicBoolean over = new AtomicBoolean();
            AtomicLong theirs = new AtomicLong();
            AtomicLong theirDeadLocks = new AtomicLong();
            ExecutorService clients = Executors.newFixedThreadPool(9);
            Future<?> other = clients.submit(() -> another(site, over, theirs, theirDeadLocks));
            List<Future<?>> asking = new ArrayList<>();
            for (int client = 0; client < 8; client++) {
                long seed = random.nextLong();
                String name = "c" + client;
                int each = requests / 8;
                asking.add(clients.submit(() -> client(site, token, name, each, new Random(seed))));
            }
            int half = requests / 2;
            soon(() -> answers.size() > half);
            long before = deadLocks(site);
            site.database().kill();
            System.out.printf("%s DATABASE killed after %d answers%n", Drill.time(), answers.size());
            Thread.sleep(2000);
            site.database().start();
            for (Future<?> each : asking) {
                each.get(10, TimeUnit.MINUTES);
            }
            burst(site, token, random);
            over.set(true);
            other.get(1, TimeUnit.MINUTES);
            clients.shutdown();
            long deadLocks = before + deadLocks(site);
            account(site, theirs.get());
            if (deadLocks == 0) {
                wrong.add("there was no dead lock, so that it is not shown what becomes of one");
            }
            System.out.printf(
                    "%,d dead locks in the database, of which the other client was told of %,d; %,d times asked again%n",
                    deadLocks, theirDeadLocks.get(), again.get());
            wrong.stream().limit(20).forEach(System.out::println);
            if (!wrong.isEmpty()) {
                site.keep();
                System.out.println("What it left is in " + site.folder() + ".");
            }
            site.stop();
            return wrong.isEmpty();
        }
    }

    private static void tables(Site site) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url("quillmoor_records"));
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE drill_order (order_no INT PRIMARY KEY, kilos BIGINT NOT NULL, lots BIGINT NOT NULL)");
            statement.execute(
                    "CREATE TABLE drill_lot (lot VARCHAR(40) PRIMARY KEY, kilos INT NOT NULL, first INT NOT NULL, second INT NOT NULL)");
            statement.execute(
                    "CREATE TABLE drill_bonus (lot VARCHAR(40) PRIMARY KEY, kilos INT NOT NULL, first INT NOT NULL)");
            statement.execute("CREATE PROCEDURE drill_check(IN kilos INT) BEGIN IF kilos >= " + TOO_HEAVY
                    + " THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'too heavy'; END IF; END");
            statement.execute("INSERT INTO drill_order SELECT seq, 0, 0 FROM seq_1_to_" + ORDERS);
        }
    }

    private static Step add(String name, String order) {
        return new Step.Statement(
                name,
                "",
                "UPDATE drill_order SET kilos = kilos + :kilos, lots = lots + 1 WHERE order_no = :" + order,
                1,
                1,
                "");
    }

    private static void begin(Person engineer) throws Exception {
        JsonNode live = JSON.readTree(engineer.get("/release/export").body());
        JsonNode source = named(live.get("definitions"), "Pellet works", "name");
        String address = StreamSupport.stream(source.get("tags").spliterator(), false)
                .filter(tag -> tag.get("name").asText().equals("Feed rate set point"))
                .findFirst()
                .orElseThrow()
                .get("address")
                .asText();
        TagRef feed = new TagRef(source.get("id").asText(), address);
        String records =
                named(live.get("definitions"), "Production", "name").get("id").asText();
        Policy policy = Policy.USUAL
                .within(Duration.ofSeconds(20))
                .trying(20, Duration.ofMillis(20))
                .atOnce(8)
                .queuing(50)
                .stoppingAfter(0);
        List<Gathered> given = List.of(
                Gathered.given("lot"),
                Gathered.given("kilos"),
                Gathered.given("first"),
                Gathered.given("second"),
                Gathered.given("feed"));
        TransactionDefinition book = TransactionDefinition.begun(BOOK, "Drill books", records)
                .withDatabase(records, Isolation.READ_COMMITTED, true)
                .withGathers(given)
                .withSteps(List.of(
                        add("one", "first"),
                        new Step.Put(
                                "book",
                                "",
                                Step.Deed.INSERT,
                                "drill_lot",
                                List.of(
                                        new Step.Cell("lot", "lot", false),
                                        new Step.Cell("kilos", "kilos", false),
                                        new Step.Cell("first", "first", false),
                                        new Step.Cell("second", "second", false)),
                                1,
                                1,
                                ""),
                        add("two", "second"),
                        new Step.Statement("heavy", "", "CALL drill_check(:kilos)", 0, 10, ""),
                        new Step.WriteTag("feed_rate", "", feed, "feed", 0.1)))
                .withAnswer(Answer.NONE)
                .withPolicy(policy, List.of("lot"));
        TransactionDefinition bonus = TransactionDefinition.begun(BONUS, "Drill adds", records)
                .withGathers(given)
                .withSteps(List.of(
                        new Step.Put(
                                "bonus",
                                "",
                                Step.Deed.INSERT,
                                "drill_bonus",
                                List.of(
                                        new Step.Cell("lot", "lot", false),
                                        new Step.Cell("kilos", "kilos", false),
                                        new Step.Cell("first", "first", false)),
                                1,
                                1,
                                ""),
                        add("one", "first")))
                .withPolicy(policy, List.of("lot"));
        engineer.post("/release/import", "text", ConfigurationFile.write(List.of(book, bonus), id -> Filed.NOWHERE));
        Site.release(engineer);
    }

    private static JsonNode named(JsonNode all, String name, String by) {
        return StreamSupport.stream(all.spliterator(), false)
                .filter(each -> each.get(by).asText().equals(name))
                .findFirst()
                .orElseThrow(() -> new IllegalStateException("Nothing is called " + name + "."));
    }

    private static String token(Site site) throws IOException, InterruptedException {
        Person admin = new Person(site.address()).signIn("admin", "admin-demo");
        admin.post("/plant/tokens", "name", "Drill", "scope", "read", "scope", "run");
        return Person.found(TOKEN, admin.get("/plant/tokens").body());
    }

    /** Somebody else adds to two orders at once, over and over, with a client of his own, and is told of dead locks as others are. */
    private static Void another(Site site, AtomicBoolean over, AtomicLong added, AtomicLong deadLocks)
            throws InterruptedException {
        Random random = new Random(99);
        while (!over.get()) {
            try (Connection connection = DriverManager.getConnection(
                            site.database().url("quillmoor_records") + "&connectTimeout=2000&socketTimeout=30000");
                    PreparedStatement add = connection.prepareStatement(
                            "UPDATE drill_order SET kilos = kilos + 1 WHERE order_no = ?")) {
                connection.setAutoCommit(false);
                while (!over.get()) {
                    int first = 1 + random.nextInt(ORDERS);
                    try {
                        add.setInt(1, first);
                        add.executeUpdate();
                        Thread.sleep(3);
                        add.setInt(1, 1 + first % ORDERS);
                        add.executeUpdate();
                        connection.commit();
                        added.addAndGet(2);
                    } catch (SQLException refused) {
                        if (!"40001".equals(refused.getSQLState())) {
                            throw refused;
                        }
                        deadLocks.incrementAndGet();
                        connection.rollback();
                    }
                    Thread.sleep(10);
                }
            } catch (SQLException away) {
                Thread.sleep(200); // the database is killed while he works; what he had begun is gone with it
            }
        }
        return null;
    }

    private Void client(Site site, String token, String name, int requests, Random random) throws Exception {
        for (int i = 0; i < requests; i++) {
            String request = name + "-" + i;
            // Now and then a lot that is there already, one that is too heavy, and a set point that is refused.
            String lot = i > 0 && random.nextInt(20) == 0 ? name + "-0" : request;
            int kilos = random.nextInt(20) == 0 ? TOO_HEAVY + 1 : 1 + random.nextInt(800);
            int first = 1 + random.nextInt(ORDERS);
            int feed = random.nextInt(20) == 0 ? REFUSED : FEED;
            String thing = random.nextInt(4) == 0 ? BONUS : BOOK;
            int second = 1 + (first + random.nextInt(ORDERS - 1)) % ORDERS;
            soon(() -> ask(site, token, thing, request, lot, kilos, first, second, feed)
                    .isPresent());
        }
        return null;
    }

    /** A thousand at once: what finds no room is told so, and that is its answer. */
    private void burst(Site site, String token, Random random) throws Exception {
        ExecutorService many = Executors.newFixedThreadPool(200);
        Semaphore go = new Semaphore(0);
        List<Future<?>> all = new ArrayList<>();
        AtomicLong dropped = new AtomicLong();
        AtomicLong done = new AtomicLong();
        for (int i = 0; i < 1000; i++) {
            String request = "burst-" + i;
            int kilos = 1 + random.nextInt(800);
            int first = 1 + random.nextInt(ORDERS);
            all.add(many.submit(() -> {
                go.acquire();
                soon(() -> ask(site, token, BONUS, request, request, kilos, first, first, FEED)
                        .isPresent());
                Asked answer = answers.get(request);
                (answer.stands() ? done : dropped).incrementAndGet();
                return null;
            }));
        }
        long from = System.nanoTime();
        go.release(1000);
        for (Future<?> each : all) {
            each.get(10, TimeUnit.MINUTES);
        }
        many.shutdown();
        System.out.printf(
                "a thousand requests at once: %d done, %d told that there was no room, all answered after %.1f s%n",
                done.get(), dropped.get(), (System.nanoTime() - from) / 1e9);
    }

    /** @return empty where it is not known yet how it ended: it is asked again under the same request then */
    private Optional<Asked> ask(
            Site site,
            String token,
            String thing,
            String request,
            String lot,
            int kilos,
            int first,
            int second,
            int feed)
            throws InterruptedException {
        String body = "{\"request\": \"" + request + "\", \"values\": {\"lot\": \"" + lot + "\", \"kilos\": " + kilos
                + ", \"first\": " + first + ", \"second\": " + second + ", \"feed\": " + feed + "}}";
        try {
            HttpResponse<String> response = http.send(
                    HttpRequest.newBuilder(URI.create(site.address() + "/api/v1/transactions/" + thing + "/runs"))
                            .timeout(Duration.ofSeconds(60))
                            .header("Authorization", "Bearer " + token)
                            .header("Content-Type", "application/json")
                            .POST(HttpRequest.BodyPublishers.ofString(body))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
            if (response.statusCode() == 200) {
                JsonNode ended = JSON.readTree(response.body());
                String outcome = ended.get("outcome").asText();
                if (!outcome.equals("Uncertain")) {
                    Asked asked = new Asked(
                            thing,
                            lot,
                            kilos,
                            first,
                            second,
                            outcome,
                            ended.get("reason").asText());
                    answers.put(request, asked);
                    return Optional.of(asked);
                }
            } else if (response.statusCode() != 202
                    && response.statusCode() != 503
                    && response.statusCode() != 404
                    && response.statusCode() != 429) {
                synchronized (wrong) {
                    wrong.add("request " + request + " was told " + response.statusCode() + ": " + response.body());
                }
                throw new IllegalStateException(response.body());
            }
        } catch (IOException notHeard) {
            // asked again, as whoever hears nothing does
        }
        again.incrementAndGet();
        Thread.sleep(50);
        return Optional.empty();
    }

    private void account(Site site, long theirs) throws Exception {
        Map<String, Long> outcomes = new TreeMap<>();
        answers.values().forEach(each -> outcomes.merge(each.outcome(), 1L, Long::sum));
        long kilos = theirs;
        long lots = 0;
        long refused = 0;
        try (Connection connection = DriverManager.getConnection(site.database().url("quillmoor_records"));
                Statement statement = connection.createStatement()) {
            Map<String, String> tables = Map.of(BOOK, "drill_lot", BONUS, "drill_bonus");
            for (Map.Entry<String, String> table : tables.entrySet()) {
                long stand = answers.values().stream()
                        .filter(each -> each.thing().equals(table.getKey()) && each.stands())
                        .count();
                long rows = number(statement, "SELECT COUNT(*) FROM " + table.getValue());
                if (stand != rows) {
                    wrong.add(stand + " requests were told that they are done, and " + rows + " rows stand in "
                            + table.getValue());
                }
            }
            for (Map.Entry<String, Asked> each : answers.entrySet()) {
                Asked asked = each.getValue();
                boolean book = asked.thing().equals(BOOK);
                if (asked.stands()) {
                    kilos += (book ? 2L : 1L) * asked.kilos();
                    lots += book ? 2 : 1;
                    if (book && asked.kilos() >= TOO_HEAVY) {
                        wrong.add(each.getKey() + " is too heavy, and was told that it is done");
                    }
                    long there = number(
                            statement,
                            "SELECT COUNT(*) FROM " + tables.get(asked.thing()) + " WHERE lot = '" + asked.lot()
                                    + "' AND kilos = " + asked.kilos());
                    if (there != 1) {
                        wrong.add(each.getKey() + " was told that it is done, and stands " + there + " times");
                    }
                } else if (asked.outcome().equals("Failed")
                        && !asked.said().contains("too heavy")
                        && !asked.said().contains("Duplicate entry")) {
                    refused++;
                }
            }
            long inOrders = number(statement, "SELECT SUM(kilos) FROM drill_order");
            if (inOrders != kilos) {
                wrong.add("orders have " + inOrders + " kilos, and all that was done adds up to " + kilos);
            }
            long inLots = number(statement, "SELECT SUM(lots) FROM drill_order");
            if (inLots != lots) {
                wrong.add("orders have " + inLots + " lots, and all that was done adds up to " + lots);
            }
            ledger(statement);
        }
        for (String outcome : List.of("Done", "Done, but", "Failed")) {
            if (!outcomes.containsKey(outcome)) {
                wrong.add("no request ended as \"" + outcome + "\", so that it is not shown what becomes of one");
            }
        }
        System.out.printf(
                "%,d requests, each with one answer: %s; %,d failed while the database was away or for long locks%n",
                answers.size(), outcomes, refused);
    }

    /** Each request that is done has one run in the ledger that says so. */
    private void ledger(Statement statement) throws Exception {
        long stand = answers.values().stream().filter(Asked::stands).count();
        String query =
                "SELECT COUNT(DISTINCT thing, JSON_VALUE(document, '$.request')) FROM dachshund.ledger_run WHERE thing IN ('"
                        + BOOK + "', '" + BONUS + "') AND outcome IN ('DONE', 'DONE_BUT', 'ALREADY')";
        try {
            soon(() -> number(statement, query) == stand);
        } catch (IllegalStateException never) {
            wrong.add(stand + " requests are done, and the ledger has runs of " + number(statement, query)
                    + " that say so");
        }
    }

    private static long deadLocks(Site site) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SHOW GLOBAL STATUS LIKE 'Innodb_deadlocks'")) {
            return rows.next() ? rows.getLong(2) : 0;
        }
    }

    private static long number(Statement statement, String query) throws SQLException {
        try (ResultSet rows = statement.executeQuery(query)) {
            rows.next();
            return rows.getLong(1);
        }
    }

    private static void soon(Callable<Boolean> reached) throws Exception {
        long until = System.nanoTime() + WITHIN.toNanos();
        while (!reached.call()) {
            if (System.nanoTime() > until) {
                throw new IllegalStateException("It is not so after " + WITHIN.toSeconds() + " s.");
            }
            Thread.sleep(5);
        }
    }
}
