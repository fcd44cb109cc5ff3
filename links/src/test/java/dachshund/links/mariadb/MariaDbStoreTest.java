package dachshund.links.mariadb;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.awaitility.Awaitility.await;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.reach.Outside;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.ServerSettings;
import dachshund.links.jdbc.StoreContract;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The store and the dialect against a real MariaDB: what every engine does, and what is its own. */
class MariaDbStoreTest extends StoreContract {

    private static final Instant TIME =
            Instant.parse("2026-10-25T00:30:00.123Z"); // 01:30 in London, the first of two that night
    private static PrivateMariaDb server;
    private static RowStore store;

    @BeforeAll
    static void start() throws Exception {
        server = new PrivateMariaDb();
        execute("CREATE DATABASE records");
        execute("CREATE USER recorder@'127.0.0.1' IDENTIFIED BY 'right'");
        execute("GRANT ALL ON records.* TO recorder@'127.0.0.1'");
        execute("GRANT ALL ON `Line-2 ä`.* TO recorder@'127.0.0.1'");
        store = MariaDbEngine.mariaDb().open(settings(Map.of()));
    }

    @AfterAll
    static void stop() {
        store.close();
        server.close();
    }

    private static Map<String, String> settings(Map<String, String> other) {
        Map<String, String> settings = new HashMap<>(Map.of(
                "host",
                "127.0.0.1",
                "port",
                Integer.toString(server.port()),
                "database",
                "records",
                "user",
                "recorder",
                "password",
                "right"));
        settings.putAll(other);
        return settings;
    }

    private static void execute(String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(""));
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @Override
    protected RowStore store() {
        return store;
    }

    @Override
    protected RowReading reading(JdbcReader.Limits limits) {
        return new JdbcReader(
                new MariaDbEngine(new MariaDbDialect(), ServerSettings.of(settings(Map.of())), Outside.ANYWHERE),
                limits);
    }

    @Override
    protected List<String> viewThatWrites() {
        return List.of(
                "CREATE FUNCTION writing_function() RETURNS INT MODIFIES SQL DATA BEGIN INSERT INTO read_numbers (n) VALUES (9); RETURN 1; END",
                "CREATE VIEW writing_view AS SELECT writing_function() AS n");
    }

    @Override
    protected Optional<String> procedureOfTwo(String name) {
        return Optional.of("CREATE PROCEDURE `" + name
                + "` (p_b VARCHAR(20), p_a INT) INSERT INTO called_rows (a, b) VALUES (p_a, p_b)");
    }

    @Override
    protected Optional<String> procedureOfOneJson(String name) {
        return Optional.of(
                "CREATE PROCEDURE `" + name
                        + "` (doc JSON) INSERT INTO called_rows (a, b) VALUES (JSON_VALUE(doc, '$.a'), JSON_VALUE(doc, '$.b'))");
    }

    /** What the driver says of a connection that ended under it has the state of a wrong statement: 42000. */
    @Test
    void aConnectionThatEndedMeansAwayAndNotThatTheTableIsWrong() throws Exception {
        Connection connection = DriverManager.getConnection(server.url(""));
        connection.close();
        SQLException closed =
                catchThrowableOfType(SQLException.class, () -> connection.setNetworkTimeout(Runnable::run, 1000));
        assertThat(closed.getSQLState()).isEqualTo("42000");
        MariaDbEngine engine =
                new MariaDbEngine(new MariaDbDialect(), ServerSettings.of(settings(Map.of())), Outside.ANYWHERE);
        assertThat(engine.kind(closed)).isEqualTo(Kind.AWAY);
    }

    @Test
    void connectionsThatAreAllInUseAreNoDatabaseThatIsAway() throws Exception {
        execute("CREATE TABLE records.locked_rows (id INT)");
        try (RowStore two = MariaDbEngine.mariaDb().open(settings(Map.of("connections", "2", "answerWithin", "120")));
                Connection other = DriverManager.getConnection(server.url("records"));
                Statement lock = other.createStatement()) {
            assertThat(two.atOnceBeside()).isEqualTo(1);
            // Of another kind than a table's lock, which is given up after 5 s: here nothing ends before it is let go.
            lock.execute("DO GET_LOCK('all in use', 0)");
            List<Thread> waiting = new ArrayList<>();
            List<Optional<StoreProblem>> ended = Collections.synchronizedList(new ArrayList<>());
            for (int i = 0; i < 2; i++) {
                waiting.add(new Thread(() -> ended.add(Optional.ofNullable(catchThrowableOfType(
                        StoreProblem.class,
                        () -> two.apply(List.of(
                                "DO GET_LOCK('all in use', 100)",
                                "INSERT INTO locked_rows VALUES (1)",
                                "DO RELEASE_LOCK('all in use')")))))));
                waiting.get(i).start();
            }
            await().atMost(Duration.ofSeconds(60)).until(() -> waitingForTheLock() == 2);
            StoreProblem full = catchThrowableOfType(StoreProblem.class, two::tables);
            assertThat(full.kind()).isEqualTo(Kind.BUSY);
            assertThat(full.getMessage()).contains("All 2 connections").contains("are in use");
            lock.execute("DO RELEASE_LOCK('all in use')");
            for (Thread each : waiting) {
                each.join();
            }
            assertThat(ended).hasSize(2).allMatch(Optional::isEmpty);
            assertThat(two.tables()).contains("locked_rows");
        }
    }

