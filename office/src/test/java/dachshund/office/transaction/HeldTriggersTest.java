package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Wording;
import dachshund.core.when.When;
import dachshund.engine.lane.LaneState;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What tags bring about while a database is away waits on disk; what follows another transaction is done once, whatever dies. */
final class HeldTriggersTest {

    @TempDir
    Path folder;

    private static Policy policy(boolean hold) {
        return Bed.ONE_TRY.queuing(50).holding(hold);
    }

    private static Step.Put record(String lot, String kilos) {
        return new Step.Put(
                "record",
                "",
                Step.Deed.INSERT,
                "lot",
                List.of(
                        new Step.Cell("lot_id", lot, false),
                        new Step.Cell("order_no", "1", false),
                        new Step.Cell("kilos", kilos, false)),
                1,
                1,
                "");
    }

    /** Each lot that there is becomes a row; nobody in the plant waits for it. */
    private static TransactionDefinition lots(boolean hold) {
        return Bed.lotEnds()
                .withWhens(List.of(new When.OnIdentifier(Bed.LOT, Duration.ZERO, Duration.ZERO)))
                .withSteps(List.of(record("lot", "kilos")))
                .withAnswer(Answer.NONE)
                .withPolicy(policy(hold), List.of("lot"));
    }

    private static TransactionStatus status(Bed bed, String id) {
        return bed.transactions.status(id).orElseThrow();
    }

    private static void lot(Bed bed, int nth) {
        TagRef kilos = Bed.KILOS;
        bed.controller.set(kilos, nth * 10.0);
        bed.controller.set(Bed.LOT, "PL1-" + nth);
    }

    private static List<String> expected(int to) {
        return IntStream.rangeClosed(1, to)
                .mapToObj(nth -> "PL1-" + nth + " " + nth * 10 + ".00")
                .toList();
    }

    private static List<String> lots(Bed bed) throws Exception {
        return bed.ask("SELECT lot_id, kilos FROM lot ORDER BY kilos");
    }

