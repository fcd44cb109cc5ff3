package dachshund.links.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reach.Outside;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactingKind;
import dachshund.core.transaction.Values;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.links.sqlite.SqliteEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Transactions on the real engines: what is given to a statement arrives as what it is, nothing, numbers, texts and times; and marks
 * that are old and done go, no others.
 */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class TransactingTest {

    private static final Duration LIMIT = Duration.ofSeconds(20);
    private static final String REAL = "DOUBLE PRECISION";

    private final List<On> engines = new ArrayList<>();
    private PrivateMariaDb mariaDb;
    private PrivatePostgreSql postgreSql;

    record On(String engine, Transacting database) {
        @Override
        public String toString() {
            return engine;
        }

        void change(String sql, Map<String, Object> values) throws Exception {
            try (Session session = database.begin(Isolation.READ_COMMITTED, false, LIMIT)) {
                QueryText text = QueryText.change(sql);
                session.change(text, given(text, values));
                session.commit();
            }
        }

        String ask(String sql, Map<String, Object> values) throws Exception {
            try (Session session = database.begin(Isolation.READ_COMMITTED, false, LIMIT)) {
                QueryText text = QueryText.lookUp(sql);
                Object found =
                        session.ask(text, given(text, values), 2).rows().get(0).get(0);
                return found == null ? null : Values.words(found);
            }
        }

        private static List<Object> given(QueryText text, Map<String, Object> values) {
            List<Object> given = new ArrayList<>();
            text.names().forEach(name -> given.add(values.get(name)));
            return given;
        }
    }

    @BeforeAll
    void start(@TempDir Path folder) throws Exception {
        mariaDb = new PrivateMariaDb();
        try (Connection connection = DriverManager.getConnection(mariaDb.url(""))) {
            Beds.make(connection, "CREATE DATABASE bound");
        }
        postgreSql = new PrivatePostgreSql();
        add("MariaDB", MariaDbEngine.mariaDb(), server(mariaDb.port(), "bound", "root"), mariaDb.url("bound"));
        add(
                "PostgreSQL",
                PostgreSqlEngine.kind(),
                server(postgreSql.port(), "postgres", "postgres"),
                postgreSql.url("postgres"));
        add("SQLite", SqliteEngine.kind(folder), Map.of("file", "bound.db"), "jdbc:sqlite:" + folder + "/bound.db");
    }

    private static Map<String, String> server(int port, String database, String user) {
        return Beds.with(Map.of("host", "127.0.0.1", "database", database, "user", user, "password", ""), port);
    }

    private void add(String engine, StoreKind kind, Map<String, String> settings, String url) throws Exception {
        try (Connection connection = DriverManager.getConnection(url)) {
            Beds.make(
                    connection,
                    "CREATE TABLE given (nr INTEGER, whole BIGINT, exact DECIMAL(20,4), number " + REAL
                            + ", words VARCHAR(40), at TIMESTAMP NULL)");
        }
        engines.add(new On(engine, ((TransactingKind) kind).openTransacting(settings, "51c55f", Outside.ANYWHERE)));
    }

    @AfterAll
    void stop() {
        engines.forEach(each -> each.database().close());
        mariaDb.close();
        postgreSql.close();
    }

    Stream<On> engines() {
        return engines.stream();
    }

    @ParameterizedTest
    @MethodSource("engines")
    void whatIsGivenArrivesAsWhatItIs(On on) throws Exception {
        Map<String, Object> values = new HashMap<>();
        values.put("nr", 1L);
        values.put("whole", Long.MAX_VALUE);
        values.put("exact", new BigDecimal("12.5"));
        values.put("number", Values.bound(2.25));
        values.put("words", "lot 'seventeen'");
        values.put("at", Instant.parse("2026-11-29T06:00:00Z"));
        String insert = "INSERT INTO given VALUES (:nr, :whole, :exact, :number, :words, :at)";
        on.change(insert, values);
        on.change(insert, Map.of("nr", 2L)); // and nothing else
        assertThat(on.ask("SELECT whole FROM given WHERE nr = :nr", values)).isEqualTo(Long.toString(Long.MAX_VALUE));
        assertThat(new BigDecimal(on.ask("SELECT exact FROM given WHERE nr = :nr", values)))
                .isEqualByComparingTo("12.5");
        assertThat(on.ask("SELECT number FROM given WHERE nr = :nr", values)).isEqualTo("2.25");
        assertThat(on.ask("SELECT words FROM given WHERE nr = :nr", values)).isEqualTo("lot 'seventeen'");
        assertThat(on.ask("SELECT at FROM given WHERE nr = :nr", values))
                .startsWith("2026-11-29")
                .contains("06:00:00");
        for (String column : List.of("whole", "exact", "number", "words", "at")) {
            assertThat(on.ask("SELECT " + column + " FROM given WHERE nr = 2", Map.of()))
                    .as(column)
                    .isNull();
        }
    }

    /** What is broken off just as it ends is its own affair: whoever has a connection next has one that works, and keeps it. */
    @ParameterizedTest
    @MethodSource("engines")
    void whatIsBrokenOffAsItEndsHarmsNobodyElse(On on) throws Exception {
        String waits = Map.of("MariaDB", "SELECT SLEEP(0.004)", "PostgreSQL", "SELECT 1 FROM pg_sleep(0.004)")
                .getOrDefault(on.engine(), "SELECT 1");
        Random random = new Random(5);
        for (int nth = 0; nth < 150; nth++) {
            Session session = on.database().begin(Isolation.READ_COMMITTED, false, Duration.ZERO);
            Thread run = new Thread(() -> {
                try (session) {
                    session.ask(QueryText.lookUp(waits), List.of(), 2);
                } catch (StoreProblem | QueryProblem broken) {
                    // as it may be
                }
            });
            run.start();
            Thread.sleep(3, random.nextInt(999_999) * 2 % 1_000_000);
            Thread breaking = new Thread(session::breakOff);
            breaking.start();
            run.join();
            assertThat(on.ask("SELECT 41 + 1", Map.of())).as("%d", nth).isEqualTo("42");
            assertThat(on.ask(waits.equals("SELECT 1") ? waits : waits + " ", Map.of()))
                    .as("%d", nth)
                    .isNotNull();
            breaking.join();
        }
    }

    @ParameterizedTest
    @MethodSource("engines")
    void marksGoThatAreOldAndHaveNothingLeftToDo(On on) throws Exception {
        assertThat(on.database().doneBefore("cccc0001", 8, 10))
                .as("before there is a table of marks")
                .isEmpty();
        for (String request : List.of("old 1", "old 2", "old 3", "left", "second", "young", "other's", "line")) {
            try (Session session = on.database().begin(Isolation.READ_COMMITTED, true, LIMIT)) {
                String transaction = request.equals("other's") ? "cccc0002" : "cccc0001";
                assertThat(session.claim(transaction, request)).isTrue();
                // In the second one of two databases nothing is told.
                if (!request.equals("second")) {
                    session.tell(transaction, request, new Session.Told(1, "", request.equals("left") ? "[]" : ""));
                }
                session.commit();
            }
        }
        on.change(
                "UPDATE " + JdbcTransacting.DONE_TABLE
                        + " SET done_at = '2019-02-03 04:05:06' WHERE request <> 'young'",
                Map.of());
        // Nine days and one hour ago is older than nine days, and not than ten; so it is in whatever zone the database
        // is.
        String hours = on.engine().equals("SQLite")
                ? "datetime('now', '-217 hours')"
                : "CURRENT_TIMESTAMP - INTERVAL '217' HOUR";
        on.change(
                "UPDATE " + JdbcTransacting.DONE_TABLE + " SET done_at = " + hours + " WHERE request = 'line'",
                Map.of());
        assertThat(on.database().doneBefore("cccc0001", 10, 10))
                .containsExactlyInAnyOrder("old 1", "old 2", "old 3", "second");
        assertThat(on.database().doneBefore("cccc0001", 9, 10)).hasSize(5).contains("line");
        assertThat(on.database().doneBefore("cccc0001", 10, 2)).hasSize(2);

        assertThat(on.database().forget("cccc0001", List.of("old 1", "old 3", "left", "second", "none")))
                .isEqualTo(3);
        assertThat(on.database().told("cccc0001", "old 1")).isEmpty();
        assertThat(on.database().told("cccc0001", "old 2")).isPresent();
        assertThat(on.database().told("cccc0001", "left")).isPresent();
        assertThat(on.database().told("cccc0001", "young")).isPresent();
        assertThat(on.database().told("cccc0002", "other's")).isPresent();
        try (Session session = on.database().begin(Isolation.READ_COMMITTED, true, LIMIT)) {
            assertThat(session.claim("cccc0001", "old 1")).as("it is new again").isTrue();
        }
    }

    /** Where no column says what it is, a number is compared as one: as a text, 3 would be more than 5 to some. */
    @ParameterizedTest
    @MethodSource("engines")
    void aNumberIsComparedAsOneWhereNoColumnSaysSo(On on) throws Exception {
        String compared = "SELECT CASE WHEN :kg > 5 THEN 'more' ELSE 'less' END";
        for (Object less : List.of(3, 3L, 3.5, new BigDecimal("3.5"), new BigDecimal("3"))) {
            assertThat(on.ask(compared, Map.of("kg", Values.bound(less))))
                    .as(less.getClass().getSimpleName())
                    .isEqualTo("less");
        }
        assertThat(on.ask(compared, Map.of("kg", 30L))).isEqualTo("more");
    }
}
