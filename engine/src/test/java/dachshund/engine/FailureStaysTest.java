package dachshund.engine;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.engine.lane.LaneState;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.LongStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** One definition, link, formula or When throws or hangs: every other one goes on at its pace, and the one says so. */
class FailureStaysTest extends EngineRig {

    @Test
    void definitionsThatCannotBeBuiltAreRefusedWithASentenceAndTheOthersRun() {
        LinkKind throwing = kind("throwing", link);
        when(throwing.open(any())).thenThrow(new NumberFormatException("For input string: \"abc\""));
        kinds.add(throwing);
        SourceDefinition unknown = source("a0000002", "no such kind");
        SourceDefinition broken = source("a0000003", "throwing");
        DestinationDefinition nowhere = new DestinationDefinition("b0000002", "Nowhere", "", "no such store", Map.of());
        DestinationDefinition odd =
                new DestinationDefinition("b0000003", "Odd", "", "good", Map.of("batchRows", "abc"));
        RecorderDefinition lost = recorder("c0000002", new When.Every(Duration.ofMillis(50)), valueOf(LEVEL))
                .withWheres(List.of(new Where("b0000002", "t", Upkeep.NONE, false)));
        start(List.of(unknown, broken, GOOD), nowhere, odd, RECORDS, lost, EVERY);
        goesOn(EVERY);
        assertThat(engine.refused("a0000002")).contains("cannot be put to work").contains("no such kind");
        assertThat(engine.refused("a0000003")).contains("abc");
        assertThat(engine.refused("b0000002")).contains("no such store");
        assertThat(engine.refused("b0000003")).contains("abc");
        assertThat(engine.status().get(lost.id()).state()).isEqualTo(LaneState.FAULTED);
        assertThat(engine.status().get(lost.id()).sentence()).contains("a destination that is not there");
        assertThat(engine.sources().find("a0000003").orElseThrow().status().sentence())
                .contains("abc");
        // A later edit is taken all the same, and what is mended comes to work.
        changeover(List.of(source("a0000003", "good"), GOOD), RECORDS, EVERY);
        assertThat(engine.refused("a0000003")).isEmpty();
        goesOn(EVERY);
    }

    /** As when the key is gone that its password was sealed with. */
    @Test
    void rowsForADestinationThatCannotBeOpenedAreHeldAndLandWhenItCan() {
        AtomicBoolean lost = new AtomicBoolean(true);
        doAnswer(call -> {
                    Map<String, String> settings = call.getArgument(0);
                    if (settings.containsKey("is") && lost.get()) {
                        throw new IllegalStateException("The key file is gone");
                    }
                    return settings.containsKey("is") ? store(landedInSecond, secondAway) : store(landed, away);
                })
                .when(storeKind)
                .open(any(), any());
        RecorderDefinition held = recorder("c0000002", new When.Every(Duration.ofMillis(50)), valueOf(LEVEL))
                .withWheres(List.of(new Where("b0000009", "t", new Upkeep(true, true), false)));
        start(List.of(GOOD), RECORDS, SECOND, EVERY, held);
        goesOn(EVERY);
        soon(() -> engine.status().get(held.id()).state() == LaneState.HOLDING);
        soon(() -> engine.status().get(held.id()).lanes().get(0).waiting() > 10);
        assertThat(engine.refused(SECOND.id())).contains("The key file is gone");
        assertThat(engine.status().get(held.id()).sentence())
                .contains("The key file is gone")
                .contains("safe on disk");
        lost.set(false);
        changeover(List.of(GOOD), RECORDS, SECOND, EVERY, held);
        assertThat(engine.refused(SECOND.id())).isEmpty();
        engine.lookAgain(SECOND.id());
        soon(() -> landedInSecond.size() > 20);
        assertThat(List.copyOf(landedInSecond).stream()
                        .map(row -> row.id().sequence())
                        .limit(20))
                .containsExactlyElementsOf(
                        java.util.stream.LongStream.rangeClosed(1, 20).boxed().toList());
    }

