package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.lane.LaneState;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Something is done for each new row of a table that others write. */
class TransactionRowsTest {

    @TempDir
    Path folder;

    private static When.OnNewRow samples(Duration back, long lower, String order) {
        return new When.OnNewRow("dddd0001", "sample", List.of("id"), order, back, lower, Duration.ofMillis(200));
    }

    private static When.OnNewRow byNumber() {
        return samples(Duration.ZERO, 100, "id");
    }

    private static TransactionDefinition of(When.OnNewRow rows, boolean hold) {
        return Bed.lotEnds()
                .withWhens(List.of(rows))
                .withGathers(List.of())
                .withSteps(List.of(new Step.Put(
                        "freed",
                        "",
                        Step.Deed.INSERT,
                        "freed",
                        List.of(
                                new Step.Cell("id", "row_id", false),
                                new Step.Cell("lot_id", "row_lot_id", false),
                                new Step.Cell("good", "row_moisture < 10", false)),
                        1,
                        1,
                        "")))
                .withAnswer(Answer.NONE)
                .withPolicy(Bed.ONE_TRY.queuing(50).holding(hold), List.of("row_lot_id"));
    }

    private static void fresh(Engine engine) throws Exception {
        Bed.fresh(engine);
        String number = engine == Engine.MARIADB ? "BIGINT AUTO_INCREMENT PRIMARY KEY" : "BIGSERIAL PRIMARY KEY";
        String stamp = engine == Engine.MARIADB ? "DATETIME(6)" : "TIMESTAMPTZ(6)";
        for (String sql : List.of(
                "DROP TABLE IF EXISTS sample",
                "DROP TABLE IF EXISTS elsewhere",
                "DROP TABLE IF EXISTS freed",
                "CREATE TABLE sample (id " + number + ", lot_id VARCHAR(20), moisture DECIMAL(5,2), taken " + stamp
                        + ")",
                "CREATE TABLE freed (id BIGINT NOT NULL, lot_id VARCHAR(20), good BOOLEAN)",
                "INSERT INTO sample (lot_id, moisture, taken) VALUES ('old', 9, '2026-11-28 10:00:00')")) {
            Bed.sql(engine, "orders", sql);
        }
    }

    private static void sample(Statement client, String lot, double moisture, String taken) throws Exception {
        client.execute("INSERT INTO sample (lot_id, moisture, taken) VALUES ('" + lot + "', " + moisture
                + ", '2026-11-28 " + taken + "')");
    }

    private static void sample(Engine engine, String lot) throws Exception {
        Bed.sql(engine, "orders", "INSERT INTO sample (lot_id, moisture) VALUES ('" + lot + "', 9)");
    }

    private static Connection client(Engine engine) throws Exception {
        Connection connection = DriverManager.getConnection(engine.url("orders"));
        connection.setAutoCommit(false);
        return connection;
    }

    private static List<String> freed(Bed bed) throws Exception {
        return bed.ask("SELECT lot_id FROM freed ORDER BY lot_id");
    }

    private static TransactionStatus status(Bed bed) {
        return bed.transactions.status("cccc0001").orElseThrow();
    }

    /** As the places of a table are called on our own disk. */
    private static String what(String transaction, String order) {
        return String.join("\n", transaction, "dddd0001", "sample", order, "[id]");
    }

    /** What stood in the table before is known. */
    private static void begun(Bed bed) {
        String order = status(bed).design().newRows().get(0).order();
        soon(() -> bed.local.foundRows().place(what("cccc0001", order)).isPresent());
    }

