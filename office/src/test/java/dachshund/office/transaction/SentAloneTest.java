package dachshund.office.transaction;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.StoreProblem;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepRun;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Wording;
import dachshund.engine.transaction.SentAlone;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** One step that a person sends by hand, for real: what it changes stays, and is read back. */
class SentAloneTest {

    @TempDir
    Path folder;

    private static SentAlone send(Bed bed, TransactionDefinition design, int step, Map<String, Object> given) {
        return bed.transactions.sendAlone(design, step, bed.plant, given);
    }

    @ParameterizedTest
    @EnumSource
    void eachStepIsDoneAloneWithWhatIsTypedAndReadBack(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition design = Bed.lotEnds();
        try (Bed bed = new Bed(engine, folder)) {
            bed.controller.set(Bed.LOT, "PL1-7");
            SentAlone looked = send(bed, design, 0, Map.of());
            assertThat(looked.problem()).isEmpty();
            assertThat(looked.step().orElseThrow().values()).containsEntry("→ ord_order_no", "26041");

            // The lot stands in its tag, the rest is typed; kilos have no value yet, and nobody asks for it.
            SentAlone put = send(bed, design, 1, Map.of("ord_order_no", 26041L, "kilos", 12.503));
            assertThat(put.problem()).isEmpty();
            assertThat(put.step().orElseThrow().rows()).isEqualTo(1);
            assertThat(put.columns()).contains("lot_id", "order_no", "kilos");
            assertThat(put.back())
                    .singleElement()
                    .asInstanceOf(org.assertj.core.api.InstanceOfAssertFactories.LIST)
                    .as("found, though the table keeps two digits of its kilos")
                    .contains("PL1-7", "26041", "12.5");
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-7");

            SentAlone tooLong =
                    send(bed, design, 1, Map.of("lot", "x".repeat(300), "ord_order_no", 26041L, "kilos", 12.5));
            assertThat(tooLong.problem()).isNotEmpty();
            assertThat(tooLong.step().orElseThrow().fate()).isEqualTo(StepRun.Fate.FAILED);
            assertThat(tooLong.back()).isEmpty();
            assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-7");

            assertThat(send(bed, design, 2, Map.of("ord_order_no", 26041L, "kilos", 12.5))
                            .problem())
                    .isEmpty();
            assertThat(bed.ask("SELECT kilos FROM pellet_order WHERE order_no = 26041"))
                    .containsExactly("12.50");
            assertThat(send(bed, design, 2, Map.of("ord_order_no", 1L, "kilos", 12.5))
                            .problem())
                    .as("its bounds hold")
                    .contains("touched no row");

            SentAlone fed = send(bed, design, 3, Map.of("ord_feed_rpm", 33.5));
            assertThat(fed.problem()).isEmpty();
            assertThat(fed.step().orElseThrow().said()).isEqualTo("It reads back 33.5.");
            assertThat(bed.controller.written).containsExactly("set point=33.5");
            bed.controller.refuses.put(Bed.SET_POINT, "Feed set point lies outside its range.");
            assertThat(send(bed, design, 3, Map.of("ord_feed_rpm", 99.0)).problem())
                    .isEqualTo("Feed set point lies outside its range.");

            assertThat(bed.runs).as("it is no run").isEmpty();
        }
    }

    /** Where the commit is not answered, nobody says that it failed. */
    @ParameterizedTest
    @EnumSource
    void aCommitOfWhichNobodyKnowsIsNoFailure(Engine engine) throws Exception {
        for (Exception lost : List.of(
                new StoreProblem(StoreProblem.Kind.UNKNOWN, -1, "Something odd.", null),
                new IllegalStateException("A defect of the driver"))) {
            Bed.fresh(engine);
            try (Bed bed = new Bed(engine, folder, new Bed.Controller(), Dying.atCommit(true, lost))) {
                SentAlone sent =
                        send(bed, Bed.lotEnds(), 1, Map.of("lot", "PL1-7", "ord_order_no", 26041L, "kilos", 12.5));
                assertThat(sent.ended()).isEqualTo(SentAlone.Ended.UNKNOWN);
                assertThat(bed.ask("SELECT lot_id FROM lot")).containsExactly("PL1-7");
            }
        }
    }

    /** What needs no database goes where it is to go, whichever database there is. */
    @Test
    void aMessageIsSentAlone() throws Exception {
        Bed.fresh(Engine.MARIADB);
        TransactionDefinition design = Bed.lotEnds()
                .withSteps(List.of(
                        new Step.Publish(
                                "tell",
                                "",
                                "aaaa0009",
                                "lots/{lot}",
                                new Wording(Wording.As.TEXT, "\"ended\"", List.of()),
                                false),
                        new Step.Compute("double", "", "kilos * 2")));
        try (Bed bed = new Bed(Engine.MARIADB, folder)) {
            SentAlone told = send(bed, design, 0, Map.of("lot", "PL1/7"));
            assertThat(told.problem()).isEmpty();
            assertThat(told.step().orElseThrow().said()).isEqualTo("The broker took it.");
            assertThat(bed.controller.written).containsExactly("lots/PL1_7=ended");
            bed.controller.refuses.put(new dachshund.core.tag.TagRef("aaaa0009", "lots/8"), "The broker is away.");
            assertThat(send(bed, design, 0, Map.of("lot", 8L)).problem()).isEqualTo("The broker is away.");
            assertThat(send(bed, design, 1, Map.of("kilos", 4L))
                            .step()
                            .orElseThrow()
                            .values())
                    .containsEntry("double", "8");
        }
    }

    @ParameterizedTest
    @EnumSource
    void whatLacksIsSaidAndNothingIsSent(Engine engine) throws Exception {
        Bed.fresh(engine);
        TransactionDefinition design = Bed.lotEnds();
        try (Bed bed = new Bed(engine, folder)) {
            assertThat(send(bed, design, 1, Map.of("ord_order_no", 26041L, "kilos", 1.0))
                            .problem())
                    .as("the lot has no value")
                    .startsWith("lot has no value that can be trusted");
            bed.controller.set(Bed.LOT, "PL1-7");
            assertThat(send(bed, design, 1, Map.of("kilos", 1.0)).problem()).contains("ord_order_no");
            List<Step> steps = new ArrayList<>(design.steps());
            Step.Statement progress = (Step.Statement) steps.get(2);
            steps.set(2, new Step.Statement(progress.name(), "", progress.sql(), 1, 1, "ord"));
            assertThat(send(bed, design.withSteps(steps), 2, Map.of("kilos", 1.0))
                            .problem())
                    .contains("for each row of ord");
            steps.set(2, new Step.Statement(progress.name(), "kilos > 5", progress.sql(), 1, 1, ""));
            SentAlone passed = send(bed, design.withSteps(steps), 2, Map.of("kilos", 1.0, "ord_order_no", 26041L));
            assertThat(passed.step().orElseThrow().fate()).isEqualTo(StepRun.Fate.PASSED_OVER);
            assertThat(bed.ask("SELECT lot_id FROM lot")).isEmpty();
            assertThat(bed.ask("SELECT kilos FROM pellet_order")).containsOnly("0.00");
        }
    }
}
