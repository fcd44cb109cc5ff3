package dachshund.bench;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactingKind;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.ledger.Ledger;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import dachshund.engine.transaction.Transactions;
import dachshund.engine.when.ActionPool;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.TimeUnit;

/**
 * Requests of controllers, each answered before the next is asked: a look-up, an insert, an update and the answer, with the mark,
 * against the same statements in a bare loop over JDBC that keeps its statements prepared; one controller, and eight at once, each
 * on an order of its own. Sides alternate, medians are compared. Then 50 requests a second for half a minute: from the trigger to the
 * answer, beside the bare loop's time for the same.
 * At last with the insert in the other database: there the bare loop has a mark in each and commits one after the other, and does
 * nothing for the case that the second commit fails.
 */
final class TransactionBench implements Bench.Benchmark {

    private static final String SOURCE = "aaaa0001";
    private static final int ROUNDS = 5;
    /** As a server that runs for weeks: before, the virtual machine compiles more than it works. */
    private static final Duration WARM = Duration.ofSeconds(30);

    private static final Duration ROUND = Duration.ofSeconds(5);
    private static final int A_SECOND = 50;
    private static final Duration STEADY = Duration.ofSeconds(30);
    private static final String DONE = "bare_done";

    @Override
    public void run() throws Exception {
        StringBuilder json = new StringBuilder("{\"bench\":\"transaction\"");
        Machine machine = new Machine();
        try (PrivateMariaDb maria = new PrivateMariaDb();
                PrivatePostgreSql postgres = new PrivatePostgreSql()) {
            try (Connection connection = DriverManager.getConnection(maria.url(""));
                    Statement statement = connection.createStatement()) {
                statement.execute("CREATE DATABASE bench");
            }
            try (Connection connection = DriverManager.getConnection(postgres.url("postgres"));
                    Statement statement = connection.createStatement()) {
                statement.execute("CREATE DATABASE bench");
            }
            Place first = new Place(
                    MariaDbEngine.mariaDb(), maria.url("bench"), to("dddd0001", "mariadb", "root", maria.port()));
            Place second = new Place(
                    PostgreSqlEngine.kind(),
                    postgres.url("bench"),
                    to("dddd0002", "postgresql", "postgres", postgres.port()));
            tables(first.url());
            tables(second.url());
            of("MariaDB", List.of(first), 0.8, json);
            of("PostgreSQL", List.of(second), 0.8, json);
            of("both", List.of(first, second), 0.6, json);
        }
        System.out.printf(Locale.ROOT, "steal %.1f %%%n", machine.stealPercent());
        System.out.println(json.append('}'));
    }

    /** A database. */
    private record Place(StoreKind kind, String url, DestinationDefinition destination) {}

    private static DestinationDefinition to(String id, String kind, String user, int port) {
        return new DestinationDefinition(
                id,
                "Bench",
                "",
                kind,
                Map.of("host", "127.0.0.1", "port", "" + port, "database", "bench", "user", user, "password", ""));
    }

    /** @param places its own database, and the other one where there is one */
    private static void of(String name, List<Place> places, double meant, StringBuilder json) throws Exception {
        Path folder = Files.createTempDirectory("transaction-bench");
        try (Ours ours = new Ours(places, folder)) {
            for (int controllers : new int[] {1, 8}) {
                ours.rate(controllers, WARM);
                bare(places, controllers, WARM);
                List<Double> own = new ArrayList<>();
                List<Double> bare = new ArrayList<>();
                for (int round = 0; round < ROUNDS; round++) {
                    own.add(ours.rate(controllers, ROUND));
                    bare.add(bare(places, controllers, ROUND));
                }
                double a = median(own);
                double b = median(bare);
                System.out.printf(
                        Locale.ROOT,
                        "%-11s %d at once: %,.0f a second, bare %,.0f: %.2f (meant: %.1f)%n",
                        name,
                        controllers,
                        a,
                        b,
                        a / b,
                        meant);
                json.append(String.format(
                        Locale.ROOT, ",\"%s_%d\":%.3f", name.toLowerCase(Locale.ROOT), controllers, a / b));
            }
            long[] own = ours.steady();
            long[] bare = steadyBare(places);
            System.out.printf(
                    Locale.ROOT,
                    "%-11s %d a second, trigger to answer: median %.2f ms, p99 %.2f ms, most %.2f ms; bare %.2f, %.2f, %.2f ms%n",
                    name,
                    A_SECOND,
                    own[own.length / 2] / 1e6,
                    own[own.length * 99 / 100] / 1e6,
                    own[own.length - 1] / 1e6,
                    bare[bare.length / 2] / 1e6,
                    bare[bare.length * 99 / 100] / 1e6,
                    bare[bare.length - 1] / 1e6);
        }
    }