    /** Two clients: the one that began first commits last, with a lower number and an earlier time, and an equal one. */
    @ParameterizedTest
    @EnumSource
    void aRowThatIsCommittedLateIsTakenOnce(Engine engine) throws Exception {
        for (When.OnNewRow rows : List.of(byNumber(), samples(Duration.ofMinutes(5), 0, "taken"))) {
            fresh(engine);
            Path own = folder.resolve(rows.order());
            try (Connection early = client(engine);
                    Connection late = client(engine);
                    Statement earlier = early.createStatement();
                    Statement later = late.createStatement()) {
                try (Bed bed = new Bed(engine, own)) {
                    bed.live(of(rows, false));
                    begun(bed);
                    sample(earlier, "a-early", 9, "10:01:00");
                    sample(earlier, "b-equal", 9, "10:02:00");
                    sample(later, "c-late", 11, "10:02:00");
                    late.commit();
                    soon(() -> freed(bed).equals(List.of("c-late")));
                    early.commit();
                    soon(() -> freed(bed).size() == 3);
                    soon(() -> bed.runs.size() == 3);
                    Run run = bed.runs.get(0);
                    assertThat(run.keys()).containsEntry("row_lot_id", "c-late");
                    assertThat(run.why()).isEqualTo("row 4 of sample");
                    assertThat(run.snapshot()).containsKey("row_moisture");
                }
                // Away, and back: what came meanwhile is taken, what was taken is not.
                sample(later, "d-meanwhile", 9, "10:03:00");
                late.commit();
                try (Bed again = new Bed(engine, own)) {
                    again.live(of(rows, false));
                    soon(() -> freed(again).size() == 4);
                    sample(later, "e-next", 9, "10:03:00");
                    late.commit();
                    soon(() -> again.runs.size() == 2);
                    assertThat(freed(again)).containsExactly("a-early", "b-equal", "c-late", "d-meanwhile", "e-next");
                    assertThat(again.ask("SELECT lot_id FROM freed WHERE NOT good"))
                            .containsExactly("c-late");
                    assertThat(again.runs).extracting(Run::outcome).containsOnly(Outcome.DONE);
                }
            }
        }
    }

    /** Some clock is ten years ahead, or somebody plans ahead: what comes in its time is found all the same. */
    @ParameterizedTest
    @EnumSource
    void aRowWhoseTimeIsAheadLeavesNoneBehind(Engine engine) throws Exception {
        for (boolean before : List.of(true, false)) {
            fresh(engine);
            Path own = folder.resolve("before" + before);
            String ahead = "INSERT INTO sample (lot_id, moisture, taken) VALUES ('ahead', 9, '2099-01-01 00:00:00')";
            if (before) {
                Bed.sql(engine, "orders", ahead);
            }
            try (Connection connection = client(engine);
                    Statement client = connection.createStatement()) {
                connection.setAutoCommit(true);
                try (Bed bed = new Bed(engine, own)) {
                    bed.live(of(samples(Duration.ofMinutes(5), 0, "taken"), false));
                    begun(bed);
                    if (!before) {
                        client.execute(ahead);
                        soon(() -> freed(bed).equals(List.of("ahead")));
                    }
                    sample(client, "b-next", 9, "10:01:00");
                    soon(() -> freed(bed).contains("b-next"));
                    sample(client, "c-late", 9, "09:57:00");
                    soon(() -> freed(bed).contains("c-late"));
                }
                try (Bed again = new Bed(engine, own)) {
                    again.live(of(samples(Duration.ofMinutes(5), 0, "taken"), false));
                    sample(client, "d-last", 9, "10:03:00");
                    soon(() -> freed(again).contains("d-last"));
                    List<String> all = List.of("b-next", "c-late", "d-last");
                    assertThat(freed(again))
                            .containsExactlyElementsOf(before ? all : List.of("ahead", "b-next", "c-late", "d-last"));
                }
            }
        }
    }

