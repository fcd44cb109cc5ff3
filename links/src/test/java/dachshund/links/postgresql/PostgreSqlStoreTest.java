package dachshund.links.postgresql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.row.Row;
import dachshund.core.source.LinkTest;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.ServerSettings;
import dachshund.links.jdbc.StoreContract;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The store and the dialect against a real PostgreSQL. */
class PostgreSqlStoreTest extends StoreContract {

    private static PrivatePostgreSql server;
    private static RowStore store;

    @BeforeAll
    static void start() throws Exception {
        server = new PrivatePostgreSql();
        try (Connection connection = DriverManager.getConnection(server.url("postgres"));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE records");
        }
        store = PostgreSqlEngine.kind().open(settings(Map.of()));
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
                "postgres",
                "password",
                ""));
        settings.putAll(other);
        return settings;
    }

    @Override
    protected RowStore store() {
        return store;
    }

    @Override
    protected RowReading reading(JdbcReader.Limits limits) {
        return new JdbcReader(new PostgreSqlEngine(ServerSettings.of(settings(Map.of())), Outside.ANYWHERE), limits);
    }

    @Override
    protected List<String> viewThatWrites() {
        return List.of("CREATE SEQUENCE written", "CREATE VIEW writing_view AS SELECT nextval('written') AS n");
    }

    @Override
    protected Optional<String> procedureOfTwo(String name) {
        return Optional.of("CREATE PROCEDURE \"" + name
                + "\" (p_b VARCHAR, p_a INT) LANGUAGE SQL AS 'INSERT INTO called_rows (a, b) VALUES (p_a, p_b)'");
    }

    @Override
    protected Optional<String> procedureOfOneJson(String name) {
        return Optional.of(
                "CREATE PROCEDURE \"" + name
                        + "\" (doc JSON) LANGUAGE SQL AS 'INSERT INTO called_rows (a, b) VALUES ((doc->>''a'')::int, doc->>''b'')'");
    }

    /** A table that somebody else made takes many rows at once by the same casts as one alone, or refuses both. */
    @Test
    void manyRowsAtOnceGoIntoForeignTypesAsOneAloneDoes() throws Exception {
        String columns =
                "record_time TIMESTAMP(3), row_id TEXT, yes BOOL, small NUMERIC(10,1), whole REAL, big NUMERIC,"
                        + " exact DOUBLE PRECISION, short_exact MONEY, number NUMERIC, words CHAR(50), day TIMESTAMP,"
                        + " clock INTERVAL, fine DATE, coarse TIMESTAMPTZ";
        List<String> refused = new ArrayList<>();
        for (String table : List.of("foreign_alone", "foreign_at_once")) {
            store.apply(List.of("CREATE TABLE " + table + " (id SERIAL, " + columns + ")"));
            List<List<Row>> ways = table.endsWith("alone")
                    ? edges().stream().map(List::of).toList()
                    : List.of(edges().subList(0, 5), edges().subList(5, edges().size()));
            for (List<Row> rows : ways) {
                try {
                    store.write(List.of(
                            new RowBatch("deadbeef:dest", table, PLAIN_TYPES, false, new WriteMode.Insert(), rows)));
                } catch (StoreProblem problem) {
                    refused.add(table + ": " + problem.getMessage());
                }
            }
        }
        assertThat(refused).isEmpty();
        assertThat(texts("SELECT f::text FROM foreign_at_once f"))
                .hasSize(edges().size())
                .isEqualTo(texts("SELECT f::text FROM foreign_alone f"));
    }

    /** What no text of the server can hold is the row's own fault, among many as alone, and never taken for a broken connection. */
    @Test
    void aTextThatTheServerCannotHoldIsRefusedForItsContent() throws Exception {
        store.apply(store.dialect().createTable("strange_texts", PLAIN_TYPES, false));
        Object[] cells = edges().get(0).cells().clone();
        cells[9] = "a\0b";
        Row strange = new Row(edges().get(0).id(), edges().get(0).recordTime(), cells);
        for (List<Row> rows : List.of(List.of(strange), List.of(edges().get(1), strange, edges().get(2)))) {
            StoreProblem problem = catchThrowableOfType(
                    StoreProblem.class,
                    () -> store.write(List.of(new RowBatch(
                            "deadbeef:dest", "strange_texts", PLAIN_TYPES, false, new WriteMode.Insert(), rows))));
            assertThat(problem.kind()).as("%s", problem.getMessage()).isEqualTo(StoreProblem.Kind.CONTENT);
        }
        assertThat(texts("SELECT words FROM strange_texts")).isEmpty();
    }

    private static List<String> texts(String query) throws SQLException {
        List<String> texts = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(server.url("records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(query)) {
            while (rows.next()) {
                texts.add(rows.getString(1));
            }
        }
        return texts;
    }

    /** The reserved words of the dialect against the server's own list: R reserved, T reserved but for functions and types. */
    @Test
    void reservedWordsAreThoseOfTheServer() throws Exception {
        PostgreSqlDialect dialect = new PostgreSqlDialect();
        List<String> wrong = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(server.url("records"));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SELECT word, catcode IN ('R', 'T') FROM pg_get_keywords()")) {
            while (rows.next()) {
                if (rows.getBoolean(2)
                        != dialect.identifierHint(rows.getString(1)).isPresent()) {
                    wrong.add(rows.getString(1));
                }
            }
        }
        assertThat(wrong).isEmpty();
    }

    @Test
    void longNamesAreRefusedBeforeTheyAreCut() throws Exception {
        PostgreSqlDialect dialect = new PostgreSqlDialect();
        assertThat(dialect.identifierProblem("x".repeat(63))).isEmpty();
        assertThat(dialect.identifierProblem("°".repeat(32))).get().asString().contains("64", "cut silently");
        assertThat(dialect.identifierHint("Outlet")).isPresent();
    }

    @Test
    void testsSayWhatToLookAt() throws SQLException {
        assertThat(test(Map.of()))
                .matches(LinkTest::worked)
                .extracting(LinkTest::sentence)
                .asString()
                .startsWith("PostgreSQL 1");
        assertThat(test(Map.of("database", "nothing")))
                .extracting(LinkTest::field, each -> each.sentence().contains("no such database"))
                .containsExactly("database", true);
        assertThat(test(Map.of("port", "1")).sentence()).contains("refuses 127.0.0.1");
    }

    private static LinkTest test(Map<String, String> other) {
        try (RowStore each = PostgreSqlEngine.kind().open(settings(other))) {
            return each.test(Duration.ofSeconds(30));
        }
    }
}