    private static double median(List<Double> all) {
        return all.stream().sorted().skip(all.size() / 2).findFirst().orElseThrow();
    }

    private static void tables(String url) throws SQLException {
        try (Connection connection = DriverManager.getConnection(url);
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE bench_order (order_no INT PRIMARY KEY, line VARCHAR(8) NOT NULL UNIQUE, kilos DECIMAL(14,2) NOT NULL)");
            try (PreparedStatement insert = connection.prepareStatement("INSERT INTO bench_order VALUES (?, ?, 0)")) {
                for (int i = 0; i < 8; i++) {
                    insert.setInt(1, 7000 + i);
                    insert.setString(2, "L" + i);
                    insert.executeUpdate();
                }
            }
            statement.execute(
                    "CREATE TABLE bench_lot (lot VARCHAR(40) NOT NULL, order_no INT NOT NULL, kilos DECIMAL(12,2) NOT NULL)");
            statement.execute(
                    "CREATE TABLE " + DONE
                            + " (installation VARCHAR(12) NOT NULL, what VARCHAR(12) NOT NULL, request VARCHAR(120) NOT NULL, code BIGINT, said VARCHAR(200), todo TEXT, done_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP, PRIMARY KEY (installation, what, request))");
        }
    }

    private static TransactionDefinition design(int controller, List<Place> places) {
        return new TransactionDefinition(
                "cccc000" + controller,
                "Lot ends " + controller,
                "",
                List.of(new When.OnRequest(
                        tag("number", controller),
                        Optional.of(tag("epoch", controller)),
                        Optional.of(tag("echo", controller)))),
                Optional.empty(),
                List.of(
                        new Gathered("line", tag("line", controller), Gathered.WhenBad.FAIL),
                        new Gathered("kilos", tag("kilos", controller), Gathered.WhenBad.FAIL)),
                places.get(0).destination().id(),
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.LookUp(
                                "ord", "", "", "SELECT order_no FROM bench_order WHERE line = :line", Step.Rows.ONE),
                        new Step.Put(
                                "lot",
                                "",
                                Step.Deed.INSERT,
                                "bench_lot",
                                List.of(
                                        new Step.Cell("lot", "run_id", false),
                                        new Step.Cell("order_no", "ord_order_no", false),
                                        new Step.Cell("kilos", "kilos", false)),
                                1,
                                1,
                                "",
                                places.size() > 1 ? places.get(1).destination().id() : ""),
                        new Step.Statement(
                                "progress",
                                "",
                                "UPDATE bench_order SET kilos = kilos + :kilos WHERE order_no = :ord_order_no",
                                1,
                                1,
                                "")),
                new Answer(
                        Optional.of(tag("code", controller)),
                        Optional.of(tag("text", controller)),
                        1,
                        2,
                        3,
                        "\"order \" + ord_order_no"),
                Policy.USUAL,
                List.of("line"));
    }

    private static TagRef tag(String name, int controller) {
        return new TagRef(SOURCE, name + controller);
    }

    /** The whole of it, ledger and journal included, but for the plant. */
    private static final class Ours implements AutoCloseable, PlantSide {

        private final TagTable table = new TagTable(new SystemClock());
        private final Map<TagRef, SynchronousQueue<Object>> waits = new ConcurrentHashMap<>();
        private final LocalStore local;
        private final Ledger ledger;
        private final ActionPool pool = new ActionPool();
        private final Transactions transactions;
        private long numbers = 1;

        Ours(List<Place> places, Path folder) {
            local = new LocalStore(folder.resolve("local.db"));
            ledger = new Ledger(folder.resolve("ledger"), SegmentJournal.Limits.USUAL, local, new SystemClock());
            ledger.storeIn(runs -> {});
            String installation = local.installation();
            Plant plant = new Plant(
                    "Bench",
                    ZoneOffset.UTC,
                    places.stream().map(Place::destination).toList());
            transactions = new Transactions(
                    new Transactions.Around(
                            "Bench",
                            installation + "-" + local.mintEpoch(new SystemClock().now()),
                            table,
                            this,
                            new Transactions.Opening() {
                                @Override
                                public Transacting database(DestinationDefinition of) {
                                    return ((TransactingKind) kind(places, of))
                                            .openTransacting(of.settings(), installation, Outside.ANYWHERE);
                                }

                                @Override
                                public TableReading reading(Definition database) {
                                    return ((TablesKind) kind(places, database))
                                            .openTables(
                                                    ((DestinationDefinition) database).settings(),
                                                    ZoneOffset.UTC,
                                                    Outside.ANYWHERE);
                                }

                                @Override
                                public Dialect dialect(Definition of) {
                                    return kind(places, of).dialect();
                                }

                                @Override
                                public void append(DestinationDefinition folder, Todo.Append line) {
                                    throw new IllegalArgumentException("No file is written here.");
                                }
                            },
                            new SystemClock(),
                            new CounterBook(),
                            local,
                            pool,
                            ledger::note),
                    plant);
            List<TransactionDefinition> designs = new ArrayList<>();
            for (int i = 0; i < 8; i++) {
                waits.put(tag("echo", i), new SynchronousQueue<>());
                set(tag("epoch", i), 1L);
                set(tag("number", i), 0L);
                set(tag("echo", i), 0L);
                set(tag("line", i), "L" + i);
                set(tag("kilos", i), 12.5);
                designs.add(design(i, places));
            }
            transactions.changeover(designs, plant);
        }

        private static StoreKind kind(List<Place> places, Definition of) {
            return places.stream()
                    .filter(place -> place.destination().id().equals(of.id()))
                    .findFirst()
                    .orElseThrow()
                    .kind();
        }

        private void set(TagRef tag, Object value) {
            table.offer(SOURCE, List.of(new TagChange(tag.address(), TagValue.good(value, new SystemClock().now()))));
        }

        @Override
        public TagValue now(TagRef tag) {
            return table.entry(tag).value();
        }

        @Override
        public TagValue lastGood(TagRef tag) {
            return table.entry(tag).lastGood();
        }

        @Override
        public String write(TagRef tag, Object value, double tolerance, String by) {
            set(tag, value);
            SynchronousQueue<Object> waiting = waits.get(tag);
            if (waiting != null) {
                try {
                    waiting.offer(value, 10, TimeUnit.SECONDS);
                } catch (InterruptedException stopped) {
                    Thread.currentThread().interrupt();
                }
            }
            return value.toString();
        }

        @Override
        public void publish(String source, String topic, String payload, boolean retained) {
            throw new IllegalArgumentException("Nothing is published here.");
        }

        private void ask(int controller, long number) throws InterruptedException {
            set(tag("number", controller), number);
            Object answered = waits.get(tag("echo", controller)).poll(30, TimeUnit.SECONDS);
            if (answered == null
                    || !now(tag("code", controller)).value().orElse(0L).equals(1L)) {
                throw new IllegalStateException("Request " + number + " was answered by " + answered + ", "
                        + now(tag("text", controller)).value());
            }
        }

        double rate(int controllers, Duration length) throws InterruptedException {
            long first = numbers;
            numbers += 100_000_000;
            return Rates.of(controllers, length, (controller, nth) -> ask(controller, first + nth));
        }

        long[] steady() throws InterruptedException {
            long first = numbers;
            numbers += 100_000_000;
            return Rates.steady(A_SECOND, STEADY, nth -> ask(0, first + nth));
        }

        @Override
        public void close() {
            transactions.close();
            ledger.close();
            pool.close();
            local.close();
        }
    }

    /** The marks of one database, by hand. */
    private static final class Marks {

        private final Connection connection;
        private final PreparedStatement claim;
        private final PreparedStatement tell;
        private final String controller;

        Marks(String url, int controller) throws SQLException {
            this.controller = "c" + controller;
            connection = DriverManager.getConnection(url);
            connection.setAutoCommit(false);
            connection.setTransactionIsolation(Connection.TRANSACTION_READ_COMMITTED);
            claim = connection.prepareStatement(
                    "INSERT INTO " + DONE + " (installation, what, request) VALUES (?, ?, ?)");
            tell = connection.prepareStatement("UPDATE " + DONE
                    + " SET code = ?, said = ?, todo = ? WHERE installation = ? AND what = ? AND request = ?");
        }

        void claim(String request) throws SQLException {
            claim.setString(1, "bare");
            claim.setString(2, controller);
            claim.setString(3, request);
            claim.executeUpdate();
        }

        void tell(String request, String text) throws SQLException {
            tell.setLong(1, 1);
            tell.setString(2, text);
            tell.setString(3, "");
            tell.setString(4, "bare");
            tell.setString(5, controller);
            tell.setString(6, request);
            tell.executeUpdate();
        }
    }

    /** A loop by hand: each controller with a connection to each database and its statements prepared. */
    private static final class Bare implements AutoCloseable {

        private final List<Marks> marks = new ArrayList<>();
        private final PreparedStatement find;
        private final PreparedStatement insert;
        private final PreparedStatement update;
        private final int controller;

        Bare(List<Place> places, int controller) throws SQLException {
            this.controller = controller;
            for (Place place : places) {
                marks.add(new Marks(place.url(), controller));
            }
            Connection connection = marks.get(0).connection;
            find = connection.prepareStatement("SELECT order_no FROM bench_order WHERE line = ?");
            insert = marks.get(marks.size() - 1)
                    .connection
                    .prepareStatement("INSERT INTO bench_lot (lot, order_no, kilos) VALUES (?, ?, ?)");
            update = connection.prepareStatement("UPDATE bench_order SET kilos = kilos + ? WHERE order_no = ?");
        }

        void once(long nth) throws SQLException {
            String request = "1/" + System.nanoTime() + "-" + nth;
            for (Marks each : marks) {
                each.claim(request);
            }
            find.setString(1, "L" + controller);
            int order;
            try (ResultSet row = find.executeQuery()) {
                row.next();
                order = row.getInt(1);
            }
            insert.setString(1, request.length() > 40 ? request.substring(0, 40) : request);
            insert.setInt(2, order);
            insert.setDouble(3, 12.5);
            insert.executeUpdate();
            update.setDouble(1, 12.5);
            update.setInt(2, order);
            update.executeUpdate();
            for (Marks each : marks) {
                each.tell(request, "order " + order);
            }
            for (Marks each : marks) {
                each.connection.commit();
            }
        }

        @Override
        public void close() throws SQLException {
            for (Marks each : marks) {
                each.connection.close();
            }
        }
    }

    private static double bare(List<Place> places, int controllers, Duration length) throws Exception {
        List<Bare> all = new ArrayList<>();
        try {
            for (int i = 0; i < controllers; i++) {
                all.add(new Bare(places, i));
            }
            return Rates.of(controllers, length, (controller, nth) -> all.get(controller)
                    .once(nth));
        } finally {
            for (Bare each : all) {
                each.close();
            }
        }
    }

    private static long[] steadyBare(List<Place> places) throws Exception {
        try (Bare bare = new Bare(places, 0)) {
            return Rates.steady(A_SECOND, STEADY, bare::once);
        }
    }
}