    /** No time at all, as some drivers and some people write it: the others are taken, and it is said. */
    @Test
    void aRowThatStandsNowhereIsPassedOver() throws Exception {
        fresh(Engine.MARIADB);
        Bed.sql(Engine.MARIADB, "orders", "DELETE FROM sample");
        try (Connection connection = client(Engine.MARIADB);
                Statement client = connection.createStatement();
                Bed bed = new Bed(Engine.MARIADB, folder)) {
            connection.setAutoCommit(true);
            client.execute("SET sql_mode = ''");
            bed.live(of(samples(Duration.ofMinutes(5), 0, "taken"), false));
            begun(bed);
            client.execute("INSERT INTO sample (lot_id, moisture, taken) VALUES ('zero', 9, '0000-00-00')");
            sample(client, "a", 9, "10:01:00");
            soon(() -> freed(bed).equals(List.of("a")));
            soon(() -> status(bed).sentence().contains("is passed over, and those that stand somewhere are taken"));
            client.execute("DELETE FROM sample WHERE lot_id = 'zero'");
            soon(() -> status(bed).state() == LaneState.RECORDING);
        }
    }

    /** The end of all times, as PostgreSQL has it: behind every other, before anything was looked at and later. */
    @Test
    void aRowThatStandsBehindAllTimesIsPassedOver() throws Exception {
        fresh(Engine.POSTGRESQL);
        try (Connection connection = client(Engine.POSTGRESQL);
                Statement client = connection.createStatement();
                Bed bed = new Bed(Engine.POSTGRESQL, folder)) {
            connection.setAutoCommit(true);
            client.execute("INSERT INTO sample (lot_id, moisture, taken) VALUES ('end', 9, 'infinity')");
            bed.live(of(samples(Duration.ofMinutes(5), 0, "taken"), false));
            begun(bed);
            sample(client, "a", 9, "10:01:00");
            soon(() -> freed(bed).equals(List.of("a")));
            soon(() -> status(bed).sentence().contains("holds \"infinity\""));
        }
    }

    /** A number that somebody typed: nobody can tell which of the others are new, and that is said. */
    @Test
    void aNumberFarAheadOfTheOthersIsSaid() throws Exception {
        fresh(Engine.POSTGRESQL);
        try (Bed bed = new Bed(Engine.POSTGRESQL, folder)) {
            bed.live(of(byNumber(), false));
            begun(bed);
            Bed.sql(
                    Engine.POSTGRESQL,
                    "orders",
                    "INSERT INTO sample (id, lot_id, moisture) VALUES (9000000, 'typed', 9)");
            soon(() -> freed(bed).equals(List.of("typed")));
            soon(() -> {
                sample(Engine.POSTGRESQL, "next");
                Thread.sleep(500);
                return status(bed).sentence().contains("come that stand before all that is looked at");
            });
            assertThat(status(bed).state()).isEqualTo(LaneState.FAULTED);
            Bed.sql(
                    Engine.POSTGRESQL,
                    "orders",
                    "INSERT INTO sample (id, lot_id, moisture) VALUES (9000001, 'found', 9)");
            soon(() -> freed(bed).contains("found"));
            soon(() -> status(bed).state() == LaneState.RECORDING);
        }
    }

    /** All rows of a table are ahead, and it was empty before. */
    @Test
    void whereAllRowsAreAheadEachIsTakenOnce() throws Exception {
        fresh(Engine.MARIADB);
        Bed.sql(Engine.MARIADB, "orders", "DELETE FROM sample");
        try (Connection connection = client(Engine.MARIADB);
                Statement client = connection.createStatement()) {
            connection.setAutoCommit(true);
            for (int life = 0; life < 2; life++) {
                try (Bed bed = new Bed(Engine.MARIADB, folder)) {
                    bed.live(of(samples(Duration.ofMinutes(5), 0, "taken"), false));
                    begun(bed);
                    client.execute("INSERT INTO sample (lot_id, moisture, taken) VALUES ('ahead" + life
                            + "', 9, '2099-01-01 00:00:00')");
                    int many = life + 1;
                    soon(() -> freed(bed).size() == many);
                }
            }
            try (Bed bed = new Bed(Engine.MARIADB, folder)) {
                assertThat(freed(bed)).containsExactly("ahead0", "ahead1");
            }
        }
    }