    @Test
    void aLinkThatHangsOrThrowsAnywhereHoldsUpNobody() throws Exception {
        CountDownLatch never = new CountDownLatch(1);
        PlantLink hanging = mock(PlantLink.class);
        doAnswer(call -> {
                    never.await();
                    return null;
                })
                .when(hanging)
                .want(any());
        doAnswer(call -> {
                    never.await();
                    return null;
                })
                .when(hanging)
                .close();
        when(hanging.health()).thenAnswer(call -> {
            never.await();
            return null;
        });
        when(hanging.read(any(), any())).thenAnswer(call -> {
            never.await();
            return null;
        });
        PlantLink throwing = mock(PlantLink.class);
        doThrow(new StackOverflowError()).when(throwing).start(any(), any());
        kinds.add(kind("hanging", hanging));
        kinds.add(kind("throwing", throwing));
        start(List.of(source("a0000004", "hanging"), source("a0000005", "throwing"), GOOD), RECORDS, EVERY);
        goesOn(EVERY);
        long from = System.nanoTime();
        assertThat(engine.sources().find("a0000004").orElseThrow().health()).isNotNull();
        org.assertj.core.api.Assertions.assertThatThrownBy(() -> engine.sources()
                        .find("a0000004")
                        .orElseThrow()
                        .link()
                        .orElseThrow()
                        .read(List.of(), Duration.ofMillis(100)))
                .isInstanceOf(LinkProblem.class)
                .hasMessageContaining("did not answer within");
        changeover(List.of(source("a0000005", "throwing"), GOOD), RECORDS, EVERY); // closing it hangs, too
        assertThat(Duration.ofNanos(System.nanoTime() - from)).isLessThan(Duration.ofSeconds(60));
        soon(() -> engine.sources().find("a0000005").orElseThrow().status().state() == LinkState.AWAY);
        assertThat(engine.sources().find("a0000005").orElseThrow().status().sentence())
                .contains("StackOverflowError");
        goesOn(EVERY);
        never.countDown();
    }

    @Test
    void aLateNotificationDoesNotMakeAPausedSourcesTagsGood() {
        start(List.of(GOOD), RECORDS, EVERY);
        var run = engine.sources().find("a0000001").orElseThrow();
        run.onBatch(List.of(new TagChange("level", TagValue.good(1.0, Instant.now()))));
        assertThat(engine.tags().entry(LEVEL).value().quality().isGood()).isTrue();
        engine.sources().pause("a0000001", "engineer", "");
        run.onBatch(List.of(new TagChange("level", TagValue.good(2.0, Instant.now()))));
        run.onState(LinkState.CONNECTED, "Connected.");
        assertThat(engine.tags().entry(LEVEL).value().quality().isBad()).isTrue();
    }

    @Test
    void aFormulaThatThrowsInAColumnOrAWhenIsABadValueOrAStateOfItsRecorderAlone() {
        Map<String, TagRef> input = Map.of("t", LEVEL);
        RecorderDefinition inColumn = recorder(
                "c0000003",
                new When.Every(Duration.ofMillis(50)),
                Column.of("v", SqlType.text(20), new ColumnSource.FromFormula("middle(t, 5, 9)", input)));
        RecorderDefinition inWhen = recorder(
                "c0000004",
                new When.OnCondition(
                        new dachshund.core.when.Condition("middle(t, 5, 9) = \"x\"", input),
                        When.Edge.RISING,
                        Duration.ZERO,
                        Duration.ZERO),
                valueOf(LEVEL));
        RecorderDefinition onChange = recorder(
                "c0000005",
                new When.OnChange(Deadband.NONE, List.of(LEVEL), Duration.ZERO, Duration.ZERO),
                Column.of("v", SqlType.text(20), new ColumnSource.FromTag(LEVEL, ColumnSource.Aspect.VALUE)));
        start(List.of(GOOD), RECORDS, inColumn, inWhen, onChange);
        offer("a0000001", "first");
        for (int i = 0; i < 50; i++) {
            offer("a0000001", "x" + i);
        }
        soon(() -> rowsOf(onChange) == 51 || rowsOf(onChange) == 50);
        goesOn(inColumn);
        assertThat(engine.status().get(inColumn.id()).state()).isEqualTo(LaneState.RECORDING);
    }

    @Test
    void aRecorderThatWatchesATagAndAFormulaOfItMakesOneWholeRowOfABatch() {
        SourceDefinition formulas = new SourceDefinition(
                "a0000009",
                "Formulas",
                "",
                "formula",
                Map.of(),
                Duration.ofSeconds(1),
                List.of(new TagInfo("double", "", "Double", DataKind.NUMBER, "", "", false)
                        .withHow(Map.of("formula", "t * 2", "inputs", "t=a0000001 level"))));
        TagRef twice = new TagRef("a0000009", "double");
        RecorderDefinition both = recorder(
                "c0000006",
                new When.OnChange(Deadband.NONE, List.of(LEVEL, twice), Duration.ZERO, Duration.ZERO),
                valueOf(LEVEL));
        both = both.withLayout(both.layout()
                .plus(Column.of("twice", SqlType.DOUBLE, new ColumnSource.FromTag(twice, ColumnSource.Aspect.VALUE))));
        RecorderDefinition recorder = both;
        start(List.of(GOOD, formulas), RECORDS, recorder);
        for (int i = 1; i <= 200; i++) {
            offer("a0000001", (double) i);
        }
        // The first value is not a change.
        soon(() -> rowsOf(recorder) >= 199);
        assertThat(List.copyOf(landed)).hasSizeBetween(199, 200).allSatisfy(row -> {
            assertThat((Double) row.cells()[3]).isEqualTo(2 * (Double) row.cells()[2]);
        });
    }

