package dachshund.office.transaction;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreKind;
import dachshund.core.ledger.Run;
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
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import dachshund.engine.transaction.Transactions;
import dachshund.engine.transaction.TriedOut;
import dachshund.engine.when.ActionPool;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.UnaryOperator;

/** A plant with a handshake, a real database of orders, and transactions at work between them. */
final class Bed implements AutoCloseable {

    /** The limit of whatever is not tried for its limit: a machine that is busy otherwise takes its time. */
    static final Duration NO_HURRY = Duration.ofSeconds(30);

    /** It fails where its one try fails, and goes on however often that is. */
    static final Policy ONE_TRY =
            Policy.USUAL.within(NO_HURRY).trying(0, Duration.ofMillis(20)).stoppingAfter(0);

    static final TagRef NUMBER = new TagRef("aaaa0001", "number");
    static final TagRef EPOCH = new TagRef("aaaa0001", "epoch");
    static final TagRef ECHO = new TagRef("aaaa0001", "echo");
    static final TagRef CODE = new TagRef("aaaa0001", "code");
    static final TagRef TEXT = new TagRef("aaaa0001", "text");
    static final TagRef LOT = new TagRef("aaaa0001", "lot");
    static final TagRef KILOS = new TagRef("aaaa0001", "kilos");
    /** The other database, of the other engine. */
    static final String OTHER = "dddd0002";

    static final TagRef SET_POINT = new TagRef("aaaa0001", "set point");

    /** Real servers, shared by all tests of the room; they end with their process. */
    enum Engine {
        MARIADB,
        POSTGRESQL;

        private static final PrivateMariaDb MARIA = new PrivateMariaDb();
        private static final PrivatePostgreSql POSTGRES = new PrivatePostgreSql();

        static {
            Runtime.getRuntime().addShutdownHook(new Thread(() -> {
                MARIA.close();
                POSTGRES.close();
            }));
        }

        StoreKind kind() {
            return this == MARIADB ? MariaDbEngine.mariaDb() : PostgreSqlEngine.kind();
        }

        String url(String database) {
            return this == MARIADB ? MARIA.url(database) : POSTGRES.url(database);
        }

        Engine other() {
            return this == MARIADB ? POSTGRESQL : MARIADB;
        }

        DestinationDefinition destination() {
            return destination("dddd0001", "Orders");
        }

        DestinationDefinition destination(String id, String name) {
            return new DestinationDefinition(
                    id,
                    name,
                    "",
                    kind().id(),
                    Map.of(
                            "host",
                            "127.0.0.1",
                            "port",
                            Integer.toString(this == MARIADB ? MARIA.port() : POSTGRES.port()),
                            "database",
                            "orders",
                            "user",
                            this == MARIADB ? "root" : "postgres",
                            "password",
                            ""));
        }
    }

    /** What a controller has, and what was written to it. */
    static final class Controller implements PlantSide {
        final TagTable table;
        private final Dying.Gate gate;
        final List<String> written = new CopyOnWriteArrayList<>();
        final Map<TagRef, String> refuses = new ConcurrentHashMap<>();

        Controller() {
            this(new TagTable(new SystemClock()), tag -> {});
        }

        private Controller(TagTable table, Dying.Gate gate) {
            this.table = table;
            this.gate = gate;
        }

        /** The same, with something in the way of each write. */
        Controller until(Dying.Gate before) {
            return new Controller(table, before);
        }

        void set(TagRef tag, Object value) {
            table.offer(
                    tag.source(), List.of(new TagChange(tag.address(), TagValue.good(value, new SystemClock().now()))));
        }

        /** Lot and weight first, then the number, as a controller should. */
        void asks(long number, String lot, double kilos) {
            set(LOT, lot);
            set(KILOS, kilos);
            set(NUMBER, number);
        }