    /** One engine: marks are tried on both elsewhere. */
    @Test
    void killedAnywhereEachRowIsDoneOnce() throws Exception {
        Engine engine = Engine.MARIADB;
        boolean survived = false;
        for (int at = 1; !survived; at++) {
            fresh(engine);
            Dying dying = Dying.still(at);
            Path own = folder.resolve("at" + at);
            TransactionDefinition design = of(byNumber(), true);
            try (Bed bed = dying.bed(engine, own, new Bed.Controller())) {
                bed.live(design);
                begun(bed);
                Bed.sql(engine, "orders", "INSERT INTO sample (lot_id, moisture) VALUES ('a', 9), ('b', 9)");
                soon(() -> dying.dead() || bed.runs.size() == 2);
            }
            survived = !dying.dead();
            try (Bed again = new Bed(engine, own)) {
                again.live(design);
                sample(engine, "c");
                soon(() -> freed(again).contains("c"));
                assertThat(freed(again)).as("killed at " + at).containsExactly("a", "b", "c");
            }
            assertThat(at).isLessThan(40);
        }
    }

    /** A database that is away: what came is held, and done in its order. */
    @ParameterizedTest
    @EnumSource
    void whatFailsForAPassingReasonIsHeldAndDoneInOrder(Engine engine) throws Exception {
        fresh(engine);
        CountDownLatch back = new CountDownLatch(1);
        try (Bed bed = new Bed(engine, folder, new Bed.Controller(), Dying.away(back))) {
            bed.live(of(byNumber(), true));
            begun(bed);
            for (int i = 1; i <= 20; i++) {
                sample(engine, "L" + (10 + i));
            }
            soon(() -> status(bed).state() == LaneState.HOLDING);
            assertThat(status(bed).sentence())
                    .startsWith("Held for ")
                    .endsWith("and done in order as soon as it can be: It does not answer.");
            back.countDown();
            soon(() -> bed.runs.size() == 20);
            assertThat(freed(bed)).hasSize(20);
            assertThat(bed.runs).extracting(run -> run.keys().get("row_lot_id")).isEqualTo(freed(bed));
            assertThat(bed.runs).extracting(Run::outcome).containsOnly(Outcome.DONE);
            soon(() -> status(bed).state() == LaneState.RECORDING);
        }
    }

    /** What fails for good has failed, and the next one is done. */
    @Test
    void oneThatCannotBeDoneStandsInNobodysWay() throws Exception {
        fresh(Engine.MARIADB);
        Bed.sql(Engine.MARIADB, "orders", "ALTER TABLE freed ADD UNIQUE (lot_id)");
        try (Bed bed = new Bed(Engine.MARIADB, folder)) {
            bed.live(of(byNumber(), true));
            begun(bed);
            for (String lot : List.of("a", "a", "b")) {
                sample(Engine.MARIADB, lot);
            }
            soon(() -> bed.runs.size() == 3);
            assertThat(bed.runs).extracting(Run::outcome).containsExactly(Outcome.DONE, Outcome.FAILED, Outcome.DONE);
            assertThat(freed(bed)).containsExactly("a", "b");
        }
    }

