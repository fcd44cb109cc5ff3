package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.ledger.Run;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Transactions about equipment: with its properties, and one at a time there where they say so. */
class EquipmentTest {

    private static final String LINE1 = "ffff0001";
    private static final String LINE2 = "ffff0002";

    @TempDir
    Path folder;

    private static EquipmentDefinition line(String id, String name, Map<String, PropertySource> properties) {
        return new EquipmentDefinition(id, name, "", "eeee0001", "", properties);
    }

    private static Plant plant(Bed bed, Map<String, PropertySource> ofLine1) {
        List<Definition> all = new ArrayList<>(bed.plant.all(DestinationDefinition.class));
        all.add(new SourceDefinition(
                "aaaa0001",
                "Works",
                "",
                "simulated",
                Map.of(),
                Duration.ofSeconds(1),
                List.of(
                        new TagInfo("lot", "", "lot", DataKind.TEXT, "", "", false),
                        new TagInfo("kilos", "", "kilos", DataKind.NUMBER, "t", "", false),
                        new TagInfo("set point", "", "set point", DataKind.NUMBER, "kg", "", false))));
        all.add(new EquipmentClassDefinition(
                "eeee0001",
                "Line",
                "",
                List.of(
                        new PropertyDesign("Output", DataKind.NUMBER, "kg", false, ""),
                        new PropertyDesign("Rated", DataKind.INTEGER, "kW", false, ""))));
        all.add(line(LINE1, "PL1", ofLine1));
        all.add(line(LINE2, "PL2", Map.of()));
        return new Plant("Quillmoor", ZoneOffset.UTC, all);
    }

    private static TransactionDefinition booked() {
        return Bed.lotEnds()
                .withEquipment(LINE1)
                .withGathers(List.of(
                        new Gathered("lot", Bed.LOT, Gathered.WhenBad.FAIL),
                        Gathered.of("kg", "Output"),
                        Gathered.of("kw", "Rated")))
                .withSteps(List.of(new Step.Put(
                        "record",
                        "",
                        Step.Deed.INSERT,
                        "lot",
                        List.of(
                                new Step.Cell("lot_id", "lot + \" \" + equipment", false),
                                new Step.Cell("order_no", "kw", false),
                                new Step.Cell("kilos", "kg", false)),
                        1,
                        1,
                        "")))
                .withAnswer(new Answer(Optional.of(Bed.CODE), Optional.of(Bed.TEXT), 1, 2, 3, ""));
    }