    /** MariaDB gives up the transaction that has changed less (MariaDB documentation, "InnoDB Lock Modes", from memory). */
    @Test
    void aTransactionThatWasGivenUpForAnotherOnesSakeHasClashedAndWrittenNothing() throws Exception {
        Layout keyed = new Layout(List.of(
                        Column.of("k", SqlType.INTEGER, new ColumnSource.Constant("1")),
                        Column.of("v", SqlType.INTEGER, new ColumnSource.Constant("1"))))
                .withKeys(List.of("k"), List.of());
        execute("CREATE TABLE records.clash (k INT PRIMARY KEY, v INT)");
        execute("INSERT INTO records.clash SELECT seq, 0 FROM records.seq_1_to_200");
        List<StoreProblem> problems = new ArrayList<>();
        try (Connection other = DriverManager.getConnection(server.url("records"));
                Statement statement = other.createStatement()) {
            other.setAutoCommit(false);
            // What waits is given up after 5 s, and a busy machine may let these pass before the other one comes.
            for (boolean met = false; !met; ) {
                problems.clear();
                statement.execute("UPDATE clash SET v = 1 WHERE k > 2");
                Thread ours = new Thread(() -> problems.add(catchThrowableOfType(
                        StoreProblem.class, () -> store.write(List.of(update(keyed, 1), update(keyed, 3))))));
                ours.start();
                await().atMost(Duration.ofSeconds(60)).until(() -> transactionsThatWait() == 1 || !ours.isAlive());
                statement.execute("UPDATE clash SET v = 1 WHERE k = 1");
                ours.join();
                other.rollback();
                met = problems.get(0).kind() != Kind.BUSY;
            }
            assertThat(problems).singleElement().matches(problem -> problem.kind() == Kind.CLASHED, "has clashed");
        }
        store.write(List.of(update(keyed, 1), update(keyed, 3)));
    }

    /** As on a disk that is full: the rows are as good as they were, and wait. */
    @Test
    void aTableThatCannotGrowIsTroubleOfItsLaneAndNotOfItsRows() throws Exception {
        Layout layout = new Layout(List.of(Column.of("k", SqlType.INTEGER, new ColumnSource.Constant("1"))));
        execute("SET GLOBAL max_heap_table_size = 16384");
        try (Connection small = DriverManager.getConnection(server.url("records"));
                Statement statement = small.createStatement()) {
            statement.execute("CREATE TABLE narrow_room (k INT) ENGINE = MEMORY");
        } finally {
            execute("SET GLOBAL max_heap_table_size = DEFAULT");
        }
        List<Row> rows = IntStream.range(0, 10_000)
                .mapToObj(
                        n -> new Row(new RowId("0a1b2c", "deadbeef", 9, n, 0), Instant.EPOCH, new Object[] {(long) n}))
                .toList();
        StoreProblem full = catchThrowableOfType(
                StoreProblem.class,
                () -> store.write(List.of(
                        new RowBatch("deadbeef:dest", "narrow_room", layout, false, new WriteMode.Insert(), rows))));
        assertThat(full.kind()).isEqualTo(Kind.TABLE);
        assertThat(full.getMessage()).contains("is full");
    }

    private static RowBatch update(Layout keyed, long key) {
        Row row = new Row(new RowId("0a1b2c", "deadbeef", 9, key, 0), Instant.EPOCH, new Object[] {key, 7L});
        return new RowBatch("deadbeef:dest", "clash", keyed, false, new WriteMode.Update(), List.of(row));
    }

    private static int transactionsThatWait() throws SQLException {
        return count("SELECT COUNT(*) FROM information_schema.innodb_trx WHERE trx_state = 'LOCK WAIT'");
    }

    private static int waitingForTheLock() throws SQLException {
        return count("SELECT COUNT(*) FROM information_schema.processlist WHERE state = 'User lock'");
    }

