package dachshund.office.transaction;

import static dachshund.office.transaction.Bed.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.destination.StoreProblem;
import dachshund.core.ledger.Run;
import dachshund.core.ledger.Run.Outcome;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.transaction.PastValues;
import dachshund.office.transaction.Bed.Engine;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Runs that go on where the last one ended: what is between two of them is in one of them. */
class TransactionPastTest {

    private static final Duration FAR = Duration.ofDays(1);

    @TempDir
    Path folder;

    /** Of every time it gives the milliseconds that it lasts: so sums show what was counted twice, or not at all. */
    private static PastValues lasting() {
        return new PastValues() {
            @Override
            public Object computed(TagRef tag, Calculation what, Instant from, Instant to) {
                return (double) Duration.between(from, to).toNanos() / 1e6;
            }

            @Override
            public Optional<Held> held(TagRef tag, Instant at, boolean before, Duration most) {
                return Optional.empty();
            }
        };
    }

    private static Gathered over(Over.Since since, Duration longest, Gathered.WhenBad bad) {
        return new Gathered(
                "ms",
                Bed.KILOS,
                bad,
                Optional.of(new Over(
                        since, longest, Optional.of(Bed.LOT), new Calculation.OfPart13(Aggregate.TIME_AVERAGE))));
    }

    private static TransactionDefinition of(Gathered gathered) {
        return Bed.lotEnds()
                .withGathers(List.of(new Gathered("lot", Bed.LOT, Gathered.WhenBad.FAIL), gathered))
                .withSteps(List.of(new Step.Put(
                        "record",
                        "",
                        Step.Deed.INSERT,
                        "stretch",
                        List.of(
                                new Step.Cell("lot_id", "lot", false),
                                new Step.Cell("ms", "ms", false),
                                new Step.Cell("begun", "ms_since", false),
                                new Step.Cell("ended", "fired", false)),
                        1,
                        1,
                        "")))
                .withPolicy(Bed.lotEnds().policy(), List.of("lot"))
                .withAnswer(new dachshund.core.transaction.Answer(
                        Optional.of(Bed.CODE), Optional.of(Bed.TEXT), 1, 2, 3, "\"lot \" + lot"));
    }

    private static void fresh(Engine engine) throws Exception {
        Bed.fresh(engine);
        Bed.sql(engine, "orders", "DROP TABLE IF EXISTS stretch");
        String stamp = engine == Engine.MARIADB ? "DATETIME(6)" : "TIMESTAMP(6)";
        Bed.sql(
                engine,
                "orders",
                "CREATE TABLE stretch (lot_id VARCHAR(20) NOT NULL PRIMARY KEY, ms DECIMAL(20,3), begun " + stamp
                        + ", ended " + stamp + ")");
    }

    private Bed bed(Engine engine, Bed.Controller controller, Path own, Dying dying) {
        Bed bed = dying == null
                ? new Bed(engine, own, controller, UnaryOperator.identity())
                : dying.bed(engine, own, controller);
        bed.transactions.askIn(lasting());
        return bed;
    }

    /** The first goes as far back as it may, each other begins where the one before has ended. */
    private static void follow(Bed bed) throws Exception {
        List<String> begun = bed.ask("SELECT begun FROM stretch ORDER BY ended");
        List<String> ended = bed.ask("SELECT ended FROM stretch ORDER BY ended");
        assertThat(begun.subList(1, begun.size())).isEqualTo(ended.subList(0, ended.size() - 1));
    }

    @ParameterizedTest
    @EnumSource
    void eachGoesOnWhereTheLastOneThatIsDoneEnded(Engine engine) throws Exception {
        fresh(engine);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.set(Bed.NUMBER, 0L);
        TransactionDefinition design = of(over(Over.Since.LAST_RUN, FAR, Gathered.WhenBad.FAIL));
        try (Bed bed = bed(engine, controller, folder, null)) {
            bed.live(design);
            for (int i = 1; i <= 3; i++) {
                controller.asks(i, "L" + i, 1);
                int number = i;
                soon(() -> bed.runs.size() == number);
            }
            // One that fails takes nothing away from the next.
            controller.asks(4, "L3", 1);
            soon(() -> bed.runs.size() == 4);
            assertThat(bed.runs.get(3).outcome()).isEqualTo(Outcome.FAILED);
            controller.asks(5, "L5", 1);
            soon(() -> bed.runs.size() == 5);
            assertThat(bed.runs.get(0).snapshot()).containsKeys("lot", "ms", "ms_since");
        }
        try (Bed again = bed(engine, controller, folder, null)) {
            again.live(design);
            controller.asks(6, "L6", 1);
            soon(() -> again.runs.stream().anyMatch(run -> run.request().endsWith("/6")));
            assertThat(again.ask("SELECT lot_id FROM stretch ORDER BY ended"))
                    .containsExactly("L1", "L2", "L3", "L5", "L6");
            follow(again);
            // A try says what the next one would take, and leaves where the last one ended.
            assertThat(again.tried(design, again.plant, Map.of()).snapshot()).containsKeys("ms", "ms_since");
            controller.asks(7, "L7", 1);
            soon(() -> again.ask("SELECT lot_id FROM stretch").size() == 6);
            follow(again);
        }
    }