    @ParameterizedTest
    @EnumSource
    void aPropertyIsWhateverItIsMappedToWhenTheLotEnds(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder)) {
            PropertySource output = PropertySource.FromTag.of(Bed.KILOS);
            PropertySource rated = new PropertySource.Constant("90");
            Plant plant = plant(bed, Map.of("Output", output, "Rated", rated));
            bed.controller.set(Bed.ECHO, 0L);
            bed.transactions.changeover(List.of(booked()), plant);
            bed.controller.asks(1, "PL1-1", 1.5);
            soon(() -> Long.valueOf(1).equals(bed.controller.get(Bed.ECHO)));
            assertThat(bed.ask("SELECT lot_id, order_no, kilos FROM lot")).containsExactly("PL1-1 PL1 90 1500.00");

            // The same design, and another mapping of its equipment.
            bed.controller.set(Bed.SET_POINT, 700.0);
            PropertySource elsewhere = PropertySource.FromTag.of(Bed.SET_POINT);
            bed.transactions.changeover(List.of(booked()), plant(bed, Map.of("Output", elsewhere, "Rated", rated)));
            bed.controller.asks(2, "PL1-2", 2.5);
            soon(() -> Long.valueOf(2).equals(bed.controller.get(Bed.ECHO)));
            assertThat(bed.ask("SELECT kilos FROM lot WHERE lot_id = 'PL1-2 PL1'"))
                    .containsExactly("700.00");
            assertThat(bed.tried(booked(), plant, Map.of()).snapshot().get("kg").value())
                    .isEqualTo("2500");

            bed.transactions.changeover(List.of(booked()), plant(bed, Map.of("Rated", rated)));
            bed.controller.asks(3, "PL1-3", 3.5);
            soon(() -> Long.valueOf(3).equals(bed.controller.get(Bed.ECHO)) && bed.runs.size() == 3);
            assertThat(bed.controller.get(Bed.CODE)).isEqualTo(3L);
            assertThat((String) bed.controller.get(Bed.TEXT)).contains("kg has no value that can be trusted");
            assertThat(bed.runs.get(2).reason()).contains("PL1 maps no property Output");
        }
    }

    /** By hand alone; it changes one row, and then writes a tag. */
    private static TransactionDefinition moves(String id, String name, String equipment, int order, Duration limit) {
        return new TransactionDefinition(
                id,
                name,
                "",
                equipment,
                List.of(),
                Optional.empty(),
                List.of(),
                "dddd0001",
                Isolation.READ_COMMITTED,
                true,
                List.of(
                        new Step.Statement(
                                "move",
                                "",
                                "UPDATE pellet_order SET kilos = kilos + 1 WHERE order_no = " + order,
                                1,
                                1,
                                ""),
                        new Step.WriteTag("feed", "", Bed.SET_POINT, "1", 0.1)),
                Answer.NONE,
                Bed.ONE_TRY.within(limit).atOnce(2).inTurn(true),
                List.of());
    }

    private static TransactionStatus status(Bed bed, String id) {
        return bed.transactions.status(id).orElseThrow();
    }

    @ParameterizedTest
    @EnumSource
    void whoeverIsUnderWayAtItIsWaitedForAndNobodyElse(Engine engine) throws Exception {
        Bed.fresh(engine);
        try (Bed bed = new Bed(engine, folder);
                Connection other = DriverManager.getConnection(engine.url("orders"));
                Statement lock = other.createStatement()) {
            other.setAutoCommit(false);
            Duration limit = Bed.NO_HURRY;
            bed.transactions.changeover(
                    List.of(
                            moves("cccc0001", "Lot ends", LINE1, 26041, limit),
                            moves("cccc0002", "Set up", LINE1, 26042, limit),
                            moves("cccc0003", "Elsewhere", LINE2, 26042, limit)),
                    plant(bed, Map.of()));
            lock.executeUpdate("UPDATE pellet_order SET line = 'PL9' WHERE order_no = 26041");
            bed.transactions.byHand("cccc0001", "somebody", Map.of());
            soon(() -> status(bed, "cccc0001").running() == 1);
            bed.transactions.byHand("cccc0002", "somebody", Map.of());
            soon(() ->
                    status(bed, "cccc0002").sentence().equals("Waits its turn at PL1: Lot ends is under way there."));
            bed.transactions.byHand("cccc0003", "somebody", Map.of());
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).name()).isEqualTo("Elsewhere");
            assertThat(status(bed, "cccc0002").waiting()).isEqualTo(1);
            assertThat(status(bed, "cccc0002").state().words()).isNotEqualTo("Faulted");
            other.rollback();
            soon(() -> bed.runs.size() == 3);
            assertThat(bed.runs).extracting(Run::name).containsExactly("Elsewhere", "Lot ends", "Set up");
            assertThat(bed.runs).allMatch(run -> run.outcome() == Run.Outcome.DONE);
            assertThat(status(bed, "cccc0002").sentence()).isEmpty();
        }
    }

    /** Who waits for others has no more room than who waits for itself. */
    @Test
    void noMoreWaitForOthersThanMayWait() throws Exception {
        Bed.fresh(Engine.MARIADB);
        try (Bed bed = new Bed(Engine.MARIADB, folder);
                Connection other = DriverManager.getConnection(Engine.MARIADB.url("orders"));
                Statement lock = other.createStatement()) {
            other.setAutoCommit(false);
            Duration limit = Bed.NO_HURRY;
            TransactionDefinition few = moves("cccc0002", "Set up", LINE1, 26042, limit);
            few = few.withPolicy(Bed.ONE_TRY.within(limit).atOnce(2).queuing(3).inTurn(true), List.of());
            bed.transactions.changeover(
                    List.of(moves("cccc0001", "Lot ends", LINE1, 26041, limit), few), plant(bed, Map.of()));
            lock.executeUpdate("UPDATE pellet_order SET line = 'PL9' WHERE order_no = 26041");
            bed.transactions.byHand("cccc0001", "somebody", Map.of());
            soon(() -> status(bed, "cccc0001").running() == 1);
            for (int nth = 0; nth < 5; nth++) {
                bed.transactions.byHand("cccc0002", "somebody", Map.of());
            }
            assertThat(status(bed, "cccc0002").waiting()).isEqualTo(3);
            assertThat(bed.runs)
                    .extracting(run -> run.outcome() + " " + run.reason())
                    .hasSize(2)
                    .containsOnly("DROPPED It was not begun: 3 triggers wait already.");
            other.rollback();
            soon(() -> bed.runs.size() == 6);
            assertThat(bed.ask("SELECT kilos FROM pellet_order ORDER BY order_no"))
                    .containsExactly("1.00", "3.00");
        }
    }

    /** One that hangs is given up at its limit; then it is the next one's turn. */
    @Test
    void oneThatHangsHoldsUpTheOthersNoLongerThanItsLimit() throws Exception {
        Bed.fresh(Engine.MARIADB);
        try (Bed bed = new Bed(Engine.MARIADB, folder);
                Connection other = DriverManager.getConnection(Engine.MARIADB.url("orders"));
                Statement lock = other.createStatement()) {
            other.setAutoCommit(false);
            bed.transactions.changeover(
                    List.of(
                            moves("cccc0001", "Lot ends", LINE1, 26041, Duration.ofSeconds(1)),
                            moves("cccc0002", "Set up", LINE1, 26042, Bed.NO_HURRY)),
                    plant(bed, Map.of()));
            lock.executeUpdate("UPDATE pellet_order SET line = 'PL9' WHERE order_no = 26041");
            bed.transactions.byHand("cccc0001", "somebody", Map.of());
            soon(() -> status(bed, "cccc0001").running() == 1);
            bed.transactions.byHand("cccc0002", "somebody", Map.of());
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs)
                    .extracting(run -> run.name() + " " + run.outcome())
                    .containsExactly("Lot ends FAILED", "Set up DONE");
        }
    }

    /** However many come at once for however many transactions, at the equipment there is one; a change of the design loses no turn. */
    @Test
    void neverAreTwoUnderWayAtOnce() throws Exception {
        Bed.fresh(Engine.MARIADB);
        AtomicInteger under = new AtomicInteger();
        AtomicInteger most = new AtomicInteger();
        Bed.Controller slow = new Bed.Controller().until(tag -> {
            most.accumulateAndGet(under.incrementAndGet(), Math::max);
            LockSupport.parkNanos(2_000_000L);
            under.decrementAndGet();
        });
        try (Bed bed = new Bed(Engine.MARIADB, folder, slow, UnaryOperator.identity())) {
            Duration limit = Bed.NO_HURRY;
            List<TransactionDefinition> designs = List.of(
                    moves("cccc0001", "Lot ends", LINE1, 26041, limit),
                    moves("cccc0002", "Set up", LINE1, 26042, limit),
                    moves("cccc0003", "Shut down", LINE1, 26042, limit));
            bed.transactions.changeover(designs, plant(bed, Map.of()));
            for (int nth = 0; nth < 30; nth++) {
                for (TransactionDefinition each : designs) {
                    bed.transactions.byHand(each.id(), "somebody", Map.of());
                }
            }
            soon(() -> bed.runs.size() > 20);
            // Whoever waits when its design changes is let go, as ever; whoever is under way is waited for by the new
            // one.
            List<TransactionDefinition> changed =
                    List.of(designs.get(0), designs.get(1).withAbout("Set up anew", ""), designs.get(2));
            bed.transactions.changeover(changed, plant(bed, Map.of()));
            bed.transactions.byHand("cccc0002", "somebody", Map.of());
            soon(() -> bed.runs.size() == 91);
            assertThat(most.get()).isEqualTo(1);
            soon(() -> changed.stream()
                    .allMatch(each -> status(bed, each.id()).running() == 0
                            && status(bed, each.id()).waiting() == 0));
            long done = bed.runs.stream()
                    .filter(run -> run.outcome() == Run.Outcome.DONE)
                    .count();
            assertThat(bed.ask("SELECT CAST(SUM(kilos) AS DECIMAL(10)) FROM pellet_order"))
                    .containsExactly(Long.toString(done));
            assertThat(done).isGreaterThan(60);
        }
    }
}
