package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepRun.Fate;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.engine.transaction.TriedOut;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Rows of two databases, of two engines, change together; real servers, and deaths at every call to either. */
final class TwoDatabasesTest {

    private static final UnaryOperator<Transacting> AS_IT_IS = UnaryOperator.identity();

    @TempDir
    Path folder;

    /** A lot ends, and its pallet stands in the warehouse, which is another database. */
    private static TransactionDefinition lotEnds(Duration limit) {
        List<Step> steps = new ArrayList<>(Bed.lotEnds().steps());
        steps.add(
                3,
                new Step.Put(
                        "pallet",
                        "",
                        Step.Deed.INSERT,
                        "lot",
                        List.of(
                                new Step.Cell("lot_id", "lot", false),
                                new Step.Cell("order_no", "ord_order_no", false),
                                new Step.Cell("kilos", "kilos / 2", false)),
                        1,
                        1,
                        "",
                        Bed.OTHER));
        steps.add(
                4,
                new Step.LookUp(
                        "there",
                        "",
                        Bed.OTHER,
                        "SELECT COUNT(*) AS pallets FROM lot WHERE lot_id = :lot",
                        Step.Rows.ONE));
        return Bed.lotEnds().withSteps(steps).withPolicy(Bed.ONE_TRY.within(limit), List.of("lot"));
    }

    private static void fresh(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.fresh(engine.other());
    }

    private static Bed.Controller asking() {
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.asks(17, "PL1-1", 100);
        return controller;
    }

    private static List<String> pallets(Engine engine) throws Exception {
        return Bed.ask(engine.other(), "orders", "SELECT lot_id, order_no, kilos FROM lot");
    }

    private static boolean answered(Bed.Controller controller) {
        return Long.valueOf(17).equals(controller.get(Bed.ECHO));
    }

    /** That there was no time for the first one, either. */
    private static boolean failed(Bed.Controller controller) {
        return Long.valueOf(3).equals(controller.get(Bed.CODE));
    }

    @ParameterizedTest
    @EnumSource
    void bothChangeAndASearchSeesWhatIsNotCommittedYet(Engine engine) throws Exception {
        fresh(engine);
        Bed.Controller controller = asking();
        try (Bed bed = new Bed(engine, folder, controller, AS_IT_IS)) {
            bed.live(lotEnds(Bed.NO_HURRY));
            soon(() -> answered(controller) && bed.runs.size() == 1);
            Run run = bed.runs.get(0);
            assertThat(run.outcome()).isEqualTo(Outcome.DONE);
            assertThat(run.steps())
                    .extracting(step -> step.name() + " " + step.fate())
                    .containsExactly(
                            "ord DONE", "record DONE", "progress DONE", "pallet DONE", "there DONE", "feed DONE");
            assertThat(run.steps().get(4).values()).containsEntry("→ there_pallets", "1");
            assertThat(pallets(engine)).containsExactly("PL1-1 26041 50.00");
            assertThat(Bed.ask(engine.other(), "orders", "SELECT COUNT(*) FROM dachshund_done"))
                    .containsExactly("1");
            assertThat(bed.ask("SELECT todo FROM dachshund_done")).containsExactly("");
        }
    }

    @ParameterizedTest
    @EnumSource
    void anErrorInTheOtherOneLeavesNothingInEither(Engine engine) throws Exception {
        fresh(engine);
        Bed.sql(engine.other(), "orders", "ALTER TABLE lot ADD CHECK (kilos < 40)");
        Bed.Controller controller = asking();
        try (Bed bed = new Bed(engine, folder, controller, AS_IT_IS)) {
            bed.live(lotEnds(Bed.NO_HURRY));
            soon(() -> answered(controller) && bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.FAILED);
            assertThat(bed.runs.get(0).reason()).startsWith("Step pallet: ");
            assertThat(controller.get(Bed.CODE)).isEqualTo(3L);
            assertThat(pallets(engine)).isEmpty();
            assertThat(bed.ask("SELECT lot_id FROM lot")).isEmpty();
            assertThat(bed.ask("SELECT request FROM dachshund_done")).isEmpty();
        }
    }

    /** The first one has committed; the second one does not answer for longer than the plant waits. */
    @ParameterizedTest
    @EnumSource
    void whatTheOtherOneDoesNotCommitIsDoneLaterAndOnce(Engine engine) throws Exception {
        Bed.hurried(Duration.ofSeconds(2), limit -> whatTheOtherOneDoesNotCommitIsDoneLaterAndOnce(engine, limit));
    }