    private static int count(String query) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(""));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(query)) {
            rows.next();
            return rows.getInt(1);
        }
    }

    @Test
    void aDatabaseThatTheUserMayNotSeeIsTroubleOfItsLaneAlone() throws Exception {
        StoreProblem refused = catchThrowableOfType(
                StoreProblem.class, () -> store.in("of another user").describe("rows"));
        assertThat(refused.kind()).isEqualTo(Kind.TABLE);
        assertThat(refused.getMessage()).contains("may not use the database, or there is no such database");
    }

    /** The reserved words of the dialect against the server's own: it is asked to make a column of each of its keywords. */
    @Test
    void reservedWordsAreThoseTheServerRefuses() throws Exception {
        List<String> wrong = new ArrayList<>();
        MariaDbDialect dialect = new MariaDbDialect();
        try (Connection connection = DriverManager.getConnection(server.url("records"));
                Statement statement = connection.createStatement()) {
            List<String> words = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery(
                    "SELECT word FROM information_schema.keywords WHERE word REGEXP '^[A-Z_0-9]+$'")) {
                while (rows.next()) {
                    words.add(rows.getString(1));
                }
            }
            assertThat(words).hasSizeGreaterThan(500);
            for (String word : words) {
                boolean refused = false;
                try {
                    statement.execute("CREATE OR REPLACE TEMPORARY TABLE word_test (" + word + " INT)");
                } catch (SQLException reserved) {
                    refused = true;
                }
                if (refused != dialect.identifierHint(word).isPresent()) {
                    wrong.add(word);
                }
            }
        }
        assertThat(wrong).isEmpty();
    }

    @Test
    void describingReadsWhatMustBeGivenAndWhatIsUnique() throws Exception {
        store.apply(List.of(
                "CREATE TABLE described (id BIGINT AUTO_INCREMENT PRIMARY KEY, row_id CHAR(40) UNIQUE, must INT NOT NULL, may INT NOT NULL DEFAULT 3, a INT, b INT, UNIQUE (a, b)) ENGINE=InnoDB",
                "CREATE TABLE plain_file (record_time DATETIME(3), row_id CHAR(40)) ENGINE=MyISAM"));
        TableDescription described = store.describe("described").orElseThrow();
        assertThat(described.transactional()).isTrue();
        assertThat(described.columns())
                .filteredOn(TableDescription.TableColumn::mustBeGiven)
                .extracting(TableDescription.TableColumn::name)
                .containsExactly("must");
        assertThat(described.uniqueKeys())
                .containsExactlyInAnyOrder(List.of("id"), List.of("row_id"), List.of("a", "b"));
        assertThat(store.describe("plain_file").orElseThrow().transactional()).isFalse();
        Layout two = new Layout(Layout.proposed().columns().subList(1, 3));
        RowId id = new RowId("0a1b2c", "deadbeef", 7, 1, 0);
        TryOutcome refused = store.tryOut(new RowBatch(
                "x", "plain_file", two, false, new WriteMode.Insert(), List.of(new Row(id, TIME, new Object[] {
                    TIME, id.toString()
                }))));
        assertThat(refused.sentence()).contains("engine without transactions");
        assertThat(store.lastRows("plain_file", two, 5).rows()).isEmpty();
        assertThat(store.databases()).contains("records");
    }

    /** A value that the column's own type cannot hold is refused and never clipped, whatever the server's mode. */
    @Test
    void nothingIsClipped() throws Exception {
        store.apply(List.of("CREATE TABLE tiny (whole TINYINT)"));
        Layout layout = new Layout(List.of(Column.of("whole", SqlType.INTEGER, new ColumnSource.Constant("x"))));
        RowId id = new RowId("0a1b2c", "deadbeef", 7, 1, 0);
        StoreProblem content = catchThrowableOfType(
                StoreProblem.class,
                () -> store.write(List.of(new RowBatch(
                        "x", "tiny", layout, false, new WriteMode.Insert(), List.of(new Row(id, TIME, new Object[] {500L
                        }))))));
        assertThat(content.kind()).isEqualTo(Kind.CONTENT);
        assertThat(content.getMessage()).contains("Out of range value for column 'whole'");
    }

    @Test
    void testsSayWhatToLookAt() throws Exception {
        assertThat(test(Map.of()))
                .matches(LinkTest::worked)
                .extracting(LinkTest::sentence)
                .asString()
                .startsWith("MariaDB 10.");
        assertThat(test(Map.of("password", "wrong")))
                .extracting(LinkTest::field, each -> each.sentence().contains("refuses this user or password"))
                .containsExactly("password", true);
        assertThat(test(Map.of("database", "nothing", "user", "root", "password", "")))
                .extracting(LinkTest::field, each -> each.sentence().contains("no such database"))
                .containsExactly("database", true);
        assertThat(test(Map.of("port", Integer.toString(PrivateProcess.freePort())))
                        .sentence())
                .contains("refuses 127.0.0.1");
        assertThat(test(Map.of("host", "no-such-host.invalid")).sentence())
                .startsWith("There is no host named no-such-host.invalid");
    }

    private static LinkTest test(Map<String, String> other) {
        try (RowStore each = MariaDbEngine.mariaDb().open(settings(other))) {
            return each.test(Duration.ofSeconds(30));
        }
    }
}