    @ParameterizedTest
    @EnumSource
    void killedAnywhereNothingIsCountedTwiceAndNothingIsLeftOut(Engine engine) throws Exception {
        boolean survived = false;
        TransactionDefinition design = of(over(Over.Since.LAST_RUN, FAR, Gathered.WhenBad.FAIL));
        for (int at = 1; !survived; at++) {
            fresh(engine);
            Dying dying = new Dying(at);
            Bed.Controller controller = new Bed.Controller();
            controller.set(Bed.ECHO, 0L);
            controller.set(Bed.NUMBER, 0L);
            Path own = folder.resolve("at" + at);
            try (Bed first = bed(engine, controller, own, null)) {
                first.live(design);
                controller.asks(1, "L1", 1);
                soon(() -> first.runs.size() == 1);
            }
            controller.asks(2, "L2", 1);
            try (Bed dies = bed(engine, controller, own, dying)) {
                dies.live(design);
                soon(() -> dying.dead() || dies.runs.size() == 1);
            }
            survived = !dying.dead();
            try (Bed again = bed(engine, controller, own, null)) {
                again.live(design);
                soon(() -> Long.valueOf(2).equals(controller.get(Bed.ECHO)));
                controller.asks(3, "L3", 1);
                soon(() -> Long.valueOf(3).equals(controller.get(Bed.ECHO)));
                assertThat(again.ask("SELECT lot_id FROM stretch ORDER BY ended"))
                        .as("killed at " + at)
                        .containsExactly("L1", "L2", "L3");
                follow(again);
            }
            assertThat(at).isLessThan(40);
        }
    }

    @Test
    void whereNothingIsKnownItFailsOrIsNothingAsTheDesignSays() throws Exception {
        fresh(Engine.MARIADB);
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.set(Bed.NUMBER, 0L);
        try (Bed bed = bed(Engine.MARIADB, controller, folder, null)) {
            bed.live(of(over(Over.Since.SAME, FAR, Gathered.WhenBad.FAIL)));
            controller.asks(1, "L1", 1);
            soon(() -> bed.runs.size() == 1);
            assertThat(bed.runs.get(0).reason())
                    .isEqualTo("ms has no value: the tag that says when its time began has no value.");
            bed.live(of(over(Over.Since.BEFORE, FAR, Gathered.WhenBad.NOTHING)));
            controller.asks(2, "L2", 1);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).outcome()).isEqualTo(Outcome.DONE);
            assertThat(bed.ask("SELECT lot_id, ms FROM stretch")).containsExactly("L2 null");
            bed.live(of(over(Over.Since.SHIFT, FAR, Gathered.WhenBad.FAIL)));
            controller.asks(3, "L3", 1);
            soon(() -> bed.runs.size() == 3);
            assertThat(bed.runs.get(2).reason()).endsWith("no shift is worked at this instant.");
        }
    }

    /** The archive throws, is away, and is there again. */
    @Test
    void anArchiveThatIsAwayIsToldAndTriedAgain() throws Exception {
        fresh(Engine.MARIADB);
        AtomicBoolean away = new AtomicBoolean(true);
        AtomicBoolean breaks = new AtomicBoolean();
        Bed.Controller controller = new Bed.Controller();
        controller.set(Bed.ECHO, 0L);
        controller.set(Bed.NUMBER, 0L);
        try (Bed bed = new Bed(Engine.MARIADB, folder, controller, UnaryOperator.identity())) {
            bed.live(of(over(Over.Since.LENGTH, Duration.ofSeconds(10), Gathered.WhenBad.FAIL)));
            controller.asks(1, "L1", 1);
            soon(() -> bed.runs.size() == 1);
            Run run = bed.runs.get(0);
            assertThat(run.reason()).isEqualTo("The archive cannot be asked yet.");
            assertThat(run.tries()).isEqualTo(4);
            PastValues lasting = lasting();
            bed.transactions.askIn(new PastValues() {
                @Override
                public Object computed(TagRef tag, Calculation what, Instant from, Instant to) throws StoreProblem {
                    if (breaks.get()) {
                        throw new IllegalStateException("odd");
                    }
                    if (away.getAndSet(false)) {
                        throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "Away.", null);
                    }
                    return lasting.computed(tag, what, from, to);
                }

                @Override
                public Optional<Held> held(TagRef tag, Instant at, boolean before, Duration most) {
                    return Optional.empty();
                }
            });
            controller.asks(2, "L2", 1);
            soon(() -> bed.runs.size() == 2);
            assertThat(bed.runs.get(1).outcome()).isEqualTo(Outcome.DONE);
            assertThat(bed.runs.get(1).tries()).isEqualTo(2);
            assertThat(bed.ask("SELECT lot_id, ms FROM stretch")).containsExactly("L2 10000.000");
            breaks.set(true);
            controller.asks(3, "L3", 1);
            soon(() -> bed.runs.size() == 3);
            assertThat(bed.runs.get(2).outcome()).isEqualTo(Outcome.FAILED);
            assertThat(bed.runs.get(2).reason()).contains("odd");
            breaks.set(false);
            controller.asks(4, "L4", 1);
            soon(() -> bed.runs.size() == 4);
            assertThat(bed.runs.get(3).outcome()).isEqualTo(Outcome.DONE);
        }
    }
}
