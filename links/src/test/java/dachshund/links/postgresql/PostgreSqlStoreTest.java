package dachshund.links.postgresql;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.RowStore;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.PostgreSqlDialect;
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
        store = new PostgreSqlKind().open(settings(Map.of()));
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
        try (RowStore each = new PostgreSqlKind().open(settings(other))) {
            return each.test(Duration.ofSeconds(3));
        }
    }
}