    /** A stop in the middle of changes, with one of two destinations away: what landed in one lands in the other, and nothing is uncounted. */
    @Test
    void theAccountAddsUpAcrossAStopWithOneDestinationHeld() throws Exception {
        RecorderDefinition both = recorder(
                        "c0000007",
                        new When.OnChange(Deadband.NONE, List.of(LEVEL), Duration.ZERO, Duration.ZERO),
                        valueOf(LEVEL))
                .withWheres(List.of(
                        new Where("b0000001", "t", new Upkeep(true, true), false),
                        new Where("b0000009", "t", new Upkeep(true, true), false)));
        start(List.of(GOOD), RECORDS, SECOND, both);
        offer("a0000001", 0.0);
        offer("a0000001", 1.0);
        soon(() -> landed.size() == 1 && landedInSecond.size() == 1);
        secondAway.set(true);
        AtomicBoolean stopped = new AtomicBoolean();
        Thread plant = new Thread(() -> {
            for (int i = 2; !stopped.get(); i++) {
                offer("a0000001", (double) i);
            }
        });
        plant.start();
        soon(() -> landed.size() > 2000);
        engine.close();
        stopped.set(true);
        plant.join();
        secondAway.set(false);
        start(List.of(GOOD), RECORDS, SECOND, both);
        soon(() -> engine.status().get(both.id()).lanes().stream()
                .allMatch(
                        lane -> lane.account().waiting() == 0 && lane.account().offered() > 2000));
        assertThat(engine.status().get(both.id()).lanes()).allSatisfy(lane -> {
            assertThat(lane.account().difference()).as("%s", lane.account()).isZero();
            assertThat(lane.account().lost()).isZero();
        });
        List<RowId> first = landed.stream().map(Row::id).sorted().toList();
        assertThat(landedInSecond.stream().map(Row::id).sorted().toList())
                .as("in both, each once")
                .isEqualTo(first)
                .doesNotHaveDuplicates()
                .hasSizeGreaterThan(2000);
        assertThat(first.stream().map(RowId::sequence).toList())
                .as("none in between is missing")
                .isEqualTo(LongStream.rangeClosed(1, first.size()).boxed().toList());
    }

    /** Decided once for a row: it goes to the first destination or to its standby, never to both or neither. */
    @Test
    void whileADestinationComesAndGoesEachRowGoesToItOrToItsStandby() {
        RecorderDefinition twice = recorder("c0000008", new When.Every(Duration.ofMillis(20)), valueOf(LEVEL))
                .withWheres(List.of(
                        new Where("b0000001", "t", new Upkeep(true, true), false),
                        new Where("b0000009", "t", new Upkeep(true, true), false, new WriteMode.Insert(), "b0000001")));
        start(List.of(GOOD), RECORDS, SECOND, twice);
        goesOn(twice);
        for (int i = 0; i < 3; i++) {
            away.set(true);
            int before = landedInSecond.size();
            soon(() -> landedInSecond.size() > before + 5);
            away.set(false);
            goesOn(twice);
        }
        engine.recorders().stop(twice.id(), "test", "counting");
        soon(() -> engine.status().get(twice.id()).lanes().stream()
                .allMatch(lane -> lane.account().waiting() == 0));
        List<Long> all = Stream.concat(landed.stream(), landedInSecond.stream())
                .map(row -> row.id().sequence())
                .sorted()
                .toList();
        assertThat(all).isEqualTo(LongStream.rangeClosed(1, all.size()).boxed().toList());
    }

    /** Nothing in the plant changes because we stop: no row says so, also not one that lands after the next start. */
    @Test
    void aStopIsNoChangeOfATag() {
        RecorderDefinition changes = recorder(
                "c0000009",
                new When.OnChange(Deadband.NONE, List.of(LEVEL), Duration.ZERO, Duration.ZERO),
                valueOf(LEVEL));
        for (int life = 0; life < 3; life++) {
            start(List.of(GOOD), RECORDS, changes);
            double value = life * 10;
            offer(GOOD.id(), value);
            offer(GOOD.id(), value + 1);
            soon(() -> cells(changes).contains(value + 1));
            engine.close();
        }
        start(List.of(GOOD), RECORDS, changes);
        offer(GOOD.id(), 100.0);
        offer(GOOD.id(), 101.0);
        soon(() -> cells(changes).contains(101.0));
        assertThat(cells(changes)).doesNotContainNull();
    }

    private List<Object> cells(RecorderDefinition recorder) {
        return List.copyOf(landed).stream()
                .filter(row -> row.id().recorder().equals(recorder.id()))
                .map(row -> row.cells()[row.cells().length - 1])
                .toList();
    }
}