    /** What cannot be looked through says so, and is looked through once it can be; a flood waits in its table. */
    @Test
    void tablesThatAreNotThereOddOnesAndFloods() throws Exception {
        fresh(Engine.MARIADB);
        Bed.sql(Engine.MARIADB, "orders", "RENAME TABLE sample TO elsewhere");
        try (Bed bed = new Bed(Engine.MARIADB, folder)) {
            bed.live(of(byNumber(), false));
            soon(() -> status(bed).sentence().startsWith("New rows of sample cannot be looked for."));
            assertThat(status(bed).state()).isEqualTo(LaneState.FAULTED);
            Bed.sql(Engine.MARIADB, "orders", "CREATE TABLE sample LIKE elsewhere");
            begun(bed);
            Bed.sql(
                    Engine.MARIADB,
                    "orders",
                    "INSERT INTO sample (lot_id, moisture) SELECT CONCAT('F', seq), 9 FROM seq_1_to_400");
            soon(() -> bed.runs.size() == 400);
            assertThat(freed(bed)).hasSize(400);
            assertThat(bed.runs).extracting(Run::outcome).containsOnly(Outcome.DONE);
            soon(() -> status(bed).state() == LaneState.RECORDING);
            // Numbered anew, far behind the last one: nothing of it would be found, and that is said.
            Bed.sql(Engine.MARIADB, "orders", "TRUNCATE TABLE sample");
            sample(Engine.MARIADB, "anew");
            soon(() -> status(bed).sentence().contains("or are numbered anew"));
            // A try says beforehand what could not be looked through.
            assertThat(bed.tried(of(samples(Duration.ZERO, 100, "lot_id"), false), bed.plant, Map.of())
                            .problem())
                    .contains("has to be a number or a time");
            When.OnNewRow odd = byNumber();
            assertThat(bed.tried(
                                    of(
                                            new When.OnNewRow(
                                                    odd.database(),
                                                    odd.table(),
                                                    List.of("nokey"),
                                                    odd.order(),
                                                    odd.back(),
                                                    odd.lower(),
                                                    odd.every()),
                                            false),
                                    bed.plant,
                                    Map.of())
                            .problem())
                    .contains("There is no column nokey.");
            // Texts cannot stand one behind the other.
            bed.live(of(samples(Duration.ZERO, 100, "lot_id"), false));
            soon(() -> status(bed).sentence().contains("has to be a number or a time"));
        }
    }

    /** What is on our own disk cannot be read: that one says so, and another goes on. */
    @Test
    void aPlaceThatCannotBeReadStopsNobodyElse() throws Exception {
        fresh(Engine.MARIADB);
        TransactionDefinition other = Bed.lotEnds();
        try (Bed bed = new Bed(Engine.MARIADB, folder)) {
            bed.local.foundRows().goOn(what("cccc0009", "id"), "what is this", Map.of(), List.of());
            TransactionDefinition rows = of(byNumber(), false);
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.set(Bed.NUMBER, 0L);
            bed.live(
                    new TransactionDefinition(
                            "cccc0009",
                            "Unreadable",
                            "",
                            rows.whens(),
                            rows.gate(),
                            rows.gathers(),
                            rows.database(),
                            rows.isolation(),
                            rows.mark(),
                            rows.steps(),
                            rows.answer(),
                            rows.policy(),
                            rows.keys()),
                    other);
            TransactionStatus stands = bed.transactions.status("cccc0009").orElseThrow();
            assertThat(stands.state()).isEqualTo(LaneState.FAULTED);
            assertThat(stands.sentence()).startsWith("New rows are not looked for");
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DONE);
        }
    }

    /** The account makes no table of ours: at most once, and a person is asked. */
    @Test
    void withoutAMarkOneOfWhichNobodyKnowsWaitsForAPerson() throws Exception {
        fresh(Engine.MARIADB);
        TransactionDefinition design = of(byNumber(), false);
        TransactionDefinition bare = design.withDatabase(design.database(), design.isolation(), false);
        try (Bed bed = new Bed(Engine.MARIADB, folder, new Bed.Controller(), Dying.atCommit(true))) {
            bed.live(bare);
            begun(bed);
            sample(Engine.MARIADB, "a");
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.UNCERTAIN);
            assertThat(status(bed).uncertain()).hasSize(1);
        }
        try (Bed again = new Bed(Engine.MARIADB, folder, new Bed.Controller(), UnaryOperator.identity())) {
            again.live(bare);
            sample(Engine.MARIADB, "b");
            soon(() -> again.runs.size() == 1);
            assertThat(freed(again)).containsExactly("a", "b");
        }
    }
}