        Object get(TagRef tag) {
            return table.entry(tag).value().value().orElse(null);
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
        public void publish(String source, String topic, String payload, boolean retained) {
            gate.before(new TagRef(source, topic));
            String refusal = refuses.get(new TagRef(source, topic));
            if (refusal != null) {
                throw new IllegalArgumentException(refusal);
            }
            written.add(topic + "=" + payload);
        }

        @Override
        public String write(TagRef tag, Object value, double tolerance, String by) {
            gate.before(tag);
            String refusal = refuses.get(tag);
            if (refusal != null) {
                throw new IllegalArgumentException(refusal);
            }
            written.add(tag.address() + "=" + value);
            set(tag, value);
            return value.toString();
        }
    }

    final Engine engine;
    final Controller controller;
    final List<Run> runs = new CopyOnWriteArrayList<>();
    final LocalStore local;
    final CounterBook book = new CounterBook();
    final Plant plant;
    final Transactions transactions;
    private boolean dies;
    private final ActionPool pool = new ActionPool();

    Bed(Engine engine, Path folder) {
        this(engine, folder, new Controller(), UnaryOperator.identity());
    }

    /** @param through what stands between a run and its databases */
    Bed(Engine engine, Path folder, Controller controller, UnaryOperator<Transacting> through) {
        this(engine, folder, controller, through, through);
    }

    /**
     * @param through      what stands between a run and its database
     * @param throughOther and between it and the other one, which is of the other engine
     */
    Bed(
            Engine engine,
            Path folder,
            Controller controller,
            UnaryOperator<Transacting> through,
            UnaryOperator<Transacting> throughOther) {
        this.engine = engine;
        this.controller = controller;
        this.local = new LocalStore(folder.resolve("local.db"));
        this.plant = new Plant(
                "Quillmoor",
                ZoneOffset.UTC,
                List.of(engine.destination(), engine.other().destination(OTHER, "Warehouse")));
        String installation = local.installation();
        String epoch = installation + "-" + local.mintEpoch(new SystemClock().now());
        this.transactions = new Transactions(
                new Transactions.Around(
                        "Quillmoor",
                        epoch,
                        controller.table,
                        controller,
                        opening(installation, through, throughOther),
                        new SystemClock(),
                        book,
                        local,
                        pool,
                        runs::add),
                plant);
    }

    private static Transactions.Opening opening(
            String installation, UnaryOperator<Transacting> through, UnaryOperator<Transacting> throughOther) {
        return new Transactions.Opening() {
            @Override
            public Transacting database(DestinationDefinition destination) {
                return (destination.id().equals(OTHER) ? throughOther : through)
                        .apply(((TransactingKind) kind(destination))
                                .openTransacting(destination.settings(), installation, Outside.ANYWHERE));
            }

            @Override
            public TableReading reading(Definition database) {
                DestinationDefinition destination = (DestinationDefinition) database;
                return ((TablesKind) kind(destination))
                        .openTables(destination.settings(), ZoneOffset.UTC, Outside.ANYWHERE);
            }

            @Override
            public Dialect dialect(Definition database) {
                return kind((DestinationDefinition) database).dialect();
            }

            @Override
            public void append(DestinationDefinition folder, Todo.Append line) {
                throw new IllegalArgumentException("No file is written here.");
            }

            private StoreKind kind(DestinationDefinition destination) {
                return destination.store().equals("mariadb") ? MariaDbEngine.mariaDb() : PostgreSqlEngine.kind();
            }
        };
    }

    /** Waits for what must become true. */
    /** A try; once more where its database does not come to serve it, as on any machine that has too much to do. */
    TriedOut tried(TransactionDefinition design, Plant in, Map<String, Object> given) {
        TriedOut[] last = new TriedOut[1];
        soon(() -> {
            last[0] = transactions.tryNow(design, in, given);
            return !last[0].problem().contains("cannot serve us now");
        });
        return last[0];
    }

    static void soon(Callable<Boolean> it) {
        await().ignoreExceptions()
                .pollInterval(Duration.ofMillis(5))
                .atMost(Duration.ofSeconds(60))
                .until(it);
    }

    /** What is tried with a limit: whether what has to be done within it was. */
    interface Hurried {
        boolean inTime(Duration limit) throws Exception;
    }

    /** With a short limit, and with longer ones where the machine does not do in time what it is tried with. */
    static void hurried(Hurried it) throws Exception {
        hurried(Duration.ofMillis(500), it);
    }