    /** What waits for a transaction that is not released any more is seen, done when it is released again, or discarded. */
    @ParameterizedTest
    @EnumSource
    void whatWaitsForATransactionThatIsNotReleasedAnyMoreIsSeen(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.LOT, "PL1-0");
        controller.set(Bed.KILOS, 0.0);
        try (Bed bed = new Bed(engine, folder, controller, Dying.away(new CountDownLatch(1)))) {
            bed.live(lots(true));
            for (int nth = 1; nth <= 3; nth++) {
                lot(bed, nth);
                int now = nth;
                soon(() -> status(bed, "cccc0001").waiting() == now);
            }
            soon(() -> bed.local.keptTriggers().of("cccc0001").size() == 3);
            assertThat(bed.transactions.waitingForNone()).isEmpty();
            assertThatThrownBy(() -> bed.transactions.discardWaiting("cccc0001"))
                    .hasMessage("It is at work again, and does what waits.");
            bed.live();
            soon(() -> bed.transactions.waitingForNone().equals(Map.of("cccc0001", 3)));
        }
        try (Bed again = new Bed(engine, folder, controller, each -> each)) {
            assertThat(again.transactions.waitingForNone()).isEqualTo(Map.of("cccc0001", 3));
            again.live(lots(true));
            soon(() -> lots(again).equals(expected(3)));
            soon(() -> again.local.keptTriggers().of("cccc0001").isEmpty());
            assertThat(again.transactions.waitingForNone()).isEmpty();
            again.live();
            again.local.keptTriggers().keep("cccc0001", Map.of("late", "{}"));
            assertThat(again.transactions.waitingForNone()).isEqualTo(Map.of("cccc0001", 1));
            again.transactions.discardWaiting("cccc0001");
            assertThat(again.transactions.waitingForNone()).isEmpty();
        }
    }

    /** Held, killed while it is, and done in its order with the values that were there when each came. */
    @ParameterizedTest
    @EnumSource
    void whatTagsBringAboutIsHeldOverARestart(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.LOT, "PL1-0");
        controller.set(Bed.KILOS, 0.0);
        try (Bed bed = new Bed(engine, folder, controller, Dying.away(new CountDownLatch(1)))) {
            bed.live(lots(true));
            lot(bed, 1);
            soon(() -> status(bed, "cccc0001").state() == LaneState.HOLDING);
            for (int nth = 2; nth <= 12; nth++) {
                lot(bed, nth);
                int now = nth;
                soon(() -> status(bed, "cccc0001").waiting() == now);
            }
            soon(() -> bed.local.keptTriggers().of("cccc0001").size() == 12);
            assertThat(bed.runs).isEmpty();
        }
        controller.set(Bed.KILOS, 0.5); // what stands there later does not count
        try (Bed again = new Bed(engine, folder, controller, each -> each)) {
            again.live(lots(true));
            soon(() -> lots(again).equals(expected(12)));
            soon(() -> again.runs.size() == 12);
            assertThat(again.runs)
                    .extracting(run -> run.keys().get("lot"))
                    .containsExactlyElementsOf(IntStream.rangeClosed(1, 12)
                            .mapToObj(nth -> "PL1-" + nth)
                            .toList());
            assertThat(again.runs).allMatch(run -> run.outcome() == Outcome.DONE);
            assertThat(again.runs.get(3).snapshot().get("kilos").value()).isEqualTo("40");
            soon(() -> again.local.keptTriggers().of("cccc0001").isEmpty());
        }
    }

    /** Without it, what comes while the database is away has failed, as ever. */
    @Test
    void whoDoesNotHoldFails() throws Exception {
        Bed.fresh(Engine.MARIADB);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.LOT, "PL1-0");
        controller.set(Bed.KILOS, 0.0);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, Dying.away(new CountDownLatch(1)))) {
            TransactionDefinition design = lots(false);
            bed.live(design.withPolicy(design.policy().within(Duration.ofSeconds(1)), design.keys()));
            lot(bed, 1);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).outcome()).isEqualTo(Outcome.FAILED);
            assertThat(bed.local.keptTriggers().of("cccc0001")).isEmpty();
        }
    }

    /** Killed at every call to the database while one after the other is held and done. */
    @Test
    void killedAnywhereWhatIsHeldIsDoneOnce() throws Exception {
        boolean survived = false;
        for (int at = 1; !survived; at++) {
            Bed.fresh(Engine.MARIADB);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.LOT, "PL1-0");
            controller.set(Bed.KILOS, 0.0);
            Path own = folder.resolve("at" + at);
            try (Bed bed = new Bed(Engine.MARIADB, own, controller, Dying.away(new CountDownLatch(1)))) {
                bed.live(lots(true));
                for (int nth = 1; nth <= 3; nth++) {
                    lot(bed, nth);
                    int now = nth;
                    soon(() -> bed.local.keptTriggers().of("cccc0001").size() == now);
                }
            }
            Dying dying = Dying.still(at);
            try (Bed dies = dying.bed(Engine.MARIADB, own, controller)) {
                dies.live(lots(true));
                soon(() -> dying.dead() || dies.runs.size() == 3);
            }
            survived = !dying.dead();
            try (Bed again = new Bed(Engine.MARIADB, own, controller, each -> each)) {
                again.live(lots(true));
                soon(() -> again.local.keptTriggers().of("cccc0001").isEmpty());
                assertThat(lots(again)).as("killed at " + at).isEqualTo(expected(3));
            }
            assertThat(at).isLessThan(40);
        }
    }

    private static TransactionDefinition first() {
        return lots(true);
    }

    /** Another one that is done after each lot, with its values. */
    private static TransactionDefinition next() {
        TransactionDefinition as = lots(true);
        return new TransactionDefinition(
                "cccc0002",
                "Label",
                "",
                List.of(new When.AfterTransaction("cccc0001")),
                Optional.empty(),
                List.of(),
                "dddd0001",
                as.isolation(),
                true,
                List.of(
                        record("\"label \" + after_lot", "after_kilos + 1000"),
                        new Step.Publish(
                                "tell",
                                "",
                                "aaaa0009",
                                "labels/{after_lot}",
                                new Wording(Wording.As.TEXT, "after_kilos", List.of()),
                                false)),
                Answer.NONE,
                policy(true),
                List.of("after_lot"));
    }

    @Test
    void oneFollowsAnotherWithItsValues() throws Exception {
        Bed.fresh(Engine.MARIADB);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.LOT, "PL1-0");
        controller.set(Bed.KILOS, 0.0);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, each -> each)) {
            bed.live(first(), next());
            lot(bed, 1);
            soon(() -> lots(bed).equals(List.of("PL1-1 10.00", "label PL1-1 1010.00")));
            soon(() -> bed.runs.size() == 2);
            Run label = bed.runs.get(1).thing().equals("cccc0002") ? bed.runs.get(1) : bed.runs.get(0);
            assertThat(label.why()).startsWith("after Lot ends, ");
            assertThat(label.keys()).containsEntry("after_lot", "PL1-1");
            assertThat(label.outcome()).isEqualTo(Outcome.DONE);
            assertThat(controller.written).contains("labels/PL1-1=10");
            assertThat(bed.transactions.lastOfFirst(next())).containsEntry("after_lot", "PL1-1");
            // One that is stopped is done when it is started.
            bed.transactions.stop("cccc0002", "engineer", "cleaning");
            lot(bed, 2);
            soon(() -> lots(bed).contains("PL1-2 20.00"));
            soon(() -> bed.local.keptTriggers().of("cccc0002").size() == 1);
            bed.transactions.start("cccc0002");
            soon(() -> lots(bed).contains("label PL1-2 1020.00"));
            // A message that the broker refuses keeps no row from being there.
            controller.refuses.put(new TagRef("aaaa0009", "labels/PL1-3"), "The broker is away.");
            lot(bed, 3);
            soon(() -> bed.runs.stream().anyMatch(run -> run.outcome() == Outcome.DONE_BUT));
            assertThat(lots(bed)).contains("label PL1-3 1030.00");
            // The run that it follows may be told of later than it.
            assertThat(bed.runs)
                    .filteredOn(run -> run.outcome() == Outcome.DONE_BUT)
                    .extracting(Run::reason)
                    .containsExactly("Step tell: The broker is away.");
            // One that is not released any more is told of, and keeps nobody.
            bed.live(first());
            lot(bed, 4);
            soon(() -> lots(bed).contains("PL1-4 40.00"));
            assertThat(lots(bed)).noneMatch(each -> each.contains("label PL1-4"));
        }
    }

    /** Killed at every call to the database: each lot has its row and its label, once. */
    @Test
    void killedAnywhereWhatFollowsIsDoneOnce() throws Exception {
        Engine engine = Engine.POSTGRESQL;
        boolean survived = false;
        for (int at = 1; !survived; at++) {
            Bed.fresh(engine);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.LOT, "PL1-0");
            controller.set(Bed.KILOS, 0.0);
            Path own = folder.resolve("at" + at);
            Dying dying = Dying.still(at);
            boolean committed;
            try (Bed dies = dying.bed(engine, own, controller)) {
                dies.live(first(), next());
                lot(dies, 1);
                soon(() -> dying.dead() || dies.runs.size() == 2);
                committed = !lots(dies).isEmpty();
            }
            survived = !dying.dead();
            try (Bed again = new Bed(engine, own, controller, each -> each)) {
                again.live(first(), next());
                if (committed) {
                    soon(() -> lots(again).equals(List.of("PL1-1 10.00", "label PL1-1 1010.00")));
                    soon(() -> again.ask("SELECT request FROM dachshund_done WHERE todo <> ''")
                            .isEmpty());
                }
                soon(() -> again.local.keptTriggers().of("cccc0002").isEmpty());
                assertThat(lots(again)).as("killed at " + at).hasSize(committed ? 2 : 0);
            }
            assertThat(at).isLessThan(40);
        }
        assertThat(survived).isTrue();
    }
}
