package dachshund.office.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.secret.SecretBox;
import dachshund.engine.Engine;
import dachshund.engine.local.LocalStore;
import dachshund.office.own.OwnDatabase;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.springframework.jdbc.core.simple.JdbcClient;

class AuditTest {

    private static final Instant NOW = Instant.parse("2026-03-28T23:30:00.123456Z");
    private static final SecretBox KEY = new SecretBox(new byte[32]);
    private static PrivateMariaDb server;
    private static HikariDataSource pool;

    @TempDir
    Path folder;

    private final OwnDatabase answering = mock(OwnDatabase.class);
    private JdbcClient jdbc;
    private LocalStore local;
    private Audit audit;

    @BeforeAll
    static void start() {
        server = new PrivateMariaDb();
        pool = new HikariDataSource();
        pool.setJdbcUrl(server.url("audit") + "&createDatabaseIfNotExist=true&timezone=UTC");
        Flyway.configure().dataSource(pool).load().migrate();
    }

    @AfterAll
    static void end() {
        pool.close();
        server.close();
    }

    @BeforeEach
    void one() {
        jdbc = JdbcClient.create(pool);
        jdbc.sql("DELETE FROM audit").update();
        local = new LocalStore(folder.resolve("local.db"));
        when(answering.answers()).thenReturn(true);
        audit = audit(local);
    }

    @AfterEach
    void close() {
        local.close();
    }

    private Audit audit(LocalStore of) {
        Engine engine = mock(Engine.class);
        when(engine.local()).thenReturn(of);
        return new Audit(pool, () -> NOW, answering, KEY, engine);
    }

    private void notes(int count) {
        for (int i = 0; i < count; i++) {
            audit.note("engineer", "released", "release " + i);
        }
    }

    private long count() {
        return jdbc.sql("SELECT COUNT(*) FROM audit").query(Long.class).single();
    }

    @Test
    void whatIsNotedIsThereAndWhole() {
        notes(5);
        assertThat(count()).isEqualTo(5);
        assertThat(audit.check().broken()).isEmpty();
        assertThat(audit.checked().entries()).isEqualTo(5);
    }

    @Test
    void whatSomebodyWithTheDatabaseAltersIsFound() {
        notes(9);
        jdbc.sql("UPDATE audit SET who = 'viewer' WHERE id = 4").update();
        assertThat(audit.check().broken()).startsWith("Entry 4 was altered");
        jdbc.sql("DELETE FROM audit WHERE id = 4").update();
        assertThat(audit.check().broken()).isEqualTo("Entry 4 is missing.");
    }

    @Test
    void aTableThatLostAllItsChecksumsIsNotMadeToFitAgain() {
        notes(5);
        jdbc.sql("UPDATE audit SET sum = NULL, who = 'viewer'").update();
        notes(1);
        assertThat(audit.check().broken()).startsWith("Entry 1 was altered");
    }

    @Test
    void whatWasCutOffIsMissedAndStaysMissedWhenMoreIsNoted() {
        notes(5);
        jdbc.sql("DELETE FROM audit WHERE id > 3").update();
        assertThat(audit.check().broken()).isEqualTo("It was cut off: entry 5 was there.");
        notes(3);
        assertThat(audit.check().broken()).as("the chain itself is whole again").isEmpty();
        assertThat(jdbc.sql("SELECT detail FROM audit WHERE what = 'found the audit altered'")
                        .query(String.class)
                        .list())
                .as("and says for good what was found, once")
                .containsExactly("It was cut off: entry 5 was there.");
    }

    @Test
    void whatIsNotedWhileTheDatabaseIsAwayWaitsOnDiskAndIsThereOnceInOrder() {
        notes(1);
        when(answering.answers()).thenReturn(false);
        notes(3);
        assertThat(count()).isEqualTo(1);
        assertThat(audit.waiting()).isEqualTo(3);
        // The process ends, and one of them has landed without that being known.
        String mark = local.waiting().first(Audit.WAITS, 1).keySet().iterator().next();
        when(answering.answers()).thenReturn(true);
        Audit next = audit(local);
        assertThat(next.waiting()).isEqualTo(3);
        next.bringIn();
        local.waiting()
                .add(
                        Audit.WAITS,
                        mark,
                        Audit.text(new AuditTable.Deed(mark, NOW, "engineer", "released", "release 0")));
        next.bringIn();
        assertThat(next.waiting()).isZero();
        assertThat(jdbc.sql("SELECT detail FROM audit ORDER BY id")
                        .query(String.class)
                        .list())
                .containsExactly("release 0", "release 0", "release 1", "release 2");
        assertThat(next.check().broken()).isEmpty();
    }

    @Test
    void aDatabaseThatRefusesLosesNoEntry() {
        jdbc.sql("ALTER TABLE audit RENAME TO elsewhere").update();
        notes(2);
        assertThat(audit.waiting()).isEqualTo(2);
        jdbc.sql("ALTER TABLE elsewhere RENAME TO audit").update();
        audit.bringIn();
        assertThat(count()).isEqualTo(2);
    }