    static void hurried(Duration first, Hurried it) throws Exception {
        for (long millis = first.toMillis(); !it.inTime(Duration.ofMillis(millis)); millis *= 4) {
            assertThat(millis).as("limit in ms").isLessThan(NO_HURRY.toMillis());
        }
    }

    /** Tables as they are before anything was done. */
    static void fresh(Engine engine) throws SQLException {
        if (engine == Engine.MARIADB) {
            sql(engine, "", "CREATE DATABASE IF NOT EXISTS orders");
        } else if (ask(engine, "postgres", "SELECT 1 FROM pg_database WHERE datname = 'orders'")
                .isEmpty()) {
            sql(engine, "postgres", "CREATE DATABASE orders");
        }
        for (String sql : List.of(
                "DROP TABLE IF EXISTS lot",
                "DROP TABLE IF EXISTS pellet_order",
                "DROP TABLE IF EXISTS dachshund_done",
                "CREATE TABLE pellet_order (order_no INT PRIMARY KEY, line VARCHAR(8) NOT NULL, kilos DECIMAL(12,2) NOT NULL, feed_rpm DECIMAL(5,1) NOT NULL)",
                "CREATE TABLE lot (lot_id VARCHAR(20), order_no INT, kilos DECIMAL(12,2))",
                "INSERT INTO pellet_order VALUES (26041, 'PL1', 0, 34.5), (26042, 'PL2', 0, 30)")) {
            sql(engine, "orders", sql);
        }
    }

    static void sql(Engine engine, String database, String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(engine.url(database));
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Rows as a client of its own sees them. */
    static List<String> ask(Engine engine, String database, String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(engine.url(database));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            List<String> all = new ArrayList<>();
            while (rows.next()) {
                StringBuilder row = new StringBuilder();
                for (int i = 1; i <= rows.getMetaData().getColumnCount(); i++) {
                    row.append(i > 1 ? " " : "").append(rows.getString(i));
                }
                all.add(row.toString());
            }
            return all;
        }
    }

    List<String> ask(String sql) throws SQLException {
        return ask(engine, "orders", sql);
    }

    /** A lot ends: it is written, the order moves on, and the set point of the order goes down to the line. */
    static TransactionDefinition lotEnds() {
        return new TransactionDefinition(
                "cccc0001",
                "Lot ends",
                "",
                List.of(new When.OnRequest(NUMBER, Optional.empty(), Optional.of(ECHO))),
                Optional.empty(),
                List.of(
                        new Gathered("lot", LOT, Gathered.WhenBad.FAIL),
                        new Gathered("kilos", KILOS, Gathered.WhenBad.FAIL)),
                "dddd0001",
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.LookUp(
                                "ord",
                                "",
                                "",
                                "SELECT order_no, feed_rpm FROM pellet_order WHERE line = 'PL1'",
                                Step.Rows.ONE),
                        new Step.Put(
                                "record",
                                "",
                                Step.Deed.INSERT,
                                "lot",
                                List.of(
                                        new Step.Cell("lot_id", "lot", false),
                                        new Step.Cell("order_no", "ord_order_no", false),
                                        new Step.Cell("kilos", "kilos", false)),
                                1,
                                1,
                                ""),
                        new Step.Statement(
                                "progress",
                                "",
                                "UPDATE pellet_order SET kilos = kilos + :kilos WHERE order_no = :ord_order_no",
                                1,
                                1,
                                ""),
                        new Step.WriteTag("feed", "", SET_POINT, "ord_feed_rpm", 0.1)),
                new Answer(Optional.of(CODE), Optional.of(TEXT), 1, 2, 3, "\"order \" + ord_order_no"),
                ONE_TRY.trying(3, Duration.ofMillis(20)).queuing(2000),
                List.of("lot", "ord_order_no"));
    }

    /** What is under way when it is over is not waited for. */
    Bed dies() {
        dies = true;
        return this;
    }

    void live(TransactionDefinition... designs) {
        transactions.changeover(List.of(designs), plant);
    }

    @Override
    public void close() {
        if (dies) {
            transactions.close(Duration.ofMillis(100));
        } else {
            transactions.close();
        }
        pool.close();
        local.close();
    }
}