    private boolean whatTheOtherOneDoesNotCommitIsDoneLaterAndOnce(Engine engine, Duration limit) throws Exception {
        fresh(engine);
        Bed.Controller controller = asking();
        try (Bed bed = new Bed(engine, folder, controller, AS_IT_IS, Dying.refusingCommits(3))) {
            bed.live(lotEnds(limit));
            soon(() -> answered(controller));
            if (failed(controller)) {
                return false;
            }
            assertThat(controller.get(Bed.CODE)).isEqualTo(2L); // done, but
            assertThat(controller.get(Bed.TEXT).toString())
                    .startsWith("Done, but: What it changes in the other database");
            soon(() -> !bed.runs.isEmpty());
            Run run = bed.runs.get(0);
            assertThat(run.outcome()).isEqualTo(Outcome.DONE_BUT);
            assertThat(run.steps().get(3).fate()).isEqualTo(Fate.FAILED);
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-1");
            soon(() -> pallets(engine).equals(List.of("PL1-1 26041 50.00")));
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).why()).isEqualTo("what was left of /17");
            assertThat(bed.runs.get(1).outcome()).isEqualTo(Outcome.DONE);
            soon(() -> status(bed).rest().isEmpty() && status(bed).sentence().isEmpty());
            assertThat(bed.ask("SELECT todo FROM dachshund_done")).containsExactly("");
        }
        return true;
    }

    /** Something is left while somebody looks for what was left before, and does not find it: it is looked for again. */
    @Test
    void whatIsLeftWhileSomebodyLooksIsDone() throws Exception {
        Bed.hurried(this::whatIsLeftWhileSomebodyLooksIsDone);
    }

    private boolean whatIsLeftWhileSomebodyLooksIsDone(Duration limit) throws Exception {
        fresh(Engine.MARIADB);
        Bed.Controller controller = asking();
        CountDownLatch asked = new CountDownLatch(1);
        CountDownLatch told = new CountDownLatch(1);
        controller.set(Bed.NUMBER, 0L);
        try (Bed bed =
                new Bed(Engine.MARIADB, folder, controller, Dying.tellingLate(asked, told), Dying.refusingCommits(1))) {
            bed.live(lotEnds(limit));
            asked.await();
            controller.asks(17, "PL1-1", 100);
            soon(() -> answered(controller) && bed.runs.size() == 1);
            if (failed(controller)) {
                told.countDown();
                return false;
            }
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.DONE_BUT);
            told.countDown();
            soon(() -> pallets(Engine.MARIADB).equals(List.of("PL1-1 26041 50.00")));
            soon(() -> bed.ask("SELECT todo FROM dachshund_done").equals(List.of("")));
        }
        return true;
    }

    private static TransactionStatus status(Bed bed) {
        return bed.transactions.status("cccc0001").orElseThrow();
    }

    /** It can never be done any more, is shown as long as somebody has not decided, and then is not tried again. */
    @Test
    void whatCanNeverBeDoneInTheOtherOneWaitsForAPerson() throws Exception {
        Bed.hurried(this::whatCanNeverBeDoneInTheOtherOneWaitsForAPerson);
    }

    private boolean whatCanNeverBeDoneInTheOtherOneWaitsForAPerson(Duration limit) throws Exception {
        fresh(Engine.MARIADB);
        Bed.Controller controller = asking();
        CountDownLatch well = new CountDownLatch(1);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, AS_IT_IS, Dying.refusingCommits(well))) {
            bed.live(lotEnds(limit));
            soon(() -> answered(controller));
            if (failed(controller)) {
                return false;
            }
            Bed.sql(Engine.POSTGRESQL, "orders", "ALTER TABLE lot ADD CHECK (kilos < 40)");
            well.countDown();
            soon(() -> status(bed).rest().size() == 1);
            assertThat(status(bed).rest().get(0).request()).isEqualTo("/17");
            assertThat(status(bed).sentence()).startsWith("One run has something to do yet that follows its commit.");
            soon(() -> {
                bed.transactions.letBe("cccc0001", "/17", "engineer");
                return true;
            });
            soon(() -> status(bed).rest().isEmpty());
            assertThat(pallets(Engine.MARIADB)).isEmpty();
            assertThat(bed.ask("SELECT todo FROM dachshund_done")).containsExactly("");
            assertThat(bed.runs.get(bed.runs.size() - 1).reason()).startsWith("Let be by engineer");
        }
        return true;
    }

    /** Killed at every call to either database and to the plant, with threads that hear of it and threads that stand still. */
    @ParameterizedTest
    @EnumSource
    void killedAnywhereBothHaveItOnceAndItIsAnswered(Engine engine) throws Exception {
        boolean survived = false;
        for (int at = 1; !survived; at++) {
            fresh(engine);
            Dying dying = at % 4 == 0 ? Dying.still(at) : new Dying(at);
            Bed.Controller controller = asking();
            Path own = folder.resolve("at" + at);
            try (Bed bed = dying.bed(engine, own, controller)) {
                bed.live(lotEnds(Bed.NO_HURRY));
                soon(() -> dying.dead() || bed.runs.size() == 1);
            }
            survived = !dying.dead();
            try (Bed again = new Bed(engine, own, controller, AS_IT_IS)) {
                again.live(lotEnds(Bed.NO_HURRY));
                soon(() -> answered(controller));
                soon(() -> pallets(engine).equals(List.of("PL1-1 26041 50.00")));
                assertThat(again.ask("SELECT lot_id, kilos FROM lot"))
                        .as("killed at " + at)
                        .containsExactly("PL1-1 100.00");
                assertThat(controller.get(Bed.CODE)).isEqualTo(1L);
                soon(() -> again.ask("SELECT todo FROM dachshund_done").equals(List.of("")));
            }
            assertThat(at).isLessThan(60);
        }
    }

    @Test
    void aTryLeavesNothingInEither() throws Exception {
        fresh(Engine.POSTGRESQL);
        try (Bed bed = new Bed(Engine.POSTGRESQL, folder, asking(), AS_IT_IS)) {
            TriedOut tried = bed.tried(lotEnds(Bed.NO_HURRY), bed.plant, Map.of());
            assertThat(tried.problem()).isEmpty();
            assertThat(tried.step("there").orElseThrow().values()).containsEntry("→ there_pallets", "1");
            assertThat(tried.step("feed").orElseThrow().fate()).isEqualTo(Fate.SHOWN);
            assertThat(pallets(Engine.POSTGRESQL)).isEmpty();
            assertThat(bed.ask("SELECT lot_id FROM lot")).isEmpty();
        }
    }
}