    @Test
    void anEntryThatIsNeverTakenHoldsUpNoOther() {
        jdbc.sql("ALTER TABLE audit ADD CONSTRAINT none_of_these CHECK (detail <> 'release 0')")
                .update();
        try {
            notes(3);
            assertThat(audit.waiting()).isEqualTo(3);
            for (int i = 0; i < 5; i++) {
                audit.bringIn();
            }
            assertThat(audit.waiting()).isZero();
            assertThat(jdbc.sql("SELECT detail FROM audit ORDER BY id")
                            .query(String.class)
                            .list())
                    .satisfiesExactly(
                            first -> assertThat(first).startsWith("It is in the log."),
                            second -> assertThat(second).isEqualTo("release 1"),
                            third -> assertThat(third).isEqualTo("release 2"));
            assertThat(audit.check().broken()).isEmpty();
        } finally {
            jdbc.sql("ALTER TABLE audit DROP CONSTRAINT none_of_these").update();
        }
    }

    @Test
    void whatIsInTheTableIsNotSaidToBeInTheLogAloneWhereTheLocalDiskFailsAfterwards() {
        LocalStore failing = mock(LocalStore.class);
        when(failing.remembered(Audit.HEAD)).thenReturn(Optional.empty());
        when(failing.waiting()).thenReturn(local.waiting());
        doThrow(mock(LocalStore.LocalStoreFailed.class)).when(failing).remember(eq(Audit.HEAD), anyString());
        Audit there = audit(failing);
        there.note("engineer", "released", "release 0");
        assertThat(count()).isEqualTo(1);
        assertThat(there.waiting()).isZero();
        assertThat(there.inLogAlone()).isZero();
    }

    @Test
    void withoutDatabaseAndDiskItIsCountedThatTheLogAloneHasIt() {
        when(answering.answers()).thenReturn(false);
        local.close();
        notes(2);
        assertThat(audit.inLogAlone()).isEqualTo(2);
    }

    @Test
    void entriesOfBeforeAreNumberedAndSummedOnce() {
        for (int id : new int[] {3, 7, 8}) {
            jdbc.sql("INSERT INTO audit (id, at, who, what, detail) VALUES (?, '2025-01-01', 'admin', 'did', ?)")
                    .params(id, "old " + id)
                    .update();
        }
        notes(1);
        assertThat(jdbc.sql("SELECT id FROM audit ORDER BY id")
                        .query(Long.class)
                        .list())
                .containsExactly(1L, 2L, 3L, 4L);
        assertThat(audit.check().broken()).isEmpty();
    }

    @Test
    void entriesOfBeforeAreNotSaidToBeAlteredBeforeAnythingElseIsNoted() {
        for (int id : new int[] {3, 7}) {
            jdbc.sql("INSERT INTO audit (id, at, who, what, detail) VALUES (?, '2025-01-01', 'admin', 'did', ?)")
                    .params(id, "old " + id)
                    .update();
        }
        assertThat(audit.check().broken()).isEmpty();
        assertThat(audit.checked().entries()).isEqualTo(3);
        jdbc.sql("UPDATE audit SET sum = NULL").update();
        assertThat(audit.check().broken()).as("once begun").isNotEmpty();
    }

    @Test
    void textsOfAnyKindReadBackAsTheyWereSummed() {
        audit.note("x".repeat(300), "\ud800 alone", "🦡".repeat(3000) + "\0\n'\"\\");
        audit.note("", "", "");
        audit.note("trailing ", " spaces ", "  ");
        audit.note("ｆｕｌｌ", "é", "e\u0301");
        assertThat(audit.check().broken()).isEmpty();
        assertThat(count()).isEqualTo(4);
    }

    @Test
    void twoProgramsOnOneDatabaseMakeOneChain() throws Exception {
        LocalStore other = new LocalStore(folder.resolve("other.db"));
        List<Audit> both = List.of(audit, audit(other));
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < 4; i++) {
            Audit mine = both.get(i % 2);
            Thread thread = new Thread(() -> Stream.iterate(0, n -> n + 1)
                    .limit(40)
                    .forEach(n -> mine.note("engineer", "released", "release " + n)));
            threads.add(thread);
            thread.start();
        }
        for (Thread thread : threads) {
            thread.join();
        }
        both.forEach(Audit::bringIn);
        assertThat(count()).isEqualTo(160);
        assertThat(audit.check().broken()).isEmpty();
        other.close();
    }

    @Test
    void attemptsWithoutEndFillNoTable() {
        for (int i = 0; i < 300; i++) {
            audit.noteTried("somebody " + i, "failed to sign in", "from afar");
        }
        assertThat(count()).isEqualTo(101);
        assertThat(jdbc.sql("SELECT what FROM audit ORDER BY id DESC LIMIT 1")
                        .query(String.class)
                        .single())
                .isEqualTo("does not list all attempts");
        audit.note("admin", "added a person", "what is done is always noted");
        assertThat(count()).isEqualTo(102);
    }

    @Test
    void whatIsTriedOverAndOverIsNotedOnceInAWhile() {
        for (int i = 0; i < 20; i++) {
            audit.noteOnce("viewer", "was refused", "POST /release");
        }
        audit.noteOnce("viewer", "was refused", "POST /people");
        assertThat(count()).isEqualTo(2);
    }
}
