package dachshund.office.transaction;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reach.Outside;
import dachshund.core.reader.QueryText;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactingKind;
import dachshund.office.transaction.Bed.Engine;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/**
 * Two transactions that stand against each other behave as their engines document the chosen level: PostgreSQL documentation,
 * "Transaction Isolation" (13.2), and MariaDB documentation, "SET TRANSACTION" and "InnoDB lock modes"; both from memory. The
 * anomalies are those of A Critique of ANSI SQL Isolation Levels (Berenson and others, 1995): lost update P4, phantom P3, write
 * skew A5B.
 */
class IsolationTest {

    private Transacting database;

    @AfterEach
    void close() {
        database.close();
    }

    private Session begin(Isolation level) throws Exception {
        return database.begin(level, false, Duration.ofSeconds(20));
    }

    private void open(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.sql(engine, "orders", "DROP TABLE IF EXISTS duty");
        Bed.sql(engine, "orders", "CREATE TABLE duty (person VARCHAR(10) PRIMARY KEY, present INT NOT NULL)");
        Bed.sql(engine, "orders", "INSERT INTO duty VALUES ('one', 1), ('two', 1)");
        database = ((TransactingKind) engine.kind())
                .openTransacting(engine.destination().settings(), "abc123", Outside.ANYWHERE);
    }

    private static Object ask(Session session, String sql) throws Exception {
        return session.ask(QueryText.lookUp(sql), List.of(), 10).rows().get(0).get(0);
    }

    private static long change(Session session, String sql) throws Exception {
        return session.change(QueryText.change(sql), List.of()).touched();
    }

    private static String kilos(Engine engine) throws Exception {
        return Bed.ask(engine, "orders", "SELECT kilos FROM pellet_order WHERE order_no = 26041")
                .get(0);
    }

    /** Both read, both write what they read plus one: one of the two is lost, unless the engine refuses it. */
    @ParameterizedTest
    @EnumSource
    void aLostUpdate(Engine engine) throws Exception {
        open(engine);
        String read = "SELECT kilos FROM pellet_order WHERE order_no = 26041";
        String write = "UPDATE pellet_order SET kilos = 1 WHERE order_no = 26041";
        try (Session a = begin(Isolation.READ_COMMITTED);
                Session b = begin(Isolation.READ_COMMITTED)) {
            ask(a, read);
            ask(b, read);
            change(a, write);
            a.commit();
            change(b, write);
            b.commit();
        }
        assertThat(kilos(engine)).as("read committed loses it on both").isEqualTo("1.00");
        Bed.sql(engine, "orders", "UPDATE pellet_order SET kilos = 0");
        try (Session a = begin(Isolation.REPEATABLE_READ);
                Session b = begin(Isolation.REPEATABLE_READ)) {
            ask(a, read);
            ask(b, read);
            change(a, write);
            a.commit();
            StoreProblem refused = catchThrowableOfType(StoreProblem.class, () -> {
                change(b, "UPDATE pellet_order SET kilos = kilos + 1 WHERE order_no = 26041");
                b.commit();
            });
            if (engine == Engine.POSTGRESQL) {
                assertThat(refused.kind()).isEqualTo(StoreProblem.Kind.CLASHED);
                assertThat(kilos(engine)).isEqualTo("1.00");
            } else if (refused == null) {
                // A change sees what is committed, whatever was read before (InnoDB without innodb_snapshot_isolation).
                assertThat(kilos(engine)).isEqualTo("2.00");
            } else {
                // With innodb_snapshot_isolation, as it is by default from 11.6 on: record has changed since last read.
                assertThat(refused.kind()).isEqualTo(StoreProblem.Kind.CLASHED);
                assertThat(kilos(engine)).isEqualTo("1.00");
            }
        }
    }

    /** The same question asked twice, with a row put between. */
    @ParameterizedTest
    @EnumSource
    void aPhantom(Engine engine) throws Exception {
        open(engine);
        String count = "SELECT COUNT(*) FROM lot";
        for (Isolation level : Isolation.values()) {
            Bed.sql(engine, "orders", "DELETE FROM lot");
            try (Session a = begin(level)) {
                assertThat(((Number) ask(a, count)).intValue()).isZero();
                CompletableFuture<Void> other = CompletableFuture.runAsync(() -> {
                    try {
                        Bed.sql(engine, "orders", "INSERT INTO lot VALUES ('P', 1, 1)");
                    } catch (Exception no) {
                        throw new IllegalStateException(no);
                    }
                });
                if (level == Isolation.SERIALIZABLE && engine == Engine.MARIADB) {
                    // What was read is locked: the other one waits.
                    assertThat(catchThrowableOfType(
                                    java.util.concurrent.TimeoutException.class,
                                    () -> other.get(300, TimeUnit.MILLISECONDS)))
                            .isNotNull();
                } else {
                    other.get(60, TimeUnit.SECONDS);
                }
                assertThat(((Number) ask(a, count)).intValue())
                        .as(engine + " " + level)
                        .isEqualTo(level == Isolation.READ_COMMITTED ? 1 : 0);
                a.commit();
                other.get(60, TimeUnit.SECONDS);
            }
        }
    }

    /** Each may leave as long as the other stays: both look, both leave. */
    @ParameterizedTest
    @EnumSource
    void writeSkew(Engine engine) throws Exception {
        open(engine);
        assertThat(skew(engine, Isolation.REPEATABLE_READ)).as("both have left").isZero();
        Bed.sql(engine, "orders", "UPDATE duty SET present = 1");
        assertThat(skew(engine, Isolation.SERIALIZABLE)).as("one was refused").isEqualTo(1);
    }

    private int skew(Engine engine, Isolation level) throws Exception {
        String all = "SELECT SUM(present) FROM duty";
        try (Session a = begin(level);
                Session b = begin(level)) {
            assertThat(((Number) ask(a, all)).intValue()).isEqualTo(2);
            assertThat(((Number) ask(b, all)).intValue()).isEqualTo(2);
            CompletableFuture<StoreProblem> first = leaves(a, "one");
            CompletableFuture<StoreProblem> second = leaves(b, "two");
            for (CompletableFuture<StoreProblem> each : List.of(first, second)) {
                StoreProblem refused = each.get(60, TimeUnit.SECONDS);
                if (refused != null) {
                    assertThat(refused.kind()).isEqualTo(StoreProblem.Kind.CLASHED);
                }
            }
        }
        return Integer.parseInt(
                Bed.ask(engine, "orders", "SELECT SUM(present) FROM duty").get(0));
    }

    private static CompletableFuture<StoreProblem> leaves(Session session, String who) {
        return CompletableFuture.supplyAsync(() -> {
            try {
                change(session, "UPDATE duty SET present = 0 WHERE person = '" + who + "'");
                session.commit();
                return null;
            } catch (StoreProblem refused) {
                session.close();
                return refused;
            } catch (Exception unexpected) {
                throw new IllegalStateException(unexpected);
            }
        });
    }
}
