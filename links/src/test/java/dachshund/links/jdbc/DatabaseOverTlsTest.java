package dachshund.links.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.source.LinkTest;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.network.TestAuthority;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.postgresql.PrivatePostgreSql;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Real servers with certificates of an authority of our own: what is good, and what is refused with which sentence. */
class DatabaseOverTlsTest {

    private static final Duration MONTH = Duration.ofDays(20);
    private static final List<AutoCloseable> servers = new ArrayList<>();
    private static TestAuthority authority;
    private static TestAuthority other;
    private static PrivateMariaDb mariaDb;
    private static PrivatePostgreSql postgreSql;
    private static PrivatePostgreSql ended;
    private static PrivateMariaDb endedToo;
    private static PrivatePostgreSql inClear;

    @BeforeAll
    static void start() throws Exception {
        authority = new TestAuthority("Plant authority");
        other = new TestAuthority("Other authority");
        TestAuthority.Server good = authority.server(MONTH, "127.0.0.1");
        TestAuthority.Server late = authority.server(Duration.ofDays(-2), "127.0.0.1");
        mariaDb = PrivateMariaDb.withTls(good.certificate(), good.key());
        servers.add(mariaDb);
        postgreSql = new PrivatePostgreSql(good.certificate(), good.key());
        servers.add(postgreSql);
        ended = new PrivatePostgreSql(late.certificate(), late.key());
        servers.add(ended);
        endedToo = PrivateMariaDb.withTls(late.certificate(), late.key());
        servers.add(endedToo);
        inClear = new PrivatePostgreSql();
        servers.add(inClear);
        try (Connection connection = DriverManager.getConnection(mariaDb.url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("CREATE DATABASE secure");
            statement.execute("CREATE USER over_tls@'127.0.0.1' IDENTIFIED BY 'drawn' REQUIRE SSL");
            statement.execute("GRANT ALL ON secure.* TO over_tls@'127.0.0.1'");
            statement.execute("CREATE USER in_clear@'127.0.0.1' IDENTIFIED BY 'drawn'");
        }
    }

    @AfterAll
    static void end() throws Exception {
        for (AutoCloseable each : servers) {
            each.close();
        }
    }

    private static Map<String, String> settings(String engine, int port, String... more) {
        Map<String, String> settings = new HashMap<>();
        kind(engine).settings().forEach(field -> settings.put(field.name(), field.initial()));
        settings.putAll(Map.of("host", "127.0.0.1", "port", Integer.toString(port), "tls", "on"));
        settings.putAll(
                engine.equals("mariadb")
                        ? Map.of("database", "secure", "user", "over_tls", "password", "drawn")
                        : Map.of("database", "postgres", "user", "postgres", "password", "x"));
        for (int i = 0; i < more.length; i += 2) {
            settings.put(more[i], more[i + 1]);
        }
        return settings;
    }

    private static StoreKind kind(String engine) {
        return engine.equals("mariadb") ? MariaDbEngine.mariaDb() : PostgreSqlEngine.kind();
    }

    private static LinkTest test(String engine, Map<String, String> settings) {
        try (RowStore store = kind(engine).open(settings, Outside.ANYWHERE)) {
            return store.test(Duration.ofSeconds(30));
        }
    }

    private static int port(String engine) {
        return engine.equals("mariadb") ? mariaDb.port() : postgreSql.port();
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void aServerWhoseAuthorityIsKnownIsReached(String engine) throws Exception {
        LinkTest test = test(engine, settings(engine, port(engine), "authority", authority.pem()));
        assertThat(test.worked()).as(test.sentence()).isTrue();
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void oneOfSeveralAuthoritiesDoes(String engine) throws Exception {
        LinkTest test = test(engine, settings(engine, port(engine), "authority", other.pem() + authority.pem()));
        assertThat(test.worked()).as(test.sentence()).isTrue();
    }

    /** The server says so, not we. */
    @Test
    void theServerSeesThatWhatComesIsEncrypted() throws Exception {
        try (RowStore store = kind("postgresql")
                        .open(
                                settings("postgresql", port("postgresql"), "authority", authority.pem()),
                                Outside.ANYWHERE);
                Connection witness = DriverManager.getConnection(postgreSql.url("postgres"));
                Statement statement = witness.createStatement()) {
            store.tables();
            try (ResultSet row = statement.executeQuery(
                    "SELECT COUNT(*) FILTER (WHERE s.ssl), COUNT(*) FROM pg_stat_ssl s JOIN pg_stat_activity a USING (pid) WHERE a.application_name = 'dachshund'")) {
                row.next();
                assertThat(row.getInt(1)).isPositive().isEqualTo(row.getInt(2));
            }
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void anAuthorityThatIsNotKnownIsRefused(String engine) throws Exception {
        for (String known : List.of("", other.pem())) {
            LinkTest test = test(engine, settings(engine, port(engine), "authority", known));
            assertThat(test.worked()).isFalse();
            assertThat(test.sentence()).contains("is signed by no authority that is known here");
            assertThat(test.field()).isEqualTo("tls");
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void whatAServerShowsCanBeBelievedThenAndIsThisServersOnly(String engine) throws Exception {
        LinkTest before = test(engine, settings(engine, port(engine)));
        assertThat(before.shown()).startsWith("-----BEGIN CERTIFICATE-----");
        LinkTest after = test(engine, settings(engine, port(engine), "authority", before.shown()));
        assertThat(after.worked()).as(after.sentence()).isTrue();
        assertThat(after.shown()).isEmpty();
        TestAuthority.Server foreign = other.server(MONTH, "127.0.0.1");
        try (PrivatePostgreSql liar = new PrivatePostgreSql(foreign.certificate(), foreign.key())) {
            LinkTest there = test("postgresql", settings("postgresql", liar.port(), "authority", before.shown()));
            assertThat(there.worked()).isFalse();
            assertThat(there.sentence()).contains("is signed by no authority that is known here");
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void nothingIsOfferedWhereTheAuthorityIsNotTheTrouble(String engine) throws Exception {
        LinkTest elsewhere =
                test(engine, settings(engine, port(engine), "host", "localhost", "authority", authority.pem()));
        int port = engine.equals("mariadb") ? endedToo.port() : ended.port();
        LinkTest late = test(engine, settings(engine, port, "authority", authority.pem()));
        assertThat(List.of(elsewhere.shown(), late.shown())).containsOnly("");
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void aCertificateForAnotherHostIsRefused(String engine) throws Exception {
        LinkTest test = test(engine, settings(engine, port(engine), "host", "localhost", "authority", authority.pem()));
        assertThat(test.worked()).isFalse();
        assertThat(test.sentence()).contains("is for another host");
    }

    @ParameterizedTest
    @ValueSource(strings = {"mariadb", "postgresql"})
    void aCertificateThatHasEndedIsRefused(String engine) throws Exception {
        int port = engine.equals("mariadb") ? endedToo.port() : ended.port();
        LinkTest test = test(engine, settings(engine, port, "authority", authority.pem()));
        assertThat(test.worked()).isFalse();
        assertThat(test.sentence()).contains("has ended");
    }

    @Test
    void nothingGoesInClearWhereTheServerHasNoTls() throws Exception {
        LinkTest test = test("postgresql", settings("postgresql", inClear.port(), "authority", authority.pem()));
        assertThat(test.worked()).isFalse();
        assertThat(test.sentence()).contains("offers no TLS");
    }

    @Test
    void aServerThatTakesNothingInClearIsSaidToBeSo() throws Exception {
        try (Connection connection = DriverManager.getConnection(mariaDb.url(""));
                Statement statement = connection.createStatement()) {
            statement.execute("SET GLOBAL require_secure_transport = ON");
            try {
                LinkTest test = test("mariadb", settings("mariadb", mariaDb.port(), "tls", "off", "user", "in_clear"));
                assertThat(test.worked()).isFalse();
                assertThat(test.sentence()).contains("over TLS only");
            } finally {
                statement.execute("SET GLOBAL require_secure_transport = OFF");
            }
        }
    }
}
