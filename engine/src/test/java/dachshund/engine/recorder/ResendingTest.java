package dachshund.engine.recorder;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.engine.EngineRig;
import dachshund.engine.local.SetAside;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Rows that were set aside are sent again once each, whatever happened when they were sent before. */
class ResendingTest extends EngineRig {

    private static final RecorderDefinition QUIET = recorder(
            "c0000007", new When.OnChange(Deadband.NONE, List.of(LEVEL), Duration.ZERO, Duration.ZERO), valueOf(LEVEL));
    private static final Instant MADE_FOR = Instant.parse("2026-11-26T06:00:00.250Z");

    @BeforeEach
    void running() {
        start(List.of(GOOD), RECORDS, QUIET);
        soon(() -> engine.recorders().find(QUIET.id()).isPresent());
    }

    private static RowId id(long sequence) {
        return new RowId("abcdef", QUIET.id(), 1, sequence, 0);
    }

    private SetAside aside(RowId id, String value) {
        engine.local()
                .aside()
                .keep(
                        QUIET.id(),
                        RECORDS.id(),
                        id.toString(),
                        MADE_FOR,
                        List.of("record_time", "row_id", "v"),
                        Arrays.asList(MADE_FOR.toString(), id.toString(), value),
                        "too hot",
                        Instant.now());
        return newest();
    }

    private SetAside newest() {
        return engine.local().aside().newest(QUIET.id(), 1).get(0);
    }

    private SetAside sentBefore(RowId id, RowId as) {
        engine.local().aside().sending(Map.of(aside(id, "7").id(), as.toString()));
        return newest();
    }

    private Resending.Outcome send(SetAside... rows) throws StoreProblem {
        return engine.resending()
                .send(
                        List.of(rows),
                        Map.of(),
                        engine.plant(List.of(RECORDS, QUIET)).facts(QUIET));
    }

    private long left() {
        return engine.local().aside().counts().getOrDefault(QUIET.id(), 0L);
    }

    @Test
    void aRowIsANewOneOfItsLaneAndLandsOnce() throws Exception {
        Resending.Outcome outcome = send(aside(id(5), "7.5"), aside(id(6), "8"));
        assertThat(outcome.sent()).isEqualTo(2);
        assertThat(left()).isZero();
        soon(() -> landed.size() == 2);
        assertThat(landed).extracting(Row::recordTime).containsOnly(MADE_FOR);
        assertThat(landed).extracting(Row::id).doesNotContain(id(5), id(6)).doesNotHaveDuplicates();
        assertThat(landed.get(0).cells()).contains(7.5);
    }

    @Test
    void whatDoesNotFitStaysWithItsReasonAndTheOthersGo() throws Exception {
        SetAside bad = aside(id(5), "hot");
        assertThat(send(bad, aside(id(6), "8")).refused()).hasSize(1);
        soon(() -> landed.size() == 1);
        assertThat(newest().reason()).contains("Column v is \"hot\"");
        // What somebody only typed is not what the row holds.
        assertThat(engine.resending()
                        .send(
                                List.of(bad),
                                Map.of(bad.id(), Map.of("v", "cold")),
                                engine.plant(List.of(RECORDS, QUIET)).facts(QUIET))
                        .refused())
                .containsKey("Column v is \"cold\", which is not a number.");
        assertThat(newest().reason()).contains("hot");
    }

    /** The application ended after the row was on disk and before it was let go of. */
    @Test
    void aRowThatLandedUnderTheIdItWasSentUnderIsOnlyLetGoOf() throws Exception {
        send(aside(id(5), "7"));
        soon(() -> landed.size() == 1);
        Resending.Outcome outcome = send(sentBefore(id(5), landed.get(0).id()));
        assertThat(outcome.there()).isEqualTo(1);
        assertThat(left()).isZero();
        assertThat(landed).hasSize(1);
    }

    @Test
    void aRowThatIsOnItsWayStillIsNotSentASecondTime() throws Exception {
        locked.set(true);
        send(aside(id(5), "7"));
        assertThat(left()).isZero();
        soon(() -> engine.writer(RECORDS.id())
                        .orElseThrow()
                        .held(QUIET.id(), 0, 10)
                        .get()
                        .size()
                == 1);
        RowId onItsWay = engine.writer(RECORDS.id())
                .orElseThrow()
                .held(QUIET.id(), 0, 10)
                .get()
                .get(0)
                .row()
                .orElseThrow()
                .id();
        SetAside again = sentBefore(id(5), onItsWay);
        assertThat(send(again).refused().keySet()).singleElement().asString().contains("may be on its way still");
        assertThat(left()).isEqualTo(1);
        locked.set(false);
        engine.lookAgain(RECORDS.id());
        soon(() -> landed.size() == 1);
        assertThat(send(again).there()).isEqualTo(1);
        assertThat(left()).isZero();
        assertThat(landed).hasSize(1);
    }

    @Test
    void aRowThatWasSetAsideAgainIsThereOnce() throws Exception {
        RowId second = id(900);
        SetAside old = sentBefore(id(5), second);
        aside(second, "7");
        assertThat(send(old).sent()).isZero();
        assertThat(engine.local().aside().newest(QUIET.id(), 10))
                .extracting(SetAside::rowId)
                .containsExactly(second.toString());
    }

    /** Noted, and then the application died before the row came to disk. */
    @Test
    void aRowThatWasNotedOnlyIsSent() throws Exception {
        assertThat(send(sentBefore(id(5), id(901))).sent()).isEqualTo(1);
        soon(() -> landed.size() == 1);
        assertThat(left()).isZero();
    }

    @Test
    void whileTheDestinationIsAwayNothingIsSentAndNothingIsGone() {
        SetAside row = aside(id(5), "7");
        away.set(true);
        assertThatThrownBy(() -> send(row)).isInstanceOf(StoreProblem.class);
        assertThat(left()).isEqualTo(1);
    }

    /** The step before it hangs: whoever sends is told so, and it is not sent behind their back later. */
    @Test
    void aRecorderThatHangsSendsNothingNowOrLater() throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        engine.recorders().find(QUIET.id()).orElseThrow().when().strand().submit(0, () -> {
            try {
                go.await();
            } catch (InterruptedException stopped) {
                Thread.currentThread().interrupt();
            }
        });
        SetAside row = aside(id(5), "7");
        assertThatThrownBy(() -> send(row)).hasMessageContaining("is busy");
        go.countDown();
        soon(() -> engine.recorders()
                        .find(QUIET.id())
                        .orElseThrow()
                        .when()
                        .strand()
                        .waiting()
                == 0);
        assertThat(landed).isEmpty();
        assertThat(left()).isEqualTo(1);
        assertThat(send(newest()).sent()).isEqualTo(1);
        soon(() -> landed.size() == 1);
    }

    @Test
    void manyRowsOfOnePageAllLandOnce() throws Exception {
        for (int n = 1; n <= 500; n++) {
            aside(id(n), Integer.toString(n));
        }
        List<SetAside> all = engine.local().aside().page(QUIET.id(), RECORDS.id(), "too hot", 0, 1000);
        assertThat(send(all.toArray(SetAside[]::new)).sent()).isEqualTo(500);
        soon(() -> landed.size() == 500);
        assertThat(landed).extracting(Row::id).doesNotHaveDuplicates();
        assertThat(left()).isZero();
    }
}
