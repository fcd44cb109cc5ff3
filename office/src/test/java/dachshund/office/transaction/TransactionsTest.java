package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.engine.transaction.TriedOut;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Transactions between a plant with a handshake and real databases. */
class TransactionsTest {

    @TempDir
    Path folder;

    @ParameterizedTest
    @EnumSource
    void whatItDoesIsWhatTheSameStatementsOfAnotherClientDo(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.sql(engine, "orders", "INSERT INTO lot VALUES ('PL1-1', 26041, 1234.5), ('PL1-2', 26041, 800)");
        Bed.sql(engine, "orders", "UPDATE pellet_order SET kilos = kilos + 2034.5 WHERE order_no = 26041");
        List<String> lots = Bed.ask(engine, "orders", "SELECT * FROM lot ORDER BY lot_id");
        List<String> orders = Bed.ask(engine, "orders", "SELECT * FROM pellet_order ORDER BY order_no");
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.NUMBER, 0L);
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(Bed.lotEnds());
            bed.controller.asks(17, "PL1-1", 1234.5);
            soon(() -> Long.valueOf(17).equals(bed.controller.get(Bed.ECHO)));
            bed.controller.asks(18, "PL1-2", 800.0);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.ask("SELECT * FROM lot ORDER BY lot_id")).isEqualTo(lots);
            assertThat(bed.ask("SELECT * FROM pellet_order ORDER BY order_no")).isEqualTo(orders);
            // The set point is written after the commit, and the number of the request last of all.
            assertThat(bed.controller.written)
                    .containsExactly(
                            "set point=34.5",
                            "code=1",
                            "text=order 26041",
                            "echo=17",
                            "set point=34.5",
                            "code=1",
                            "text=order 26041",
                            "echo=18");
            Run run = bed.runs.get(0);
            assertThat(run.outcome()).isEqualTo(Outcome.DONE);
            assertThat(run.keys())
                    .containsEntry("lot", "PL1-1")
                    .containsEntry("ord_order_no", "26041")
                    .containsEntry("request", "17");
            assertThat(run.steps()).extracting(StepRun::rows).containsExactly(1L, 1L, 1L, -1L);
            assertThat(run.steps().get(2).values()).containsEntry("kilos", "1234.5");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aRequestThatComesAgainIsAnsweredAgainAndNotDoneAgain(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.asks(17, "PL1-1", 100);
        try (Bed bed = new Bed(engine, folder, controller, each -> each)) {
            bed.live(Bed.lotEnds()); // it waits at the start
            soon(() -> bed.runs.size() == 1);
            controller.set(Bed.ECHO, 0L); // the controller has lost the answer, and asks again
            controller.set(Bed.NUMBER, 0L);
            controller.set(Bed.NUMBER, 17L);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs).extracting(Run::outcome).containsExactly(Outcome.DONE, Outcome.ALREADY);
            assertThat(controller.get(Bed.TEXT)).isEqualTo("order 26041");
        }
        try (Bed again = new Bed(engine, folder, controller, each -> each)) {
            controller.set(Bed.ECHO, 0L);
            again.live(Bed.lotEnds());
            soon(() -> again.runs.size() == 1);
            assertThat(again.runs.get(0).outcome()).isEqualTo(Outcome.ALREADY);
            assertThat(again.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
            assertThat(again.ask("SELECT kilos FROM pellet_order WHERE order_no = 26041"))
                    .containsExactly("100.00");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aNumberUsedAgainIsNewWhereTheControllerCountsAnew(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.set(Bed.NUMBER, 0L);
            bed.controller.set(Bed.EPOCH, 1L);
            bed.live(Bed.lotEnds()
                    .withWhens(List.of(new When.OnRequest(Bed.NUMBER, Optional.of(Bed.EPOCH), Optional.of(Bed.ECHO)))));
            bed.controller.asks(1, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            bed.controller.set(Bed.NUMBER, 0L);
            bed.controller.set(Bed.EPOCH, 2L);
            bed.controller.asks(1, "PL1-2", 50);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.ask("SELECT lot_id FROM lot ORDER BY lot_id")).containsExactly("PL1-1", "PL1-2");
            assertThat(bed.ask("SELECT request FROM dachshund_done ORDER BY request"))
                    .containsExactly("1/1", "2/1");
        }
    }

    @ParameterizedTest
    @EnumSource
    void nothingOfARunIsThereWhoseLastStepFails(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition bad = withStep(
                Bed.lotEnds(),
                2,
                new Step.Statement(
                        "progress", "", "UPDATE pellet_order SET kilos = kilos + :kilos WHERE order_no = 1", 1, 1, ""));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(bad);
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).reason())
                    .isEqualTo("Step progress: It touched no row, and one row at least is needed.");
            assertThat(bed.controller.written)
                    .containsExactly(
                            "code=3",
                            "text=Step progress: It touched no row, and one row at least is needed.",
                            "echo=17");
            assertThat(bed.ask("SELECT * FROM lot")).isEmpty();
            assertThat(bed.ask("SELECT * FROM dachshund_done")).isEmpty();
            assertThat(bed.runs.get(0).steps())
                    .extracting(StepRun::fate)
                    .containsExactly(
                            StepRun.Fate.DONE, StepRun.Fate.DONE, StepRun.Fate.FAILED, StepRun.Fate.NOT_REACHED);
        }
    }

    private static TransactionDefinition withStep(TransactionDefinition of, int at, Step step) {
        List<Step> steps = new ArrayList<>(of.steps());
        steps.set(at, step);
        return of.withSteps(steps);
    }

    @ParameterizedTest
    @EnumSource
    void moreRowsThanMayBeTouchedAreNotTouched(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition wide = withStep(
                Bed.lotEnds(), 2, new Step.Statement("progress", "", "UPDATE pellet_order SET kilos = 0", 0, 1, ""));
        try (Bed bed = new Bed(engine, folder)) {
            TriedOut tried = tried(bed, wide);
            assertThat(tried.problem())
                    .isEqualTo("Step progress: It would have touched 2 rows, and one row at most may be.");
        }
    }

    private static TriedOut tried(Bed bed, TransactionDefinition design) {
        bed.controller.set(Bed.LOT, "PL1-9");
        bed.controller.set(Bed.KILOS, 10.0);
        return bed.tried(design, bed.plant, Map.of());
    }

    @ParameterizedTest
    @EnumSource
    void aTryLeavesNothingAndSaysWhatEachStepGave(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            TriedOut good = tried(bed, Bed.lotEnds());
            assertThat(good.problem()).isEmpty();
            assertThat(good.answer()).isEqualTo("order 26041");
            assertThat(good.steps())
                    .extracting(StepRun::fate)
                    .containsExactly(StepRun.Fate.DONE, StepRun.Fate.DONE, StepRun.Fate.DONE, StepRun.Fate.SHOWN);
            assertThat(good.step("ord").orElseThrow().values()).containsEntry("→ ord_order_no", "26041");
            TriedOut bad = tried(
                    bed,
                    withStep(
                            Bed.lotEnds(),
                            2,
                            new Step.Statement("progress", "", "UPDATE pellet_order SET kilo = 1", 1, 1, "")));
            assertThat(bad.problem()).startsWith("Step progress: ").contains("kilo");
            assertThat(bad.steps()).hasSize(3);
            assertThat(bed.ask("SELECT * FROM lot")).isEmpty();
            assertThat(bed.ask("SELECT kilos FROM pellet_order")).containsOnly("0.00");
            assertThat(bed.controller.written).isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource
    void aWriteThatIsRefusedMakesItDoneBut(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.refuses.put(Bed.SET_POINT, "Feed set point lies outside its range.");
            bed.live(Bed.lotEnds());
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DONE_BUT);
            assertThat(bed.controller.get(Bed.CODE)).isEqualTo(2L);
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
            assertThat(bed.ask("SELECT code, todo FROM dachshund_done")).containsExactly("2 ");
        }
    }

    @ParameterizedTest
    @EnumSource
    void anAnswerThatCannotBeGivenIsGivenOnceItCan(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.refuses.put(Bed.ECHO, "The source is away.");
            bed.live(Bed.lotEnds());
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.transactions
                    .status("cccc0001")
                    .orElseThrow()
                    .sentence()
                    .equals("The answer to request 17 cannot be given: The source is away."));
            bed.controller.refuses.clear();
            soon(() -> Long.valueOf(17).equals(bed.controller.get(Bed.ECHO)));
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).answered()).isEqualTo("given");
        }
    }

    @ParameterizedTest
    @EnumSource
    void oneThatTakesTooLongIsAnsweredInTimeAndNothingOfItComesLater(Engine engine) throws Exception {
        Bed.fresh(engine);
        Policy short1 = Bed.ONE_TRY.within(Duration.ofMillis(1500)).queuing(10);
        try (Bed bed = new Bed(engine, folder);
                Connection other = DriverManager.getConnection(engine.url("orders"));
                Statement statement = other.createStatement()) {
            other.setAutoCommit(false);
            statement.executeUpdate("UPDATE pellet_order SET line = line");
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(Bed.lotEnds().withPolicy(short1, List.of()));
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> Long.valueOf(17).equals(bed.controller.get(Bed.ECHO)));
            assertThat(bed.controller.get(Bed.CODE)).isEqualTo(3L);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.FAILED);
            other.rollback();
            bed.controller.asks(18, "PL1-2", 100);
            soon(() -> Long.valueOf(18).equals(bed.controller.get(Bed.ECHO)));
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-2");
            assertThat(bed.runs).hasSizeLessThanOrEqualTo(2);
        }
    }

    @ParameterizedTest
    @EnumSource
    void aThousandTriggersInAMomentAreDoneOrCounted(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition each = Bed.lotEnds()
                .withWhens(List.of(new When.OnIdentifier(Bed.LOT, Duration.ZERO, Duration.ZERO)))
                .withSteps(Bed.lotEnds().steps().subList(0, 3))
                .withPolicy(
                        Bed.ONE_TRY
                                .within(Bed.NO_HURRY)
                                .trying(10, Duration.ofMillis(20))
                                .atOnce(4)
                                .queuing(300),
                        List.of("lot"));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.LOT, "none");
            bed.controller.set(Bed.KILOS, 1.0);
            bed.live(each);
            for (int i = 0; i < 1000; i++) {
                bed.controller.set(Bed.LOT, "L" + i);
            }
            soon(() -> bed.runs.size() == 1000);
            long done = bed.runs.stream().filter(run -> run.outcome().stands()).count();
            assertThat(bed.runs).extracting(Run::outcome).containsOnly(Outcome.DONE, Outcome.DROPPED);
            assertThat(done).isGreaterThan(300);
            assertThat(bed.ask("SELECT COUNT(*), COUNT(DISTINCT lot_id) FROM lot"))
                    .containsExactly(done + " " + done);
            // Four at once add to one row, and no sum is lost.
            assertThat(bed.ask("SELECT kilos FROM pellet_order WHERE order_no = 26041"))
                    .containsExactly(done + ".00");
            assertThat(bed.runs.stream()
                            .filter(run -> run.outcome().stands())
                            .map(run -> run.keys().get("lot"))
                            .collect(Collectors.toSet()))
                    .hasSize((int) done);
        }
    }

    @ParameterizedTest
    @EnumSource
    void aRequestThatFindsNoRoomIsAnsweredToo(Engine engine) throws Exception {
        Bed.fresh(engine);
        Policy none =
                Bed.ONE_TRY.within(Bed.NO_HURRY).settling(Duration.ofSeconds(2)).queuing(0);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(Bed.lotEnds().withPolicy(none, List.of()));
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.transactions.find("cccc0001").orElseThrow().running() == 1);
            bed.controller.asks(18, "PL1-2", 100);
            soon(() -> Long.valueOf(18).equals(bed.controller.get(Bed.ECHO)) && !bed.runs.isEmpty());
            assertThat(bed.controller.get(Bed.CODE)).isEqualTo(3L);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DROPPED);
            assertThat(bed.runs.get(0).reason()).isEqualTo("It was not begun: 0 triggers wait already.");
        }
    }

    @ParameterizedTest
    @EnumSource
    void twoThatStandAgainstEachOtherBothEnd(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder);
                Connection other = DriverManager.getConnection(engine.url("orders"));
                Statement statement = other.createStatement()) {
            other.setAutoCommit(false);
            // The run takes order 26041 and then 26042; the other client took 26042 first and wants 26041.
            statement.executeUpdate("UPDATE pellet_order SET line = 'PL2' WHERE order_no = 26042");
            List<Step> steps = new ArrayList<>(Bed.lotEnds().steps());
            steps.add(
                    3,
                    new Step.Statement(
                            "second", "", "UPDATE pellet_order SET line = 'PL2' WHERE order_no = 26042", 1, 1, ""));
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(Bed.lotEnds().withSteps(steps));
            bed.controller.asks(17, "PL1-1", 100);
            String waiting = engine == Engine.MARIADB
                    ? "SELECT COUNT(*) FROM information_schema.innodb_lock_waits"
                    : "SELECT COUNT(*) FROM pg_locks WHERE NOT granted";
            soon(() -> {
                Thread.sleep(200); // MariaDB looks anew only where nobody has looked for 100 ms
                return !bed.ask(waiting).equals(List.of("0"));
            });
            try {
                statement.executeUpdate("UPDATE pellet_order SET line = 'PL1' WHERE order_no = 26041");
                other.commit();
            } catch (java.sql.SQLException victim) {
                other.rollback(); // one of the two had to give way
            }
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DONE);
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
            assertThat(bed.ask("SELECT kilos FROM pellet_order WHERE order_no = 26041"))
                    .containsExactly("100.00");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aProcedureThatRaisesAnErrorTakesEverythingBack(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.sql(
                engine,
                "orders",
                engine == Engine.MARIADB
                        ? "CREATE OR REPLACE PROCEDURE check_lot(IN kilos DOUBLE) BEGIN IF kilos > 500 THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'too heavy'; END IF; UPDATE pellet_order SET line = line; END"
                        : "CREATE OR REPLACE PROCEDURE check_lot(kilos DOUBLE PRECISION) LANGUAGE plpgsql AS $$ BEGIN IF kilos > 500 THEN RAISE EXCEPTION 'too heavy'; END IF; UPDATE pellet_order SET line = line; END $$");
        TransactionDefinition calls =
                withStep(Bed.lotEnds(), 2, new Step.Statement("progress", "", "CALL check_lot(:kilos)", 0, 10, ""));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(calls);
            bed.controller.asks(17, "PL1-1", 900.5);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.FAILED);
            assertThat(bed.runs.get(0).reason()).contains("too heavy");
            assertThat(bed.ask("SELECT * FROM lot")).isEmpty();
            bed.controller.asks(18, "PL1-1", 400.5);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).reason()).isEmpty();
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
        }
    }

    /** What a procedure gives out, and the rows that it selects, are known to the steps after it. */
    @ParameterizedTest
    @EnumSource
    void aProcedureGivesWhatLaterStepsUse(Engine engine) throws Exception {
        Bed.fresh(engine);
        boolean maria = engine == Engine.MARIADB;
        Bed.sql(
                engine,
                "orders",
                maria
                        ? "CREATE OR REPLACE PROCEDURE book_lot(IN id VARCHAR(20), OUT ticket INT) BEGIN INSERT INTO lot VALUES (id, 7, 1); SET ticket = 4711; SELECT 2 AS parts, 'x' AS mark UNION SELECT 3, 'y'; SELECT 9 AS parts; END"
                        : "CREATE OR REPLACE PROCEDURE book_lot(id VARCHAR, INOUT ticket INT, INOUT parts INT, INOUT mark VARCHAR) LANGUAGE plpgsql AS $$ BEGIN INSERT INTO lot VALUES (id, 7, 1); ticket := 4711; parts := 2; mark := 'x'; END $$");
        List<Step> steps = new ArrayList<>();
        steps.add(new Step.Statement(
                "book",
                "",
                maria ? "CALL book_lot(:lot, @ticket)" : "CALL book_lot(:lot, NULL, NULL, NULL)",
                0,
                10,
                ""));
        if (maria) {
            steps.add(new Step.LookUp("out", "", "", "SELECT @ticket AS ticket", Step.Rows.ONE));
        }
        steps.add(new Step.Put(
                "part",
                "",
                Step.Deed.INSERT,
                "lot",
                List.of(
                        new Step.Cell("lot_id", "lot + book_mark", false),
                        new Step.Cell("order_no", maria ? "out_ticket" : "book_ticket", false),
                        new Step.Cell("kilos", "book_parts", false)),
                1,
                1,
                ""));
        TransactionDefinition calls = Bed.lotEnds().withSteps(steps).withAnswer(dachshund.core.transaction.Answer.NONE);
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(calls);
            bed.controller.asks(17, "PL1-1", 1);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).reason()).isEmpty();
            assertThat(bed.ask("SELECT lot_id, order_no, kilos FROM lot ORDER BY lot_id"))
                    .containsExactly("PL1-1 7 1.00", "PL1-1x 4711 2.00");
            assertThat(bed.runs.get(0).steps().get(0).values())
                    .containsEntry("lot", "PL1-1")
                    .containsEntry("→ book_parts", "2");
            assertThat(bed.tried(calls, bed.plant, Map.of()).problem()).isEmpty();
        }
    }

    /** Rows that a statement returns are those that it has touched, and bounded so. */
    @ParameterizedTest
    @EnumSource
    void aStatementReturnsWhatItMade(Engine engine) throws Exception {
        Bed.fresh(engine);
        String insert =
                "INSERT INTO lot (lot_id, order_no, kilos) VALUES (:lot, 5, 2), (:lot, 6, 2) RETURNING order_no";
        Step.Statement made = new Step.Statement("made", "", insert, 2, 2, "");
        Step.Put copy = new Step.Put(
                "copy",
                "made_rows = 2",
                Step.Deed.INSERT,
                "lot",
                List.of(
                        new Step.Cell("lot_id", "\"copy\"", false),
                        new Step.Cell("order_no", "made_order_no + 10", false)),
                1,
                1,
                "");
        TransactionDefinition two =
                Bed.lotEnds().withSteps(List.of(made, copy)).withAnswer(dachshund.core.transaction.Answer.NONE);
        TransactionDefinition one = two.withSteps(List.of(new Step.Statement("made", "", insert, 1, 1, ""), copy));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(one);
            bed.controller.asks(17, "PL1-1", 1);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).reason()).contains("It would have touched 2 rows, and one row at most may be.");
            assertThat(bed.ask("SELECT * FROM lot")).isEmpty();
            bed.live(two);
            bed.controller.asks(18, "PL1-1", 1);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).reason()).isEmpty();
            assertThat(bed.ask("SELECT lot_id, order_no FROM lot ORDER BY order_no"))
                    .containsExactly("PL1-1 5", "PL1-1 6", "copy 15");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aLookUpOfManyRowsFeedsTheNextStep(Engine engine) throws Exception {
        Bed.fresh(engine);
        List<Step> steps = List.of(
                new Step.LookUp("all_orders", "", "", "SELECT order_no, line FROM pellet_order", Step.Rows.MANY),
                new Step.Put(
                        "copy",
                        "",
                        Step.Deed.INSERT,
                        "lot",
                        List.of(
                                new Step.Cell("lot_id", "lot + \"-\" + all_orders_line", false),
                                new Step.Cell("order_no", "all_orders_order_no", false)),
                        2,
                        2,
                        "all_orders"),
                new Step.Put(
                        "gone",
                        "copy_rows = 3",
                        Step.Deed.DELETE,
                        "lot",
                        List.of(new Step.Cell("lot_id", "lot", true)),
                        0,
                        1,
                        ""));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.live(Bed.lotEnds().withSteps(steps).withAnswer(dachshund.core.transaction.Answer.NONE));
            bed.controller.asks(17, "A", 1);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).reason()).isEmpty();
            assertThat(bed.ask("SELECT lot_id, order_no FROM lot ORDER BY lot_id"))
                    .containsExactly("A-PL1 26041", "A-PL2 26042");
            assertThat(bed.runs.get(0).steps().get(2).fate()).isEqualTo(StepRun.Fate.PASSED_OVER);
        }
    }

    @ParameterizedTest
    @EnumSource
    void withoutAMarkOneOfWhichNobodyKnowsWaitsForAPerson(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition unmarked =
                Bed.lotEnds().withDatabase("dddd0001", Bed.lotEnds().isolation(), false);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        try (Bed bed = new Bed(engine, folder, controller, Dying.atCommit(true))) {
            bed.live(unmarked);
            controller.asks(17, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.UNCERTAIN);
            assertThat(controller.written).isEmpty();
        }
        try (Bed again = new Bed(engine, folder, controller, each -> each)) {
            again.live(unmarked);
            soon(() -> again.runs.size() == 1);
            assertThat(again.runs.get(0).outcome()).isEqualTo(Outcome.UNCERTAIN);
            assertThat(again.transactions.status("cccc0001").orElseThrow().uncertain())
                    .extracting(intent -> intent.request())
                    .containsExactly("/17");
            assertThat(again.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
            again.transactions.settled("cccc0001", "/17");
            assertThat(again.transactions.status("cccc0001").orElseThrow().uncertain())
                    .isEmpty();
        }
    }

    /** The commit's answer is lost, and the next question says what became of it. */
    @ParameterizedTest
    @EnumSource
    void aCommitOfWhichNothingIsHeardIsFoundOutByItsMark(Engine engine) throws Exception {
        for (boolean committed : new boolean[] {true, false}) {
            Bed.fresh(engine);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.ECHO, 0L);
            try (Bed bed = new Bed(engine, folder.resolve("" + committed), controller, Dying.atCommit(committed))) {
                bed.live(Bed.lotEnds());
                controller.asks(17, "PL1-1", 100);
                soon(() -> bed.runs.size() == 1);
                assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DONE);
                assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
                assertThat(controller.written)
                        .containsExactly("set point=34.5", "code=1", "text=order 26041", "echo=17");
            }
        }
    }

    /** Committed and not answered; then the database is away at the next start: the plant must not be told that it failed. */
    @ParameterizedTest
    @EnumSource
    void whatMayBeDoneIsNotToldToHaveFailedWhileTheDatabaseIsAway(Engine engine) throws Exception {
        Bed.hurried(limit -> whatMayBeDoneIsNotToldToHaveFailedWhileTheDatabaseIsAway(engine, limit));
    }

    private boolean whatMayBeDoneIsNotToldToHaveFailedWhileTheDatabaseIsAway(Engine engine, Duration limit)
            throws Exception {
        Bed.fresh(engine);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.refuses.put(Bed.ECHO, "The source is away.");
        TransactionDefinition design = Bed.lotEnds()
                .withPolicy(
                        Bed.ONE_TRY
                                .within(limit)
                                .trying(1, Duration.ofMillis(20))
                                .queuing(10),
                        List.of());
        try (Bed bed = new Bed(engine, folder, controller, each -> each)) {
            bed.live(design);
            controller.asks(17, "PL1-1", 100);
            soon(() ->
                    bed.transactions.status("cccc0001").orElseThrow().sentence().contains("cannot be given"));
            if (bed.ask("SELECT lot_id FROM lot").isEmpty()) {
                return false;
            }
        }
        controller.refuses.clear();
        controller.written.clear();
        controller.set(Bed.CODE, 0L);
        CountDownLatch back = new CountDownLatch(1);
        try (Bed again = new Bed(engine, folder, controller, Dying.away(back))) {
            again.live(design);
            soon(() -> again.transactions
                    .status("cccc0001")
                    .orElseThrow()
                    .sentence()
                    .startsWith("It is not known whether request 17 is done; the database is asked until it says."));
            Thread.sleep(2 * limit.toMillis());
            assertThat(controller.written).isEmpty();
            back.countDown();
            soon(() -> Long.valueOf(17).equals(controller.get(Bed.ECHO)));
            soon(() -> again.runs.size() == 1);
            assertThat(again.runs.get(0).outcome()).isEqualTo(Outcome.ALREADY);
            assertThat(controller.get(Bed.CODE)).isEqualTo(1L);
            assertThat(controller.written).doesNotContain("code=3");
            assertThat(again.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
        }
        return true;
    }

    /** A driver throws what nobody expects, at each call: that run has its sentence, the next request is done, and the books agree. */
    @Test
    void whateverTheDriverThrowsTheNextRequestIsDone() throws Exception {
        for (int at = 1; at <= 8; at++) { // begun, claimed, asked, two changes, told, committed, followed
            Bed.fresh(Engine.MARIADB);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.NUMBER, 0L);
            controller.set(Bed.ECHO, 0L);
            try (Bed bed = new Bed(
                    Engine.MARIADB,
                    folder.resolve("at" + at),
                    controller,
                    Dying.throwing(at, new IllegalStateException("a defect of the driver")))) {
                bed.live(Bed.lotEnds());
                controller.asks(17, "PL1-1", 100);
                soon(() -> bed.runs.size() == 1);
                controller.asks(18, "PL1-2", 10);
                soon(() -> Long.valueOf(18).equals(controller.get(Bed.ECHO)) && bed.runs.size() == 2);
                Run first = bed.runs.get(0);
                assertThat(bed.runs.get(1).outcome()).as("thrown at " + at).isEqualTo(Outcome.DONE);
                assertThat(bed.ask("SELECT COUNT(*) FROM lot WHERE lot_id = 'PL1-1'"))
                        .as("thrown at " + at + ", " + first)
                        .containsExactly(first.outcome().stands() ? "1" : "0");
                boolean told = controller.written.contains("echo=17");
                assertThat(told).as("thrown at " + at).isEqualTo(first.outcome() != Outcome.UNCERTAIN);
                if (!first.outcome().stands()) {
                    assertThat(first.reason()).contains("a defect of the driver");
                }
            }
        }
    }

    @Test
    void aRequestAtTheStartFailsWhereNoMarkCanEverHaveBeenMade() throws Exception {
        Bed.fresh(Engine.MARIADB);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.asks(17, "PL1-1", 100);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, Dying.withoutMarks())) {
            bed.live(Bed.lotEnds());
            soon(() -> Long.valueOf(17).equals(controller.get(Bed.ECHO)));
            assertThat(controller.get(Bed.CODE)).isEqualTo(3L);
            assertThat(controller.get(Bed.TEXT)).isEqualTo("The table cannot be made.");
        }
    }

    /** The number turned bad right after it was told, and is what it was: the run is of the number that fired it. */
    @Test
    void aNumberThatTurnsBadIsStillTheOneThatFired() throws Exception {
        Bed.fresh(Engine.MARIADB);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.set(Bed.NUMBER, 0L);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, each -> each)) {
            bed.live(Bed.lotEnds());
            for (long n = 1; n <= 50; n++) {
                controller.asks(n, "L" + n, 1);
                controller.table.away(Bed.NUMBER.source(), new dachshund.engine.clock.SystemClock().now());
                long asked = n;
                controller.set(Bed.LOT, "L" + n);
                controller.set(Bed.KILOS, 1.0);
                controller.set(Bed.ECHO, controller.get(Bed.ECHO));
                controller.set(Bed.NUMBER, n);
                soon(() -> Long.valueOf(asked).equals(controller.get(Bed.ECHO)));
            }
            assertThat(bed.ask("SELECT COUNT(DISTINCT request) FROM dachshund_done WHERE request LIKE '/%'"))
                    .containsExactly("50");
            assertThat(bed.ask("SELECT COUNT(*) FROM dachshund_done WHERE request NOT LIKE '/%'"))
                    .containsExactly("0");
        }
    }

    /** The run has a limit, and so has each of its statements: the same one. */
    @ParameterizedTest
    @EnumSource
    void aStatementMayTakeAsLongAsTheRun(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition design = Bed.lotEnds();
        List<Step> steps = new ArrayList<>(design.steps());
        steps.set(
                0,
                new Step.LookUp(
                        "ord",
                        "",
                        "",
                        "SELECT order_no, feed_rpm, "
                                + (engine == Engine.MARIADB ? "SLEEP(2.2)" : "pg_sleep(2.2)")
                                + " AS slept FROM pellet_order WHERE line = 'PL1'",
                        Step.Rows.ONE));
        steps.set(
                2,
                new Step.Statement(
                        "progress",
                        "",
                        "UPDATE pellet_order SET kilos = kilos + :kilos WHERE order_no = :ord_order_no AND "
                                + (engine == Engine.MARIADB
                                        ? "SLEEP(1.2) = 0"
                                        : "(SELECT COUNT(*) FROM (SELECT pg_sleep(1.2)) AS slept) = 1"),
                        1,
                        1,
                        ""));
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.set(Bed.NUMBER, 0L);
            bed.live(design.withSteps(steps));
            bed.controller.asks(17, "PL1-1", 100);
            soon(() -> bed.runs.size() == 1);
            bed.controller.asks(18, "PL1-2", 100); // nobody can have begun this one before
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs).extracting(Run::reason).containsOnly("");
            assertThat(bed.runs).extracting(Run::outcome).containsOnly(Outcome.DONE);
        }
    }

    /** What a run had is had again, its number and its instant too; nobody is told a number then. */
    @Test
    void oneThatFailedIsDoneAgainWithWhatItHad() throws Exception {
        Bed.fresh(Engine.MARIADB);
        Bed.sql(
                Engine.MARIADB,
                "orders",
                "ALTER TABLE lot ADD COLUMN asked BIGINT NOT NULL, ADD COLUMN at DATETIME(6) NOT NULL");
        Bed.sql(Engine.MARIADB, "orders", "RENAME TABLE pellet_order TO away");
        TransactionDefinition design = Bed.lotEnds();
        List<Step> steps = new ArrayList<>(design.steps());
        Step.Put record = (Step.Put) steps.get(1);
        List<Step.Cell> cells = new ArrayList<>(record.cells());
        cells.add(new Step.Cell("asked", "request", false));
        cells.add(new Step.Cell("at", "fired", false));
        steps.set(1, new Step.Put("record", "", Step.Deed.INSERT, "lot", cells, 1, 1, ""));
        try (Bed bed = new Bed(Engine.MARIADB, folder)) {
            bed.controller.set(Bed.ECHO, 0L);
            bed.controller.set(Bed.NUMBER, 0L);
            bed.live(design.withSteps(steps));
            bed.controller.asks(17, "0042", 100.5);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.FAILED);
            bed.controller.set(Bed.LOT, "PL1-2");
            bed.controller.set(Bed.KILOS, 7.0);
            bed.controller.set(Bed.ECHO, 0L);
            Bed.sql(Engine.MARIADB, "orders", "RENAME TABLE away TO pellet_order");
            bed.transactions.again(bed.runs.get(0), "engineer");
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).outcome()).isEqualTo(Outcome.DONE);
            assertThat(bed.runs.get(1).why()).startsWith("again, engineer, with the values of run ");
            assertThat(bed.ask("SELECT lot_id, kilos, asked FROM lot")).containsExactly("0042 100.50 17");
            assertThat(bed.ask("SELECT COUNT(*) FROM lot WHERE ABS(TIMESTAMPDIFF(MICROSECOND, at, '"
                            + bed.runs
                                    .get(0)
                                    .fired()
                                    .toString()
                                    .replace("T", " ")
                                    .replace("Z", "") + "')) < 2"))
                    .containsExactly("1");
            assertThat(bed.controller.get(Bed.ECHO)).isEqualTo(0L);
        }
    }

    /** Killed at every call to the database, and between every two writes to the plant; then started again. */
    @ParameterizedTest
    @EnumSource
    void killedAnywhereItIsDoneOnceAndAnswered(Engine engine) throws Exception {
        boolean survived = false;
        for (int at = 1; !survived; at++) {
            Bed.fresh(engine);
            Dying dying = new Dying(at);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.ECHO, 0L);
            controller.asks(17, "PL1-1", 100);
            Path own = folder.resolve("at" + at);
            try (Bed bed = dying.bed(engine, own, controller)) {
                bed.live(Bed.lotEnds());
                soon(() -> dying.dead() || bed.runs.size() == 1);
            }
            survived = !dying.dead();
            try (Bed again = new Bed(engine, own, controller, each -> each)) {
                again.live(Bed.lotEnds());
                soon(() -> Long.valueOf(17).equals(controller.get(Bed.ECHO)));
                assertThat(again.ask("SELECT lot_id, kilos FROM lot"))
                        .as("killed at " + at)
                        .containsExactly("PL1-1 100.00");
                assertThat(again.ask("SELECT kilos FROM pellet_order WHERE order_no = 26041"))
                        .containsExactly("100.00");
                assertThat(controller.get(Bed.CODE)).isEqualTo(1L);
                assertThat(controller.get(Bed.SET_POINT).toString()).isEqualTo("34.5");
            }
            assertThat(at).isLessThan(40);
        }
    }
}
